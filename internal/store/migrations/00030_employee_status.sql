-- +goose Up
-- What the law treats otherwise in an employee (owner's child, statutory employee and the like), as
-- a person set it; several are apart by spaces. Alters a small table; the lock is short.
alter table employee add column status text not null default '';

-- +goose Down
select 1;
