-- +goose Up
-- The statement line that paid a bill which went through accounts payable, where it was one. Alters a
-- small table; the lock is short.
alter table pay_bill add column paid_batch bigint;
alter table pay_bill add column paid_record int;

-- +goose Down
select 1;
