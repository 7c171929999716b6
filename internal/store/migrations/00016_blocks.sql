-- +goose Up
-- Facts and traces are never changed and are written and read a file or an entry at a time:
-- up to some hundred of them are one row here, a column an array. The views fact and trace
-- show them one by one. A year of payroll is written in half the time so, and takes a fifth
-- of the room.

create table fact_block (
  ledger_id bigint not null,
  first_id bigint not null,      -- the facts of a block have ids one after the other
  n int not null check (n between 1 and 512),
  batch_id bigint not null,
  reading int not null,
  label_id bigint[] not null,
  day date[] not null,
  amount bigint[] not null,      -- minor units, debit positive
  record int[] not null,
  line int[] not null,
  col int[] not null,
  dims jsonb not null default '[]', -- the different ones of the block
  dim int[] not null,            -- which of them, from 0; one that is not there is none
  mark bigint[],                 -- of what else the row says, where rows are compared; 0 is not compared
  primary key (ledger_id, first_id),
  check (cardinality(label_id) = n and cardinality(day) = n and cardinality(amount) = n and cardinality(record) = n
    and cardinality(line) = n and cardinality(col) = n and cardinality(dim) = n and (mark is null or cardinality(mark) = n))
) with (toast_tuple_target = 8160);
alter table fact_block alter label_id set statistics 0, alter day set statistics 0, alter amount set statistics 0, alter record set statistics 0, alter line set statistics 0,
  alter col set statistics 0, alter dims set statistics 0, alter dim set statistics 0, alter mark set statistics 0; -- nobody asks for an array
create index fact_block_batch on fact_block (batch_id, reading);
create sequence fact_block_id increment by 512;

create table trace_block (
  ledger_id bigint not null,
  entry_id bigint not null,
  first_no int not null,         -- line and part of the first one
  first_part int not null,
  n int not null check (n between 1 and 512),
  no int[] not null,
  part int[] not null,
  fact_id bigint[] not null,
  amount bigint[] not null,
  lines int[] not null,          -- the different ones among no
  binding bigint[] not null,     -- the first one that led there; 0 is none
  more jsonb,                    -- further ones: place → ids
  primary key (ledger_id, entry_id, first_no, first_part),
  check (cardinality(no) = n and cardinality(part) = n and cardinality(fact_id) = n and cardinality(amount) = n and cardinality(binding) = n)
) with (toast_tuple_target = 8160);

alter table trace_block alter no set statistics 0, alter lines set statistics 0, alter part set statistics 0, alter fact_id set statistics 0, alter amount set statistics 0, alter binding set statistics 0, alter more set statistics 0;

-- What is there, in runs of ids that follow one another.
insert into fact_block (ledger_id, first_id, n, batch_id, reading, label_id, day, amount, record, line, col, dims, dim, mark)
  select ledger_id, min(id), count(*), batch_id, reading, array_agg(label_id order by id), array_agg(day order by id), array_agg(amount order by id),
    array_agg(record order by id), array_agg(line order by id), array_agg(col order by id), jsonb_agg(dims order by id), array_agg(at order by id), case when count(mark) > 0 then array_agg(case when jsonb_exists(dims, 'due') or jsonb_exists(dims, 't') then coalesce(mark, 0) else 0 end order by id) end
    from (select *, row_number() over (partition by ledger_id, batch_id, reading, run, run_no / 32 order by id)::int - 1 as at
      from (select *, row_number() over (partition by ledger_id, batch_id, reading, run order by id) - 1 as run_no
        from (select *, id - row_number() over (partition by ledger_id, batch_id, reading order by id) as run from fact) f) g) h
   group by ledger_id, batch_id, reading, run, run_no / 32;
select setval('fact_block_id', coalesce((select max(first_id + n) from fact_block), 1));

insert into trace_block (ledger_id, entry_id, first_no, first_part, n, no, part, fact_id, amount, lines, binding, more)
  select ledger_id, entry_id, (array_agg(no order by no, part))[1], (array_agg(part order by no, part))[1], count(*), array_agg(no order by no, part), array_agg(part order by no, part),
    array_agg(fact_id order by no, part), array_agg(amount order by no, part), array_agg(distinct no), array_agg(coalesce(bindings[1], 0) order by no, part),
    jsonb_object_agg(place, to_jsonb(bindings[2:])) filter (where cardinality(bindings) > 1)
    from (select *, row_number() over (partition by ledger_id, entry_id, chunk order by no, part) as place
      from (select *, (row_number() over (partition by ledger_id, entry_id order by no, part) - 1) / 64 as chunk from trace) t) t
   group by ledger_id, entry_id, chunk;

