-- +goose Up
-- Versions of parts of a ledger beside the version of the whole: what was added up of
-- payment lines, or read of vendors, holds as long as its part stands, whatever else
-- changed. Only the triggers write them.
alter table ledger add column paid_version bigint not null default 1, add column people_version bigint not null default 1;

-- +goose StatementBegin
create function part_changed() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
begin
  if tg_argv[0] = 'paid' then
    update ledger set paid_version = paid_version + 1 where id in (select distinct ledger_id from changed_rows);
  else
    update ledger set people_version = people_version + 1 where id in (select distinct ledger_id from changed_rows);
  end if;
  return null;
end $$;
create procedure keep_version(tab text, part text) language plpgsql as $$
begin
  execute format('create trigger %s_added after insert on %1$I referencing new table as changed_rows for each statement execute function part_changed(%L)', tab, part);
  execute format('create trigger %s_altered after update on %1$I referencing new table as changed_rows for each statement execute function part_changed(%L)', tab, part);
  execute format('create trigger %s_gone after delete on %1$I referencing old table as changed_rows for each statement execute function part_changed(%L)', tab, part);
end $$;
-- +goose StatementEnd
call keep_version('paid_line', 'paid');
call keep_version('party', 'people');
call keep_version('payee', 'people');
drop procedure keep_version;

-- +goose Down
select 1;
