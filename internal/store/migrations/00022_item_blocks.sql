-- +goose Up
-- Open items are written a list at a time and hardly ever change after: up to some hundred of
-- them are one row here, a column an array, and what is alike is said once. What happens to an
-- item later lies beside it: which unit ended it, and other dates. The view open_item shows
-- them one by one as they are now. Facts of a list say each something else beside the amount;
-- those words are a text with a line each, which nobody takes apart until it is asked for.

alter table fact_block add column words text; -- a line of JSON each, instead of dims
alter table fact_block alter words set statistics 0;
alter table fact_block add check (words is null or dims = '[]');
alter table line_block add column tag_lines text; -- the different tags of the block, a line of JSON each, instead of tags
alter table line_block alter tag_lines set statistics 0;
alter table line_block add check (tag_lines is null or tags = '[]');

-- A column is looked up where it is asked for; taking all arrays apart at once takes longer.
create or replace view fact with (security_invoker = true) as
  select b.ledger_id, b.first_id + k.i - 1 as id, b.batch_id, b.reading, coalesce(b.label_id[k.i], b.label_id[1]) as label_id, coalesce(b.day[k.i], b.day[1]) as day, k.amount, b.record[k.i] as record, b.line[k.i] as line, coalesce(b.col[k.i], b.col[1]) as col,
      case when b.words is not null then coalesce(nullif(split_part(b.words, E'\n', k.i), ''), '{}')::jsonb when b.employee[k.i] > 0 then coalesce(b.dims -> coalesce(b.dim[k.i], b.dim[1]), '{}') || jsonb_build_object('employee', b.employee[k.i]::text) else coalesce(b.dims -> coalesce(b.dim[k.i], b.dim[1]), '{}') end as dims, nullif(b.mark[k.i], 0) as mark
    from fact_block b cross join lateral (select u.amount, u.i::int as i from unnest(b.amount) with ordinality u(amount, i)) k;
create or replace view line with (security_invoker = true) as
  select b.ledger_id, b.entry_id, b.first_no + k.i - 1 as no, coalesce(b.account_id[k.i], b.account_id[1]) as account_id, k.amount, coalesce(b.party[k.i], b.party[1]) as party,
      case when b.tag_lines is null then coalesce(b.tags -> coalesce(b.tag[k.i], b.tag[1]), '{}') else coalesce(nullif(split_part(b.tag_lines, E'\n', coalesce(b.tag[k.i], b.tag[1]) + 1), ''), '{}')::jsonb end as tags, coalesce(b.memo[k.i], b.memo[1]) as memo
    from line_block b cross join lateral (select u.amount, u.i::int as i from unnest(b.amount) with ordinality u(amount, i)) k;

create or replace function facts_of(of_ledger bigint, ids bigint[]) returns setof fact language sql stable as $$
  select f.* from (select distinct x as id from unnest(ids) x) x
    cross join lateral (select b.first_id from fact_block b where b.ledger_id = of_ledger and b.first_id <= x.id order by b.first_id desc limit 1) at
    join lateral (select * from fact_block b where b.ledger_id = of_ledger and b.first_id = at.first_id) b on x.id < b.first_id + b.n
    cross join lateral (select b.ledger_id, x.id, b.batch_id, b.reading, coalesce(b.label_id[k.i], b.label_id[1]) as label_id, coalesce(b.day[k.i], b.day[1]) as day, b.amount[k.i] as amount, b.record[k.i] as record, b.line[k.i] as line, coalesce(b.col[k.i], b.col[1]) as col,
        case when b.words is not null then coalesce(nullif(split_part(b.words, E'\n', k.i), ''), '{}')::jsonb when b.employee[k.i] > 0 then coalesce(b.dims -> coalesce(b.dim[k.i], b.dim[1]), '{}') || jsonb_build_object('employee', b.employee[k.i]::text) else coalesce(b.dims -> coalesce(b.dim[k.i], b.dim[1]), '{}') end as dims,
        nullif(b.mark[k.i], 0) as mark from (select (x.id - b.first_id + 1)::int as i) k) f
$$;