drop trigger open_item_refs on open_item;
drop table trace;
drop table fact;
drop function trace_posted();

create view fact with (security_invoker = true) as
  select b.ledger_id, b.first_id + u.i - 1 as id, b.batch_id, b.reading, u.label_id, u.day, u.amount, u.record, u.line, u.col, coalesce(b.dims -> u.dim, '{}') as dims, nullif(u.mark, 0) as mark
    from fact_block b cross join lateral unnest(b.label_id, b.day, b.amount, b.record, b.line, b.col, b.dim, b.mark) with ordinality u(label_id, day, amount, record, line, col, dim, mark, i);
create view trace with (security_invoker = true) as
  select b.ledger_id, b.entry_id, b.first_no, u.no, u.part, u.fact_id, u.amount, case when u.binding = 0 then '{}' when b.more is null then array[u.binding]
      else array[u.binding] || array(select x::bigint from jsonb_array_elements_text(b.more -> u.i::text) x) end as bindings
    from trace_block b cross join lateral unnest(b.no, b.part, b.fact_id, b.amount, b.binding) with ordinality u(no, part, fact_id, amount, binding, i);

-- Facts by their ids: each lies in the last block that begins at or before it.
create function facts_of(of_ledger bigint, ids bigint[]) returns setof fact language sql stable as $$
  select f.* from (select distinct x as id from unnest(ids) x) x
    cross join lateral (select b.first_id from fact_block b where b.ledger_id = of_ledger and b.first_id <= x.id order by b.first_id desc limit 1) at
    join lateral (select * from fact_block b where b.ledger_id = of_ledger and b.first_id = at.first_id) b on x.id < b.first_id + b.n
    cross join lateral (select b.ledger_id, x.id, b.batch_id, b.reading, b.label_id[k.i] as label_id, b.day[k.i] as day, b.amount[k.i] as amount, b.record[k.i] as record, b.line[k.i] as line, b.col[k.i] as col, coalesce(b.dims -> b.dim[k.i], '{}') as dims, nullif(b.mark[k.i], 0) as mark from (select (x.id - b.first_id + 1)::int as i) k) f
$$;

alter table fact_block enable row level security;
create policy of_ledger on fact_block using (ledger_id = (select nullif(current_setting('app.ledger_id', true), '')::bigint));
alter table trace_block enable row level security;
create policy of_ledger on trace_block using (ledger_id = (select nullif(current_setting('app.ledger_id', true), '')::bigint));

-- +goose StatementBegin
do $$
declare t text;
begin
  foreach t in array array['fact_block', 'trace_block'] loop
    execute format('create trigger %I before update or delete on %I for each statement execute function posted_is_posted()', t || '_kept', t);
    execute format('create trigger %I before truncate on %I for each statement execute function posted_is_posted()', t || '_kept_whole', t);
  end loop;
end $$;
-- +goose StatementEnd

-- What facts, items and traces point at is checked once a statement, as a set.
-- +goose StatementBegin
create function facts_point() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
declare missing bigint;
begin
  select count(*) into missing from (select distinct ledger_id, batch_id from new_rows) d left join batch b on b.ledger_id = d.ledger_id and b.id = d.batch_id where b.id is null;
  if missing > 0 then
    raise exception 'facts point at % of batch which are not in this ledger', missing using errcode = '23503';
  end if;
  execute 'with d as materialized (select distinct n.ledger_id, l as id from new_rows n, unnest(n.label_id) l) select (select count(*) from d) - (select count(*) from d join label p on p.ledger_id = d.ledger_id and p.id = d.id)' into missing;
  if missing > 0 then
    raise exception 'facts point at % of label which are not in this ledger', missing using errcode = '23503';
  end if;
  return null;
end $$;
-- +goose StatementEnd
create trigger facts_point after insert on fact_block referencing new table as new_rows for each statement execute function facts_point();

-- +goose StatementBegin
create function items_point() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
declare
  missing bigint;
  r record;
