-- +goose Up
-- Lines, too, are never changed and are written and read an entry at a time: up to some
-- hundred of them are one row, a column an array, and what is alike in it is said once. The
-- view line shows them one by one. Which entries are on an account, with what, is kept beside
-- them as balances are.

create table line_block (
  ledger_id bigint not null,
  entry_id bigint not null,
  first_no int not null check (first_no > 0), -- the lines of a block have numbers one after the other
  n int not null check (n between 1 and 512),
  account_id bigint[] not null,
  amount bigint[] not null,                   -- minor units, debit positive
  party text[] not null,
  memo text[] not null,
  tags jsonb not null default '[]',           -- the different ones of the block
  tag int[] not null default '{1048576}',     -- which of them, from 0; one that is not there is none
  primary key (ledger_id, entry_id, first_no),
  check (cardinality(amount) = n and cardinality(account_id) in (1, n) and cardinality(party) in (1, n) and cardinality(memo) in (1, n) and cardinality(tag) in (1, n))
) with (toast_tuple_target = 8160);
alter table line_block alter account_id set statistics 0, alter amount set statistics 0, alter party set statistics 0, alter memo set statistics 0, alter tags set statistics 0, alter tag set statistics 0;

create table entry_account (
  ledger_id bigint not null,
  account_id bigint not null,
  entry_id bigint not null,
  lines int not null,
  debit bigint not null,  -- minor units, both positive
  credit bigint not null,
  primary key (ledger_id, account_id, entry_id)
);

insert into line_block (ledger_id, entry_id, first_no, n, account_id, amount, party, memo, tags, tag)
  select ledger_id, entry_id, min(no), count(*), case when min(account_id) = max(account_id) then array[min(account_id)] else array_agg(account_id order by no) end, array_agg(amount order by no),
    case when min(party) = max(party) then array[min(party)] else array_agg(party order by no) end, case when min(memo) = max(memo) then array[min(memo)] else array_agg(memo order by no) end,
    case when bool_and(tags = '{}') then '[]' else jsonb_agg(tags order by no) end, case when bool_and(tags = '{}') then '{1048576}' else array_agg(((no - 1) % 32)::int order by no) end
    from line group by ledger_id, entry_id, (no - 1) / 32;
insert into entry_account (ledger_id, account_id, entry_id, lines, debit, credit)
  select ledger_id, account_id, entry_id, count(*), coalesce(sum(amount) filter (where amount > 0), 0), coalesce(-sum(amount) filter (where amount < 0), 0) from line group by 1, 2, 3;

-- +goose StatementBegin
do $$
declare c record;
begin
  for c in select conrelid::regclass as of, conname from pg_constraint where contype = 'f' and confrelid = 'line'::regclass loop
    execute format('alter table %s drop constraint %I', c.of, c.conname);
  end loop;
end $$;
-- +goose StatementEnd
drop table line;
alter table entry add foreign key (ledger_id, id, first_line) references line_block (ledger_id, entry_id, first_no) deferrable initially deferred;

create view line with (security_invoker = true) as
  select b.ledger_id, b.entry_id, b.first_no + u.i::int - 1 as no, coalesce(u.account_id, b.account_id[1]) as account_id, u.amount, coalesce(u.party, b.party[1]) as party,
      coalesce(b.tags -> coalesce(u.tag, b.tag[1]), '{}') as tags, coalesce(u.memo, b.memo[1]) as memo
    from line_block b cross join lateral unnest(b.account_id, b.amount, b.party, b.tag, b.memo) with ordinality u(account_id, amount, party, tag, memo, i);