create table item_block (
  ledger_id bigint not null,
  first_id bigint not null,      -- the items of a block have ids one after the other
  n int not null check (n between 1 and 512),
  side text collate "C" not null check (side in ('receivable', 'payable')),
  source text collate "C" not null,
  unit_id bigint not null,
  key bigint[] not null,         -- the first half of the md5 of side, source and what tells an item from all others of these
  party_id bigint[] not null,
  amount bigint[] not null,      -- still open, minor units, debit positive
  fact_id bigint[] not null,     -- of one the others follow it one by one
  record int[] not null,
  mark bigint[] not null,        -- of what else the row says; 0 is not compared
  number text[] not null,
  item_day date[] not null,
  due_day date[] not null,
  age_day date[] not null,       -- due day, or day plus terms; null where nothing says when
  doc text[] not null,
  terms text[] not null,
  original bigint[] not null,
  settled bigint[] not null,
  tax bigint[] not null,
  said boolean[] not null,       -- original and settled were both said
  tags text not null default '', -- the different ones of the block, a line of JSON each
  tag int[] not null,            -- which of them, from 0; one that is not there is none
  primary key (ledger_id, first_id),
  check (cardinality(key) = n and cardinality(party_id) in (1, n) and cardinality(amount) in (1, n) and cardinality(fact_id) in (1, n) and cardinality(record) = n and cardinality(mark) in (1, n) and cardinality(number) in (1, n)
    and cardinality(item_day) in (1, n) and cardinality(due_day) in (1, n) and cardinality(age_day) in (1, n) and cardinality(doc) in (1, n) and cardinality(terms) in (1, n) and cardinality(original) in (1, n)
    and cardinality(settled) in (1, n) and cardinality(tax) in (1, n) and cardinality(said) in (1, n) and cardinality(tag) in (1, n))
) with (toast_tuple_target = 8160);
alter table item_block alter key set statistics 0, alter party_id set statistics 0, alter amount set statistics 0, alter fact_id set statistics 0, alter record set statistics 0, alter mark set statistics 0, alter number set statistics 0,
  alter item_day set statistics 0, alter due_day set statistics 0, alter age_day set statistics 0, alter doc set statistics 0, alter terms set statistics 0, alter original set statistics 0, alter settled set statistics 0,
  alter tax set statistics 0, alter said set statistics 0, alter tags set statistics 0, alter tag set statistics 0; -- nobody asks for an array
create index item_block_unit on item_block (unit_id);
create sequence item_block_id increment by 512;

-- An item that a unit reversed. Where that is taken back, it is undone and the item lives.
create table item_end (
  ledger_id bigint not null,
  id bigint generated always as identity,
  item_id bigint not null,
  unit_id bigint not null,
  undone boolean not null default false,
  primary key (ledger_id, id),
  foreign key (ledger_id, unit_id) references unit (ledger_id, id)
);
create unique index item_end_live on item_end (ledger_id, item_id) where not undone;
create index item_end_unit on item_end (ledger_id, unit_id);

-- Dates of an item that are no more those it was posted with.
create table item_dates (
  ledger_id bigint not null,
  item_id bigint not null,
  item_day date,
  due_day date,
  terms text not null,
  age_day date,
  primary key (ledger_id, item_id)
);

-- What is there, in runs of ids that follow one another.
insert into item_block (ledger_id, first_id, n, side, source, unit_id, key, party_id, amount, fact_id, record, mark, number, item_day, due_day, age_day, doc, terms, original, settled, tax, said, tags, tag)
  select ledger_id, min(id), count(*), side, source, unit_id, array_agg(('x' || substr(md5(side || chr(31) || source || chr(31) || identity), 1, 16))::bit(64)::bigint order by id), array_agg(party_id order by id), array_agg(amount order by id), array_agg(fact_id order by id), array_agg(record order by id),
    array_agg(coalesce(mark, 0) order by id), array_agg(number order by id), array_agg(item_day order by id), array_agg(due_day order by id), array_agg(age_day order by id), array_agg(doc order by id), array_agg(terms order by id), array_agg(original order by id),
    array_agg(settled order by id), array_agg(tax order by id), array_agg(said order by id), string_agg(tags::text, E'\n' order by id), array_agg(at order by id)
    from (select *, row_number() over (partition by ledger_id, side, source, unit_id, run, run_no / 32 order by id)::int - 1 as at
      from (select *, row_number() over (partition by ledger_id, side, source, unit_id, run order by id) - 1 as run_no
        from (select *, id - row_number() over (partition by ledger_id, side, source, unit_id order by id) as run from open_item) i) g) h
   group by ledger_id, side, source, unit_id, run, run_no / 32;
select setval('item_block_id', coalesce((select max(first_id + n) from item_block), 1));
insert into item_end (ledger_id, item_id, unit_id) select ledger_id, id, ended_by from open_item where ended_by is not null order by id;

-- +goose StatementBegin
do $$
declare c record;
begin
  for c in select conrelid::regclass as of, conname from pg_constraint where contype = 'f' and confrelid = 'open_item'::regclass loop
    execute format('alter table %s drop constraint %I', c.of, c.conname);
  end loop;
end $$;
-- +goose StatementEnd
drop table open_item;
drop function items_point();

