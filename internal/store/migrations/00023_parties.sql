-- +goose Up
-- Two customers or vendors of one name are two: they are told apart by id, number and address.
-- That a name typed by hand is not there yet is asked by the application.
drop index party_name;
create index party_by_name on party (ledger_id, lower(name)) where active;
-- A file may hold several bills; each is one of its parts, in their order from 0.
alter table pay_bill drop constraint pay_bill_ledger_id_batch_id_key;
alter table pay_bill add column part int default 0;
create unique index pay_bill_part on pay_bill (ledger_id, batch_id, coalesce(part, 0));

-- +goose Down
select 1;
