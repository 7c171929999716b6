-- +goose Up
-- Thousands of customers or vendors come in at once: what they point at is asked for as a set
-- after each statement, as for facts and lines, not row by row. A party keeps its key and is
-- never deleted (00003).
-- +goose StatementBegin
do $$
declare c record;
begin
  for c in select conname, conrelid::regclass::text as tab from pg_constraint
            where contype = 'f' and conrelid::regclass::text in ('party', 'payee', 'party_outside') and confrelid::regclass::text in ('ledger', 'party') loop
    execute format('alter table %I drop constraint %I', c.tab, c.conname);
  end loop;
end $$;
-- +goose StatementEnd
create trigger payee_refs after insert on payee referencing new table as new_rows for each statement execute function refs_hold('party_id', 'party', 'joined_to', 'party');
create trigger payee_moves after update on payee referencing new table as new_rows for each statement execute function refs_hold('party_id', 'party', 'joined_to', 'party');
create trigger party_outside_refs after insert on party_outside referencing new table as new_rows for each statement execute function refs_hold('party_id', 'party');
create trigger party_outside_moves after update on party_outside referencing new table as new_rows for each statement execute function refs_hold('party_id', 'party');
create trigger party_joins after update on party referencing new table as new_rows for each statement execute function refs_hold('joined_into', 'party');

-- +goose Down
select 1;
