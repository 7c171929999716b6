-- +goose Up
-- A unit may hold no entry: a corrected list of open items that changes dates alone. It is
-- refused in a locked month like an entry, else what was signed would age otherwise.
-- +goose StatementBegin
create function unit_unlocked() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
begin
  if exists (select 1 from new_units u join ledger l on l.id = u.ledger_id where l.locked_through is not null and u.day <= l.locked_through) then
    raise exception 'the month is locked' using errcode = 'CT002';
  end if;
  return null;
end $$;
-- +goose StatementEnd
create trigger unit_unlocked after insert on unit referencing new table as new_units for each statement execute function unit_unlocked();

-- +goose Down
select 1;
