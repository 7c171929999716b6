-- +goose Up
-- What is alike in a block is said once: a column that is the same of all its facts or traces
-- is an array of one, and so are ids and parts that follow one another. A run of pay then
-- takes half the room, and its traces are held against their facts a range at a time.

alter table fact_block add column employee bigint[]; -- whose the amounts are, where they are pay; 0 is nobody
alter table fact_block alter employee set statistics 0;

-- +goose StatementBegin
do $$
declare c record;
begin
  for c in select conrelid::regclass as of, conname from pg_constraint where contype = 'c' and conrelid in ('fact_block'::regclass, 'trace_block'::regclass) and pg_get_constraintdef(oid) like '%cardinality%' loop
    execute format('alter table %s drop constraint %I', c.of, c.conname);
  end loop;
end $$;
-- +goose StatementEnd
alter table fact_block add check (cardinality(amount) = n and cardinality(record) = n and cardinality(line) = n and (mark is null or cardinality(mark) = n) and (employee is null or cardinality(employee) = n)
  and cardinality(label_id) in (1, n) and cardinality(dim) in (1, n) and cardinality(day) in (1, n) and cardinality(col) in (1, n));
-- Of one fact_id or part the others follow it one by one.
alter table trace_block add check (cardinality(amount) = n and cardinality(no) in (1, n) and cardinality(part) in (1, n) and cardinality(fact_id) in (1, n) and cardinality(binding) in (1, n));

create or replace view fact with (security_invoker = true) as
  select b.ledger_id, b.first_id + u.i - 1 as id, b.batch_id, b.reading, coalesce(u.label_id, b.label_id[1]) as label_id, coalesce(u.day, b.day[1]) as day, u.amount, u.record, u.line, coalesce(u.col, b.col[1]) as col,
      case when u.employee > 0 then coalesce(b.dims -> coalesce(u.dim, b.dim[1]), '{}') || jsonb_build_object('employee', u.employee::text) else coalesce(b.dims -> coalesce(u.dim, b.dim[1]), '{}') end as dims, nullif(u.mark, 0) as mark
    from fact_block b cross join lateral unnest(b.label_id, b.day, b.amount, b.record, b.line, b.col, b.dim, b.mark, b.employee) with ordinality u(label_id, day, amount, record, line, col, dim, mark, employee, i);
create or replace view trace with (security_invoker = true) as
  select b.ledger_id, b.entry_id, b.first_no, coalesce(u.no, b.no[1]) as no, coalesce(u.part, b.part[1] + u.i::int - 1) as part, coalesce(u.fact_id, b.fact_id[1] + u.i - 1) as fact_id, u.amount,
      case when coalesce(u.binding, b.binding[1]) = 0 then '{}' when b.more is null then array[coalesce(u.binding, b.binding[1])]
        else array[coalesce(u.binding, b.binding[1])] || array(select x::bigint from jsonb_array_elements_text(b.more -> u.i::text) x) end as bindings
    from trace_block b cross join lateral unnest(b.no, b.part, b.fact_id, b.amount, b.binding) with ordinality u(no, part, fact_id, amount, binding, i);

create or replace function facts_of(of_ledger bigint, ids bigint[]) returns setof fact language sql stable as $$
  select f.* from (select distinct x as id from unnest(ids) x) x
    cross join lateral (select b.first_id from fact_block b where b.ledger_id = of_ledger and b.first_id <= x.id order by b.first_id desc limit 1) at
    join lateral (select * from fact_block b where b.ledger_id = of_ledger and b.first_id = at.first_id) b on x.id < b.first_id + b.n
    cross join lateral (select b.ledger_id, x.id, b.batch_id, b.reading, coalesce(b.label_id[k.i], b.label_id[1]) as label_id, coalesce(b.day[k.i], b.day[1]) as day, b.amount[k.i] as amount, b.record[k.i] as record, b.line[k.i] as line, coalesce(b.col[k.i], b.col[1]) as col,
        case when b.employee[k.i] > 0 then coalesce(b.dims -> coalesce(b.dim[k.i], b.dim[1]), '{}') || jsonb_build_object('employee', b.employee[k.i]::text) else coalesce(b.dims -> coalesce(b.dim[k.i], b.dim[1]), '{}') end as dims,
        nullif(b.mark[k.i], 0) as mark from (select (x.id - b.first_id + 1)::int as i) k) f
$$;

-- +goose StatementBegin
create or replace function traces_posted() returns trigger language plpgsql security definer set search_path = public, pg_temp set enable_mergejoin = off set enable_nestloop = off as $$
declare
  no_line bigint := 0;
  no_fact bigint := 0;
  lines bigint;
  facts bigint;
  r record;