-- +goose StatementBegin
do $$
declare t text;
begin
  foreach t in array array['line_block', 'entry_account'] loop
    execute format('alter table %I enable row level security', t);
    execute format('create policy of_ledger on %I using (ledger_id = (select nullif(current_setting(''app.ledger_id'', true), '''')::bigint))', t);
  end loop;
end $$;
-- +goose StatementEnd
create trigger line_block_kept before update or delete on line_block for each statement execute function posted_is_posted();
create trigger line_block_kept_whole before truncate on line_block for each statement execute function posted_is_posted();

-- +goose StatementBegin
create or replace function line_posted() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
declare r record;
begin
  -- Executed as text, so that it is planned for as many lines as there are now.
  execute $q$with s as materialized (
      select ledger_id, entry_id, account_id, count(*) as n, sum(amount) as amount, coalesce(sum(amount) filter (where amount > 0), 0) as debit, coalesce(-sum(amount) filter (where amount < 0), 0) as credit
        from (select b.ledger_id, b.entry_id, coalesce(u.account_id, b.account_id[1]) as account_id, u.amount from new_lines b cross join lateral unnest(b.account_id, b.amount) u(account_id, amount) offset 0) l group by 1, 2, 3
    ), kept as (
      insert into balance as b (ledger_id, account_id, month, debit, credit)
        select s.ledger_id, s.account_id, date_trunc('month', e.day)::date, sum(s.debit), sum(s.credit)
          from s join entry e on e.ledger_id = s.ledger_id and e.id = s.entry_id join account a on a.ledger_id = s.ledger_id and a.id = s.account_id
         group by 1, 2, 3 order by 1, 2, 3
      on conflict (ledger_id, account_id, month) do update set debit = b.debit + excluded.debit, credit = b.credit + excluded.credit
    ), beside as (
      insert into entry_account (ledger_id, account_id, entry_id, lines, debit, credit) select ledger_id, account_id, entry_id, n, debit, credit from s on conflict do nothing -- of an entry that is there: refused below
    )
    select coalesce((select entry_id from s group by ledger_id, entry_id having sum(amount) <> 0 limit 1),
        -- each block begins where the one before it ends, the first at 1
        (select entry_id from (select entry_id, first_no, 1 + coalesce(sum(n) over (partition by ledger_id, entry_id order by first_no rows between unbounded preceding and 1 preceding), 0) as begins from new_lines) w where first_no <> begins limit 1)) as bad,
      (select count(*) from (select distinct ledger_id, entry_id from s) d left join entry e on e.ledger_id = d.ledger_id and e.id = d.entry_id where e.id is null) as entries,
      (select count(*) from (select distinct ledger_id, account_id from s) d left join account a on a.ledger_id = d.ledger_id and a.id = d.account_id where a.id is null) as accounts$q$ into r;
  if r.bad is not null then
    raise exception 'entry % does not sum to zero, or its lines are not whole', r.bad using errcode = 'CT001';
  end if;
  if r.entries > 0 or r.accounts > 0 then
    raise exception 'lines point at % entries and % accounts which are not in this ledger', r.entries, r.accounts using errcode = '23503';
  end if;
  return null;
end $$;
-- +goose StatementEnd
create trigger line_posted after insert on line_block referencing new table as new_lines for each statement execute function line_posted();

-- +goose StatementBegin
create or replace function know_table(name text) returns void language plpgsql security definer set search_path = public, pg_temp as $$
begin
  if name not in ('fact_block', 'line_block', 'trace_block', 'open_item', 'paid_line', 'label', 'posted_part') then
    raise exception 'no such table to know: %', name;
  end if;
  execute format('analyze %I', name);
end $$;
-- +goose StatementEnd

-- Of a list each line is posted from a fact of its own, one after the other: such a range of
-- traces goes from line to line, where others stay on one.
alter table trace_block add column step int not null default 0 check (step in (0, 1));
create or replace view trace with (security_invoker = true) as
  select b.ledger_id, b.entry_id, b.first_no, coalesce(u.no, b.no[1] + (u.i::int - 1) * b.step) as no, coalesce(u.part, b.part[1] + (u.i::int - 1) * (1 - b.step)) as part, coalesce(u.fact_id, b.fact_id[1] + u.i - 1) as fact_id, u.amount,
      case when coalesce(u.binding, b.binding[1]) = 0 then '{}' when b.more is null then array[coalesce(u.binding, b.binding[1])]
        else array[coalesce(u.binding, b.binding[1])] || array(select x::bigint from jsonb_array_elements_text(b.more -> u.i::text) x) end as bindings
    from trace_block b cross join lateral unnest(b.no, b.part, b.fact_id, b.amount, b.binding) with ordinality u(no, part, fact_id, amount, binding, i);

-- +goose StatementBegin
create or replace function traces_posted() returns trigger language plpgsql security definer set search_path = public, pg_temp set enable_mergejoin = off set enable_nestloop = off as $$
declare
  no_line bigint := 0;
  no_fact bigint := 0;
  lines bigint;
  facts bigint;
  r record;
begin
  -- Ranges of facts, on one line or each on the next: a range at a time, cut where its facts
  -- and its lines go on in another block.
  if exists (select 1 from new_rows where cardinality(fact_id) = 1 and cardinality(no) = 1 and cardinality(binding) = 1 and n >= 16) then
    perform set_config('enable_nestloop', 'on', true);
    execute $q$with t as (
      select ledger_id, entry_id, no[1] as no, step, binding[1] as binding, fact_id[1] as fact, n, amount, 1 + (n - 1) * step as lines from new_rows where cardinality(fact_id) = 1 and cardinality(no) = 1 and cardinality(binding) = 1 and n >= 16
    ), s as materialized (
      select t.ledger_id, t.entry_id, t.binding, s.account_id, s.label_id, coalesce((b.dims -> s.dim)->>'group', '') as grp, s.parts, s.amount
        from t -- each range looks its own blocks up, whatever the planner thinks of the tables
        cross join lateral (select first_id, n, label_id, dim, dims from fact_block b where b.ledger_id = t.ledger_id and b.first_id > t.fact - 512 and b.first_id < t.fact + t.n and b.first_id + b.n > t.fact offset 0) b
        cross join lateral (select first_no, n, account_id from line_block l where l.ledger_id = t.ledger_id and l.entry_id = t.entry_id and l.first_no > t.no - 512 and l.first_no < t.no + t.lines and l.first_no + l.n > t.no offset 0) l
        cross join lateral (select b.first_id - t.fact as f, (l.first_no - t.no) * t.step as g) o
        cross join lateral (select greatest(0, o.f, o.g) + 1 as lo, least(t.n, o.f + b.n, case t.step when 1 then o.g + l.n else t.n end) as hi) at
        cross join lateral (select case t.step when 1 then coalesce(u.account_id, l.account_id[1]) else coalesce(l.account_id[t.no - l.first_no + 1], l.account_id[1]) end as account_id,
            coalesce(u.label_id, b.label_id[1]) as label_id, coalesce(u.dim, b.dim[1]) as dim, count(*) as parts, sum(u.amount) as amount
          from unnest(t.amount[at.lo : at.hi], b.label_id[at.lo - o.f : at.hi - o.f], b.dim[at.lo - o.f : at.hi - o.f], case t.step when 1 then l.account_id[at.lo - o.g : at.hi - o.g] else '{}' end) u(amount, label_id, dim, account_id) group by 1, 2, 3) s
       where at.lo <= at.hi
    ), x as materialized (
      select ledger_id, entry_id, label_id, account_id, grp, binding, sum(parts) as parts, sum(amount) as amount from s group by 1, 2, 3, 4, 5, 6
    ), kept as (
      insert into posted_part as p (ledger_id, entry_id, label_id, account_id, grp, binding_id, parts, amount)
        select * from x
        on conflict (ledger_id, label_id, entry_id, account_id, grp, binding_id) do update set parts = p.parts + excluded.parts, amount = p.amount + excluded.amount
    )
    select lost, (select coalesce(sum(n), 0) from t) - lost - (select coalesce(sum(parts), 0) from x)
      from (select coalesce(sum((t.lines - coalesce((select sum(least(l.first_no + l.n, t.no + t.lines) - greatest(l.first_no, t.no)) from line_block l
          where l.ledger_id = t.ledger_id and l.entry_id = t.entry_id and l.first_no > t.no - 512 and l.first_no < t.no + t.lines and l.first_no + l.n > t.no), 0)) * case t.step when 1 then 1 else t.n end), 0) as lost from t) m$q$ into no_line, no_fact;
    perform set_config('enable_nestloop', 'off', true);
  end if;
  select array_agg(distinct n.ledger_id) as ledgers, min(f) as f1, max(f) as f2, min(n.entry_id) as e1, max(n.entry_id) as e2 into r
    from (select ledger_id, entry_id, fact_id, n as many from new_rows where not (cardinality(fact_id) = 1 and cardinality(no) = 1 and cardinality(binding) = 1 and n >= 16)) n, unnest(case when cardinality(n.fact_id) = 1 then n.fact_id || (n.fact_id[1] + n.many - 1) else n.fact_id end) f;
  if r.ledgers is not null then
    -- Executed as text, so that it is planned for as many rows as there are now; arrays stay
    -- out of the joins, which are of sets.
    execute format($q$with x as materialized (
      select n.ledger_id, n.entry_id, f.label_id, l.account_id, f.grp, n.binding, count(*) as parts, sum(n.amount) as amount
        from (select b.ledger_id, b.entry_id, coalesce(u.no, b.no[1] + (u.i::int - 1) * b.step) as no, coalesce(u.fact_id, b.fact_id[1] + u.i - 1) as fact_id, u.amount, coalesce(u.binding, b.binding[1]) as binding
            from new_rows b cross join lateral unnest(b.no, b.fact_id, b.amount, b.binding) with ordinality u(no, fact_id, amount, binding, i) where not (cardinality(b.fact_id) = 1 and cardinality(b.no) = 1 and cardinality(b.binding) = 1 and b.n >= 16) offset 0) n
        left join (select b.ledger_id, b.first_id + u.i - 1 as id, coalesce(u.label_id, b.label_id[1]) as label_id, coalesce((b.dims -> coalesce(u.dim, b.dim[1]))->>'group', '') as grp
            from fact_block b cross join lateral unnest(b.label_id, b.dim, b.record) with ordinality u(label_id, dim, record, i)
            where b.ledger_id = any(%1$L::bigint[]) and b.first_id > %2$L::bigint - 512 and b.first_id <= %3$L::bigint offset 0) f on f.ledger_id = n.ledger_id and f.id = n.fact_id
        left join (select b.ledger_id, b.entry_id, b.first_no + u.i::int - 1 as no, coalesce(u.account_id, b.account_id[1]) as account_id
            from line_block b cross join lateral unnest(b.account_id, b.amount) with ordinality u(account_id, amount, i)
            where b.ledger_id = any(%1$L::bigint[]) and b.entry_id between %4$L::bigint and %5$L::bigint offset 0) l on l.ledger_id = n.ledger_id and l.entry_id = n.entry_id and l.no = n.no
       group by 1, 2, 3, 4, 5, 6
    ), kept as (
      insert into posted_part as p (ledger_id, entry_id, label_id, account_id, grp, binding_id, parts, amount)
        select * from x where label_id is not null and account_id is not null
        on conflict (ledger_id, label_id, entry_id, account_id, grp, binding_id) do update set parts = p.parts + excluded.parts, amount = p.amount + excluded.amount
    )
    select coalesce(sum(parts) filter (where account_id is null), 0), coalesce(sum(parts) filter (where label_id is null), 0) from x$q$, r.ledgers, r.f1, r.f2, r.e1, r.e2) into lines, facts;
    no_line := no_line + lines;
    no_fact := no_fact + facts;
  end if;
  if no_line > 0 or no_fact > 0 then
    raise exception 'trace points at % lines and % facts which are not in this ledger', no_line, no_fact using errcode = '23503';
  end if;
  return null;
end $$;
-- +goose StatementEnd

-- +goose Down
select 1;
