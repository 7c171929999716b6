-- +goose Up
-- History that came in with a bundle names who acted in words: the person need not be
-- one of this firm.
alter table history add column by_name text not null default '';

-- A sending's key is one in the whole database; whether it is taken may be asked, by
-- whom is not said.
-- +goose StatementBegin
create function filing_key_taken(k text) returns boolean language sql security definer set search_path = public, pg_temp as $$
  select exists (select 1 from filing where key = k)
$$;
-- +goose StatementEnd

-- +goose Down
select 1;