create view open_item with (security_invoker = true) as
  select b.ledger_id, b.first_id + k.i - 1 as id, b.side, b.source, b.key[k.i] as key, coalesce(b.party_id[k.i], b.party_id[1]) as party_id, coalesce(b.doc[k.i], b.doc[1]) as doc, coalesce(b.number[k.i], b.number[1]) as number,
      case when d.item_id is null then b.item_day[least(k.i, cardinality(b.item_day))] else d.item_day end as item_day, case when d.item_id is null then b.due_day[least(k.i, cardinality(b.due_day))] else d.due_day end as due_day,
      case when d.item_id is null then coalesce(b.terms[k.i], b.terms[1]) else d.terms end as terms, case when d.item_id is null then b.age_day[least(k.i, cardinality(b.age_day))] else d.age_day end as age_day,
      coalesce(b.amount[k.i], b.amount[1]) as amount, coalesce(b.original[k.i], b.original[1]) as original, coalesce(b.settled[k.i], b.settled[1]) as settled, coalesce(b.said[k.i], b.said[1]) as said, coalesce(b.tax[k.i], b.tax[1]) as tax,
      coalesce(nullif(split_part(b.tags, E'\n', coalesce(b.tag[k.i], b.tag[1]) + 1), ''), '{}')::jsonb as tags, coalesce(b.fact_id[k.i], b.fact_id[1] + k.i - 1) as fact_id, k.record, b.unit_id, e.unit_id as ended_by, nullif(coalesce(b.mark[k.i], b.mark[1]), 0) as mark
    from item_block b cross join lateral (select u.record, u.i::int as i from unnest(b.record) with ordinality u(record, i)) k
    left join item_end e on e.ledger_id = b.ledger_id and e.item_id = b.first_id + k.i - 1 and not e.undone
    left join item_dates d on d.ledger_id = b.ledger_id and d.item_id = b.first_id + k.i - 1;

