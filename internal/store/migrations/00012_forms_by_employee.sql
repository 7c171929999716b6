-- +goose Up
-- The provider's own Form W-2 is one for each employee; 0 is the total of all.
alter table pay_form add column employee_id bigint not null default 0;
alter table pay_form drop constraint pay_form_pkey;
alter table pay_form add primary key (ledger_id, form, year, quarter, box, employee_id);
alter table pay_form add constraint pay_form_whose check (employee_id = 0 or form = 'w2');

-- +goose Down
select 1;
