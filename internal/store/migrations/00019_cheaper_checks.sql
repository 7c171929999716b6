-- +goose Up
-- What is checked of lines and items as they are posted is asked of what they add up to, once,
-- and not of each row: two thirds of the time that checking 200,000 of them took.

drop trigger line_refs on line;
-- +goose StatementBegin
create or replace function line_posted() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
declare r record;
begin
  -- Executed as text, so that it is planned for as many lines as there are now.
  execute $q$with s as materialized (
      select ledger_id, entry_id, account_id, count(*) as n, min(no) as low, max(no) as high, sum(amount) as amount, coalesce(sum(amount) filter (where amount > 0), 0) as debit, coalesce(-sum(amount) filter (where amount < 0), 0) as credit
        from new_lines group by 1, 2, 3
    ), kept as (
      insert into balance as b (ledger_id, account_id, month, debit, credit)
        select s.ledger_id, s.account_id, date_trunc('month', e.day)::date, sum(s.debit), sum(s.credit)
          from s join entry e on e.ledger_id = s.ledger_id and e.id = s.entry_id join account a on a.ledger_id = s.ledger_id and a.id = s.account_id
         group by 1, 2, 3 order by 1, 2, 3
      on conflict (ledger_id, account_id, month) do update set debit = b.debit + excluded.debit, credit = b.credit + excluded.credit
    )
    select (select entry_id from s group by ledger_id, entry_id having sum(amount) <> 0 or min(low) <> 1 or max(high) <> sum(n) limit 1) as bad,
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

drop trigger open_item_refs on open_item;
-- +goose StatementBegin
create or replace function items_point() returns trigger language plpgsql security definer set search_path = public, pg_temp set enable_mergejoin = off set enable_nestloop = off as $$
declare
  facts bigint;
  r record;
begin
  execute $q$with s as materialized (select ledger_id, party_id, unit_id, min(fact_id) as f1, max(fact_id) as f2 from new_rows group by 1, 2, 3)
    select (select array_agg(distinct ledger_id) from s) as ledgers, (select min(f1) from s) as f1, (select max(f2) from s) as f2,
      (select count(*) from (select distinct ledger_id, party_id from s where party_id is not null) d left join party p on p.ledger_id = d.ledger_id and p.id = d.party_id where p.id is null) as parties,
      (select count(*) from (select distinct ledger_id, unit_id from s where unit_id is not null) d left join unit u on u.ledger_id = d.ledger_id and u.id = d.unit_id where u.id is null) as units$q$ into r;
  if r.ledgers is null then
    return null;
  end if;
  execute format($q$select count(*) from new_rows n left join (select b.ledger_id, b.first_id + u.i - 1 as id from fact_block b cross join lateral unnest(b.record) with ordinality u(record, i)
      where b.ledger_id = any(%1$L::bigint[]) and b.first_id > %2$L::bigint - 512 and b.first_id <= %3$L::bigint offset 0) f on f.ledger_id = n.ledger_id and f.id = n.fact_id where f.id is null$q$, r.ledgers, r.f1, r.f2) into facts;
  if facts > 0 or r.parties > 0 or r.units > 0 then
    raise exception 'items point at % facts, % parties and % units which are not in this ledger', facts, r.parties, r.units using errcode = '23503';
  end if;
  return null;
end $$;
-- +goose StatementEnd

-- Items come in the order of the units that post them.
drop index open_item_unit;
create index open_item_unit on open_item using brin (unit_id) with (pages_per_range = 32, autosummarize = on);
-- An identity is compared byte by byte.
alter table open_item alter identity type text collate "C";

-- Nobody asks for rows by these.
alter table open_item alter doc set statistics 0, alter number set statistics 0, alter item_day set statistics 0, alter terms set statistics 0, alter original set statistics 0, alter settled set statistics 0, alter said set statistics 0,
  alter tax set statistics 0, alter tags set statistics 0, alter record set statistics 0, alter identity set statistics 0;
alter table line alter amount set statistics 0, alter party set statistics 0, alter tags set statistics 0, alter memo set statistics 0;

-- +goose Down
select 1;
