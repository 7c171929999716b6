-- +goose Up
-- What the trigger on traces looks for lies in a narrow range: the facts of a file and
-- the lines of its entries have ids one after the other. Told the range, the database reads
-- that part; before it read every fact there is for each run of payroll.
-- +goose StatementBegin
create or replace function trace_posted() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
declare
  no_line bigint;
  no_fact bigint;
  r record;
begin
  select array_agg(distinct ledger_id) as ledgers, min(fact_id) as f1, max(fact_id) as f2, min(entry_id) as e1, max(entry_id) as e2 into r from new_rows;
  if r.ledgers is null then
    return null;
  end if;
  -- Executed as text, so that it is planned for as many rows as there are now.
  execute format($q$with x as materialized (
    select n.ledger_id, n.entry_id, n.amount, coalesce(n.bindings[1], 0) as binding_id, f.id as fact_id, f.label_id, coalesce(f.dims->>'group', '') as grp, l.account_id
      from new_rows n
      left join (select * from fact where ledger_id = any(%1$L::bigint[]) and id between %2$L::bigint and %3$L::bigint) f on f.ledger_id = n.ledger_id and f.id = n.fact_id
      left join (select * from line where ledger_id = any(%1$L::bigint[]) and entry_id between %4$L::bigint and %5$L::bigint) l on l.ledger_id = n.ledger_id and l.entry_id = n.entry_id and l.no = n.no
  ), kept as (
    insert into posted_part as p (ledger_id, entry_id, label_id, account_id, grp, binding_id, parts, amount)
      select ledger_id, entry_id, label_id, account_id, grp, binding_id, count(*), sum(amount) from x where fact_id is not null and account_id is not null group by 1, 2, 3, 4, 5, 6
      on conflict (ledger_id, label_id, entry_id, account_id, grp, binding_id) do update set parts = p.parts + excluded.parts, amount = p.amount + excluded.amount
  )
  select count(*) filter (where account_id is null), count(*) filter (where fact_id is null) from x$q$, r.ledgers, r.f1, r.f2, r.e1, r.e2) into no_line, no_fact;
  if no_line + no_fact > 0 then
    raise exception 'trace points at % lines and % facts which are not in this ledger', no_line, no_fact using errcode = '23503';
  end if;
  return null;
end $$;
-- +goose StatementEnd

-- +goose Down
select 1;
