-- +goose Up
-- Papers kept as evidence of a file: a provider's PDF beside the run that was typed
-- from it, a scanned bill. They are shown and handed out, never read.

create table paper (
  ledger_id bigint not null,
  id bigint generated always as identity,
  batch_id bigint not null,
  name text not null,
  kind text not null check (kind in ('pdf', 'png', 'jpeg')),
  size int not null,
  fingerprint bytea not null,
  bytes bytea, -- sealed; gone if the file was destroyed
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  removed_at timestamptz,
  primary key (ledger_id, id),
  foreign key (ledger_id, batch_id) references batch (ledger_id, id)
);
create unique index paper_once on paper (ledger_id, batch_id, fingerprint) where removed_at is null;
alter table paper enable row level security;
create policy of_ledger on paper using (ledger_id = nullif(current_setting('app.ledger_id', true), '')::bigint);

-- What a provider's own forms say can come in a file: each figure knows its row.
alter table batch drop constraint batch_purpose_check;
alter table batch add constraint batch_purpose_check check (purpose in ('chart', 'trial-balance', 'parties', 'open-invoices', 'open-bills', 'bank-uncleared', 'statement', 'crosswalk', 'payroll-register', 'payroll-to-date', 'pay-bill', 'vendor-payments', 'prior-payments', 'payroll-forms'));
alter table pay_form add column batch_id bigint, add column record int not null default 0;
alter table pay_form add foreign key (ledger_id, batch_id) references batch (ledger_id, id);

-- +goose Down
select 1;
