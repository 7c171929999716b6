-- +goose Up
-- Under which run of which program a request with a key is under way, and when it last gave a
-- sign of life: whoever retries it takes it over from a program that died. Alters an empty or
-- small table; the lock is short.
alter table idempotency add column owner text not null default '';
alter table idempotency add column beat timestamptz not null default now();
alter table idempotency add column acted boolean not null default false; -- something of it was kept before its answer was
create index idempotency_age on idempotency (created_at);

-- A check of a password that has failed or is under way; the right password takes its own away.
create table password_try (
  id bigint generated always as identity primary key,
  account bytea not null, -- a digest of the address that was typed
  address text not null,
  at timestamptz not null
);
create index password_try_account on password_try (account, at);
create index password_try_address on password_try (address, at);
create index password_try_at on password_try (at);

-- +goose Down
select 1;
