-- +goose Up
-- What was posted of each label, kept beside the traces as balances are kept beside
-- the lines: by entry, account, group of employees and the binding that led there.
-- A change of a mapping asks what it would move, and need not walk the rows. Only
-- the trigger writes here.

create table posted_part (
  ledger_id bigint not null,
  entry_id bigint not null,
  label_id bigint not null,
  account_id bigint not null,
  grp text not null default '',
  binding_id bigint not null default 0, -- the first one of the trace; 0 is none
  parts int not null,                   -- how many traces
  amount bigint not null,               -- minor units, debit positive
  primary key (ledger_id, label_id, entry_id, account_id, grp, binding_id)
);
alter table posted_part enable row level security;
create policy of_ledger on posted_part using (ledger_id = nullif(current_setting('app.ledger_id', true), '')::bigint);

-- Every trace points at a line and a fact of its ledger, and is counted; both are
-- walked once, as a set.
-- +goose StatementBegin
create function trace_posted() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
declare
  no_line bigint;
  no_fact bigint;
begin
  -- Executed as text, so that it is planned for as many rows as there are now.
  execute $q$with x as materialized (
    select n.ledger_id, n.entry_id, n.amount, coalesce(n.bindings[1], 0) as binding_id, f.id as fact_id, f.label_id, coalesce(f.dims->>'group', '') as grp, l.account_id
      from new_rows n
      left join fact f on f.ledger_id = n.ledger_id and f.id = n.fact_id
      left join line l on l.ledger_id = n.ledger_id and l.entry_id = n.entry_id and l.no = n.no
  ), kept as (
    insert into posted_part as p (ledger_id, entry_id, label_id, account_id, grp, binding_id, parts, amount)
      select ledger_id, entry_id, label_id, account_id, grp, binding_id, count(*), sum(amount) from x where fact_id is not null and account_id is not null group by 1, 2, 3, 4, 5, 6
      on conflict (ledger_id, label_id, entry_id, account_id, grp, binding_id) do update set parts = p.parts + excluded.parts, amount = p.amount + excluded.amount
  )
  select count(*) filter (where account_id is null), count(*) filter (where fact_id is null) from x$q$ into no_line, no_fact;
  if no_line + no_fact > 0 then
    raise exception 'trace points at % lines and % facts which are not in this ledger', no_line, no_fact using errcode = '23503';
  end if;
  return null;
end $$;
-- +goose StatementEnd

-- What rows point at is counted, not searched for: looking for the first one that is
-- missing walks row by row, since the planner expects to find one at once.
-- +goose StatementBegin
create or replace function refs_hold() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
declare
  i int := 0;
  missing bigint;
begin
  while i < tg_nargs loop -- pairs of a column and the table it points into
    execute format('with d as materialized (select distinct ledger_id, %1$I as id from new_rows where %1$I is not null) select (select count(*) from d) - (select count(*) from d join %2$I p on p.ledger_id = d.ledger_id and p.id = d.id)', tg_argv[i], tg_argv[i + 1]) into missing;
    if missing <> 0 then
      raise exception '%.% points at % of % which are not in this ledger', tg_table_name, tg_argv[i], missing, tg_argv[i + 1] using errcode = '23503';
    end if;
    i := i + 2;
  end loop;
  return null;
end $$;
-- +goose StatementEnd
drop trigger trace_refs on trace;
drop trigger trace_lines on trace;
drop function trace_lines_hold();
create trigger trace_posted after insert on trace referencing new table as new_rows for each statement execute function trace_posted();

insert into posted_part (ledger_id, entry_id, label_id, account_id, grp, binding_id, parts, amount)
  select tr.ledger_id, tr.entry_id, f.label_id, l.account_id, coalesce(f.dims->>'group', ''), coalesce(tr.bindings[1], 0), count(*), sum(tr.amount)
    from trace tr join fact f on f.ledger_id = tr.ledger_id and f.id = tr.fact_id
    join line l on l.ledger_id = tr.ledger_id and l.entry_id = tr.entry_id and l.no = tr.no group by 1, 2, 3, 4, 5, 6;

-- An identity is compared byte by byte, and first: it tells two items apart at once.
drop index open_item_once;
alter table open_item alter column identity type text collate "C", alter column source type text collate "C", alter column side type text collate "C";
create unique index open_item_once on open_item (ledger_id, identity, side, source) where ended_by is null;
-- What a row of a list of items says beside its party and amount, as one figure: a
-- corrected list is held against what is posted by it. Rows of before have none and
-- are compared word by word.
alter table fact add column mark bigint;
alter table open_item add column mark bigint;

drop index paid_line_key;
alter table paid_line alter column head type text collate "C", alter column source type text collate "C", alter column ref type text collate "C", alter column undoes type text collate "C", alter column undoes_head type text collate "C";
create unique index paid_line_key on paid_line (ledger_id, head, no, source, prior);

-- A bank may take several draws in one line: each is a part of it.
drop index pay_draw_line;
create index pay_draw_line on pay_draw (ledger_id, batch_id, record) where batch_id is not null and removed_at is null;

-- +goose StatementBegin
create or replace function know_table(name text) returns void language plpgsql security definer set search_path = public, pg_temp as $$
begin
  if name not in ('fact', 'line', 'trace', 'open_item', 'paid_line', 'label', 'posted_part') then
    raise exception 'no such table to know: %', name;
  end if;
  execute format('analyze %I', name);
end $$;
-- +goose StatementEnd

-- +goose Down
select 1;
