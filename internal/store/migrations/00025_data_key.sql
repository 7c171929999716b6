-- +goose Up
-- A mark of the data key that everything here is sealed with: a server with another key is
-- refused at its start, instead of showing blanks and sealing new data under it.
create table data_key (
  one boolean primary key default true check (one),
  mark bytea not null,
  at timestamptz not null default now()
);
-- Something sealed, with its ledger, for a database from before the mark was kept: row-level
-- security hides every ledger's from the server that asks.
-- +goose StatementBegin
create function sealed_sample() returns table (ledger bigint, sealed bytea) language sql security definer set search_path = public, pg_temp as $$
  select ledger_id, summary from batch where summary is not null order by ledger_id, id limit 1
$$;
-- +goose StatementEnd
revoke all on function sealed_sample() from public;

-- +goose Down
select 1;
