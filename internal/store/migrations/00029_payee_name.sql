-- +goose Up
-- Line 1 of a payee's Form W-9, where it is not the name of the vendor; and the day on which the
-- payee agreed to get statements electronically, empty where the payee did not, or has revoked it.
-- Alters a small table; the lock is short.
alter table payee add column legal_name text not null default '';
alter table payee add column e_consent date;

-- +goose Down
select 1;