-- +goose StatementBegin
do $$
declare t text;
begin
  foreach t in array array['item_block', 'item_end', 'item_dates'] loop
    execute format('alter table %I enable row level security', t);
    execute format('create policy of_ledger on %I using (ledger_id = (select nullif(current_setting(''app.ledger_id'', true), '''')::bigint))', t);
  end loop;
end $$;
-- +goose StatementEnd
create trigger item_block_kept before update or delete on item_block for each statement execute function posted_is_posted();
create trigger item_block_kept_whole before truncate on item_block for each statement execute function posted_is_posted();

-- An item lives once: no two that live have one key.
-- +goose StatementBegin
create function items_once(ledgers bigint[]) returns void language plpgsql security definer set search_path = public, pg_temp set enable_mergejoin = off set enable_nestloop = off set enable_sort = off as $$
declare twice bigint;
begin
  perform 1 from ledger where id = any(ledgers) for no key update; -- one at a time, whoever posts
  if exists (select 1 from item_end where ledger_id = any(ledgers) and not undone) then
    execute format($q$select count(*) from (select 1
        from (select b.ledger_id, b.first_id + u.i - 1 as id, u.key from item_block b cross join lateral unnest(b.key) with ordinality u(key, i) where b.ledger_id = any(%1$L::bigint[]) offset 0) i
       where not exists (select 1 from item_end e where e.ledger_id = i.ledger_id and e.item_id = i.id and not e.undone) group by i.ledger_id, i.key having count(*) > 1) d$q$, ledgers) into twice;
  else
    select coalesce(sum(d.n), 0) into twice from (select count(*) - count(distinct u.key) as n from item_block b cross join lateral unnest(b.key) u(key) where b.ledger_id = any(ledgers) group by b.ledger_id) d;
  end if;
  if twice > 0 then
    raise exception '% items are posted already', twice using errcode = '23505', constraint = 'open_item_once';
  end if;
end $$;
-- +goose StatementEnd

-- What a block points at, and that its items live once, is checked once a statement, as a set.
-- +goose StatementBegin
create function items_point() returns trigger language plpgsql security definer set search_path = public, pg_temp set enable_mergejoin = off as $$
declare
  facts bigint;
  r record;
begin
  execute $q$with u as materialized (select distinct ledger_id, unit_id from new_rows), p as materialized (select distinct n.ledger_id, x as party_id from new_rows n, unnest(n.party_id) x)
    select (select array_agg(distinct ledger_id) from u) as ledgers,
      (select count(*) from p left join party on party.ledger_id = p.ledger_id and party.id = p.party_id where party.id is null) as parties,
      (select count(*) from u left join unit on unit.ledger_id = u.ledger_id and unit.id = u.unit_id where unit.id is null) as units$q$ into r;
  if r.ledgers is null then
    return null;
  end if;
  -- Of facts that follow one another as many are there as the blocks overlap; others are looked up.
  execute $q$select coalesce(sum(n.n - case when cardinality(n.fact_id) = 1
        then (select coalesce(sum(least(b.first_id + b.n, n.fact_id[1] + n.n) - greatest(b.first_id, n.fact_id[1])), 0) from fact_block b where b.ledger_id = n.ledger_id and b.first_id > n.fact_id[1] - 512 and b.first_id < n.fact_id[1] + n.n and b.first_id + b.n > n.fact_id[1])
        else (select count(*) from unnest(n.fact_id) f cross join lateral (select b.first_id, b.n from fact_block b where b.ledger_id = n.ledger_id and b.first_id <= f order by b.first_id desc limit 1) b where f < b.first_id + b.n) end), 0) from new_rows n$q$ into facts;
  if facts > 0 or r.parties > 0 or r.units > 0 then
    raise exception 'items point at % facts, % parties and % units which are not in this ledger', facts, r.parties, r.units using errcode = '23503';
  end if;
  perform items_once(r.ledgers);
  return null;
end $$;
-- +goose StatementEnd
create trigger items_point after insert on item_block referencing new table as new_rows for each statement execute function items_point();

-- +goose StatementBegin
create function items_live() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
begin
  perform items_once(array_agg(distinct ledger_id)) from new_rows having count(*) > 0;
  return null;
end $$;
-- +goose StatementEnd
create trigger items_live after update on item_end referencing new table as new_rows for each statement execute function items_live();

-- What lies beside an item is of one that is there.
-- +goose StatementBegin
create function items_there() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
declare lost bigint;
begin
  select count(*) into lost from new_rows r where not exists (select 1 from
    (select b.first_id, b.n from item_block b where b.ledger_id = r.ledger_id and b.first_id <= r.item_id order by b.first_id desc limit 1) b where r.item_id < b.first_id + b.n);
  if lost > 0 then
    raise exception '% of % point at items which are not in this ledger', lost, tg_table_name using errcode = '23503';
  end if;
  return null;
end $$;
-- +goose StatementEnd
create trigger items_there after insert on item_end referencing new table as new_rows for each statement execute function items_there();
create trigger items_there after insert on item_dates referencing new table as new_rows for each statement execute function items_there();
create trigger items_there after insert on item_amendment referencing new table as new_rows for each statement execute function items_there();

-- Of a range of traces what lies under one label is added up at once, and what does not is
-- looked up one by one and added up with all others.
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
    ), s as (
      select t.ledger_id, t.entry_id, t.binding, s.account_id, s.label_id, coalesce((b.dims -> s.dim)->>'group', '') as grp, s.parts, s.amount
        from t -- each range looks its own blocks up, whatever the planner thinks of the tables
        cross join lateral (select first_id, n, label_id, dim, dims from fact_block b where b.ledger_id = t.ledger_id and b.first_id > t.fact - 512 and b.first_id < t.fact + t.n and b.first_id + b.n > t.fact offset 0) b
        cross join lateral (select first_no, n, account_id from line_block l where l.ledger_id = t.ledger_id and l.entry_id = t.entry_id and l.first_no > t.no - 512 and l.first_no < t.no + t.lines and l.first_no + l.n > t.no offset 0) l
        cross join lateral (select b.first_id - t.fact as f, (l.first_no - t.no) * t.step as g) o
        cross join lateral (select greatest(0, o.f, o.g) + 1 as lo, least(t.n, o.f + b.n, case t.step when 1 then o.g + l.n else t.n end) as hi) at
        cross join lateral (
          -- all under one label and on one account: they are added up at once
          select case t.step when 1 then l.account_id[1] else coalesce(l.account_id[t.no - l.first_no + 1], l.account_id[1]) end as account_id, b.label_id[1] as label_id, b.dim[1] as dim, at.hi - at.lo + 1 as parts, (select sum(a) from unnest(t.amount[at.lo : at.hi]) a) as amount
           where cardinality(b.label_id) = 1 and cardinality(b.dim) = 1 and (t.step = 0 or cardinality(l.account_id) = 1)
          union all
          select case t.step when 1 then coalesce(l.account_id[k.i - o.g], l.account_id[1]) else coalesce(l.account_id[t.no - l.first_no + 1], l.account_id[1]) end, coalesce(b.label_id[k.i - o.f], b.label_id[1]), coalesce(b.dim[k.i - o.f], b.dim[1]), 1, u.amount
            from unnest(t.amount[at.lo : at.hi]) with ordinality u(amount, i) cross join lateral (select at.lo + u.i - 1 as i) k
           where not (cardinality(b.label_id) = 1 and cardinality(b.dim) = 1 and (t.step = 0 or cardinality(l.account_id) = 1))) s
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

-- +goose StatementBegin
create or replace function know_table(name text) returns void language plpgsql security definer set search_path = public, pg_temp as $$
begin
  if name not in ('fact_block', 'line_block', 'trace_block', 'item_block', 'paid_line', 'label', 'posted_part') then
    raise exception 'no such table to know: %', name;
  end if;
  execute format('analyze %I', name);
end $$;
-- +goose StatementEnd

-- +goose Down
select 1;
