-- +goose Up
-- The tables that take a row for each row of a file check what they point at once
-- a statement, as a set, instead of row by row. This is as strong as a foreign key
-- only because what they point at never goes and never changes its key, which the
-- triggers below make sure of for everybody, the owner of the tables included.

-- +goose StatementBegin
create function refs_hold() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
declare
  i int := 0;
  bad text;
begin
  while i < tg_nargs loop -- pairs of a column and the table it points into
    execute format('select n.%1$I::text from (select distinct ledger_id, %1$I from new_rows where %1$I is not null) n left join %2$I p on p.ledger_id = n.ledger_id and p.id = n.%1$I where p.id is null limit 1', tg_argv[i], tg_argv[i + 1]) into bad;
    if bad is not null then
      raise exception '%.% points at % %, which is not in this ledger', tg_table_name, tg_argv[i], tg_argv[i + 1], bad using errcode = '23503';
    end if;
    i := i + 2;
  end loop;
  return null;
end $$;
-- +goose StatementEnd

-- +goose StatementBegin
create function trace_lines_hold() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
declare bad text;
begin
  select n.entry_id || '/' || n.no into bad from new_rows n left join line l on l.ledger_id = n.ledger_id and l.entry_id = n.entry_id and l.no = n.no where l.no is null limit 1;
  if bad is not null then
    raise exception 'trace points at line %, which is not in this ledger', bad using errcode = '23503';
  end if;
  return null;
end $$;
-- +goose StatementEnd

-- +goose StatementBegin
create function keys_stay() returns trigger language plpgsql as $$
begin
  raise exception 'a % keeps its key and is never deleted', tg_table_name using errcode = 'CT003';
end $$;
-- +goose StatementEnd

-- +goose StatementBegin
do $$
declare
  c record;
  t text;
begin
  for c in select conname, conrelid::regclass::text as tab from pg_constraint
            where contype = 'f' and conrelid::regclass::text in ('fact', 'line', 'trace', 'open_item') loop
    execute format('alter table %I drop constraint %I', c.tab, c.conname);
  end loop;
  foreach t in array array['batch', 'label', 'account', 'party', 'ledger'] loop
    execute format('create trigger %I before delete on %I for each statement execute function keys_stay()', t || '_stays', t);
    execute format('create trigger %I before truncate on %I for each statement execute function keys_stay()', t || '_stays_whole', t);
  end loop;
  foreach t in array array['batch', 'label', 'account', 'party'] loop
    execute format('create trigger %I before update of ledger_id on %I for each statement execute function keys_stay()', t || '_key', t);
  end loop;
end $$;
-- +goose StatementEnd

create trigger fact_refs after insert on fact referencing new table as new_rows for each statement execute function refs_hold('batch_id', 'batch', 'label_id', 'label');
create trigger line_refs after insert on line referencing new table as new_rows for each statement execute function refs_hold('entry_id', 'entry', 'account_id', 'account');
create trigger trace_refs after insert on trace referencing new table as new_rows for each statement execute function refs_hold('fact_id', 'fact');
create trigger trace_lines after insert on trace referencing new table as new_rows for each statement execute function trace_lines_hold();
create trigger open_item_refs after insert on open_item referencing new table as new_rows for each statement execute function refs_hold('party_id', 'party', 'fact_id', 'fact', 'unit_id', 'unit');
-- Which unit ended an item changes later, one item at a time or many.
create trigger open_item_ends after update on open_item referencing new table as new_rows for each statement execute function refs_hold('ended_by', 'unit');

-- After a bulk load the planner must know the tables before the next statement of
-- the same transaction, not when the background worker comes by. Analyzing is the
-- owner's right, so the serving role asks for it through this function.
-- +goose StatementBegin
create function know_table(name text) returns void language plpgsql security definer set search_path = public, pg_temp as $$
begin
  if name not in ('fact', 'line', 'trace', 'open_item') then
    raise exception 'no such table to know: %', name;
  end if;
  execute format('analyze %I', name);
end $$;
-- +goose StatementEnd

-- +goose Down
select 1;