begin
  select array_agg(distinct ledger_id) as ledgers, min(fact_id) as f1, max(fact_id) as f2 into r from new_rows;
  if r.ledgers is null then
    return null;
  end if;
  execute format($q$with d as materialized (select distinct ledger_id, fact_id from new_rows),
      f as materialized (select b.ledger_id, b.first_id + i - 1 as id from fact_block b, generate_series(1, b.n) i where b.ledger_id = any(%1$L::bigint[]) and b.first_id > %2$L::bigint - 512 and b.first_id <= %3$L::bigint)
    select (select count(*) from d) - (select count(*) from d join f on f.ledger_id = d.ledger_id and f.id = d.fact_id)$q$, r.ledgers, r.f1, r.f2) into missing;
  if missing > 0 then
    raise exception 'items point at % of fact which are not in this ledger', missing using errcode = '23503';
  end if;
  return null;
end $$;
-- +goose StatementEnd
create trigger items_point after insert on open_item referencing new table as new_rows for each statement execute function items_point();
create trigger open_item_refs after insert on open_item referencing new table as new_rows for each statement execute function refs_hold('party_id', 'party', 'unit_id', 'unit');

-- Every trace points at a line and a fact of its ledger, and is counted under its label.
-- +goose StatementBegin
create function traces_posted() returns trigger language plpgsql security definer set search_path = public, pg_temp set enable_mergejoin = off set enable_nestloop = off as $$
declare
  no_line bigint;
  no_fact bigint;
  r record;
begin
  select array_agg(distinct n.ledger_id) as ledgers, min(f) as f1, max(f) as f2, min(n.entry_id) as e1, max(n.entry_id) as e2 into r from new_rows n, unnest(n.fact_id) f;
  if r.ledgers is null then
    return null;
  end if;
  -- Executed as text, so that it is planned for as many rows as there are now; arrays stay
  -- out of the joins, which are of sets.
  execute format($q$with x as materialized (
    select n.ledger_id, n.entry_id, f.label_id, l.account_id, f.grp, n.binding, count(*) as parts, sum(n.amount) as amount
      from (select b.ledger_id, b.entry_id, u.no, u.fact_id, u.amount, u.binding from new_rows b cross join lateral unnest(b.no, b.fact_id, b.amount, b.binding) u(no, fact_id, amount, binding) offset 0) n
      left join (select b.ledger_id, b.first_id + u.i - 1 as id, u.label_id, coalesce((b.dims -> u.dim)->>'group', '') as grp from fact_block b cross join lateral unnest(b.label_id, b.dim) with ordinality u(label_id, dim, i)
          where b.ledger_id = any(%1$L::bigint[]) and b.first_id > %2$L::bigint - 512 and b.first_id <= %3$L::bigint offset 0) f on f.ledger_id = n.ledger_id and f.id = n.fact_id
      left join (select ledger_id, entry_id, no, account_id from line where ledger_id = any(%1$L::bigint[]) and entry_id between %4$L::bigint and %5$L::bigint offset 0) l on l.ledger_id = n.ledger_id and l.entry_id = n.entry_id and l.no = n.no
     group by 1, 2, 3, 4, 5, 6
  ), kept as (
    insert into posted_part as p (ledger_id, entry_id, label_id, account_id, grp, binding_id, parts, amount)
      select * from x where label_id is not null and account_id is not null
      on conflict (ledger_id, label_id, entry_id, account_id, grp, binding_id) do update set parts = p.parts + excluded.parts, amount = p.amount + excluded.amount
  )
  select coalesce(sum(parts) filter (where account_id is null), 0), coalesce(sum(parts) filter (where label_id is null), 0) from x$q$, r.ledgers, r.f1, r.f2, r.e1, r.e2) into no_line, no_fact;
  if no_line + no_fact > 0 then
    raise exception 'trace points at % lines and % facts which are not in this ledger', no_line, no_fact using errcode = '23503';
  end if;
  return null;
end $$;
-- +goose StatementEnd
create trigger traces_posted after insert on trace_block referencing new table as new_rows for each statement execute function traces_posted();

-- +goose StatementBegin
create or replace function know_table(name text) returns void language plpgsql security definer set search_path = public, pg_temp as $$
begin
  if name not in ('fact_block', 'line', 'trace_block', 'open_item', 'paid_line', 'label', 'posted_part') then
    raise exception 'no such table to know: %', name;
  end if;
  execute format('analyze %I', name);
end $$;
-- +goose StatementEnd

-- +goose Down
select 1;