begin
  -- Ranges of facts: a range at a time, each looked up by its place.
  if exists (select 1 from new_rows where cardinality(fact_id) = 1 and cardinality(no) = 1 and cardinality(binding) = 1 and n >= 16) then
    perform set_config('enable_nestloop', 'on', true);
    execute $q$with t as (
      select ledger_id, entry_id, no[1] as no, binding[1] as binding, fact_id[1] as fact, n, amount from new_rows where cardinality(fact_id) = 1 and cardinality(no) = 1 and cardinality(binding) = 1 and n >= 16
    ), s as materialized (
      select t.ledger_id, t.entry_id, t.no, t.binding, s.label_id, coalesce((b.dims -> s.dim)->>'group', '') as grp, s.parts, s.amount
        from t join fact_block b on b.ledger_id = t.ledger_id and b.first_id > t.fact - 512 and b.first_id < t.fact + t.n and b.first_id + b.n > t.fact
        cross join lateral (select greatest(t.fact, b.first_id) as lo, least(t.fact + t.n, b.first_id + b.n) as hi) at
        cross join lateral (select coalesce(u.label_id, b.label_id[1]) as label_id, coalesce(u.dim, b.dim[1]) as dim, count(*) as parts, sum(u.amount) as amount
          from unnest(t.amount[at.lo - t.fact + 1 : at.hi - t.fact], b.label_id[at.lo - b.first_id + 1 : at.hi - b.first_id], b.dim[at.lo - b.first_id + 1 : at.hi - b.first_id]) u(amount, label_id, dim) group by 1, 2) s
    ), x as materialized (
      select s.ledger_id, s.entry_id, s.label_id, l.account_id, s.grp, s.binding, sum(s.parts) as parts, sum(s.amount) as amount
        from s left join line l on l.ledger_id = s.ledger_id and l.entry_id = s.entry_id and l.no = s.no group by 1, 2, 3, 4, 5, 6
    ), kept as (
      insert into posted_part as p (ledger_id, entry_id, label_id, account_id, grp, binding_id, parts, amount)
        select * from x where account_id is not null
        on conflict (ledger_id, label_id, entry_id, account_id, grp, binding_id) do update set parts = p.parts + excluded.parts, amount = p.amount + excluded.amount
    )
    select coalesce(sum(parts) filter (where account_id is null), 0), (select coalesce(sum(n), 0) from t) - coalesce(sum(parts), 0) from x$q$ into no_line, no_fact;
    perform set_config('enable_nestloop', 'off', true);
  end if;
  select array_agg(distinct n.ledger_id) as ledgers, min(f) as f1, max(f) as f2, min(n.entry_id) as e1, max(n.entry_id) as e2 into r
    from (select ledger_id, entry_id, fact_id, n as many from new_rows where not (cardinality(fact_id) = 1 and cardinality(no) = 1 and cardinality(binding) = 1 and n >= 16)) n, unnest(case when cardinality(n.fact_id) = 1 then n.fact_id || (n.fact_id[1] + n.many - 1) else n.fact_id end) f;
  if r.ledgers is not null then
    -- Executed as text, so that it is planned for as many rows as there are now; arrays stay
    -- out of the joins, which are of sets.
    execute format($q$with x as materialized (
      select n.ledger_id, n.entry_id, f.label_id, l.account_id, f.grp, n.binding, count(*) as parts, sum(n.amount) as amount
        from (select b.ledger_id, b.entry_id, coalesce(u.no, b.no[1]) as no, coalesce(u.fact_id, b.fact_id[1] + u.i - 1) as fact_id, u.amount, coalesce(u.binding, b.binding[1]) as binding
            from new_rows b cross join lateral unnest(b.no, b.fact_id, b.amount, b.binding) with ordinality u(no, fact_id, amount, binding, i) where not (cardinality(b.fact_id) = 1 and cardinality(b.no) = 1 and cardinality(b.binding) = 1 and b.n >= 16) offset 0) n
        left join (select b.ledger_id, b.first_id + u.i - 1 as id, coalesce(u.label_id, b.label_id[1]) as label_id, coalesce((b.dims -> coalesce(u.dim, b.dim[1]))->>'group', '') as grp
            from fact_block b cross join lateral unnest(b.label_id, b.dim, b.record) with ordinality u(label_id, dim, record, i)
            where b.ledger_id = any(%1$L::bigint[]) and b.first_id > %2$L::bigint - 512 and b.first_id <= %3$L::bigint offset 0) f on f.ledger_id = n.ledger_id and f.id = n.fact_id
        left join (select ledger_id, entry_id, no, account_id from line where ledger_id = any(%1$L::bigint[]) and entry_id between %4$L::bigint and %5$L::bigint offset 0) l on l.ledger_id = n.ledger_id and l.entry_id = n.entry_id and l.no = n.no
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
