-- +goose Up
-- An accepted difference can be withdrawn: a row that says so is added, with who did it and when;
-- the latest row of a proof counts. Alters a small table; the lock is short.
alter table acceptance add column withdrawn boolean not null default false;

-- +goose Down
select 1;
