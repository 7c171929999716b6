-- +goose Up
-- Corrected registers, summaries that join their detail, answers to questions
-- about a run, the officers' share of totals; carriers' bills and fee invoices; what
-- the provider's own forms say.

alter table batch drop constraint batch_purpose_check;
alter table batch add constraint batch_purpose_check check (purpose in ('chart', 'trial-balance', 'parties', 'open-invoices', 'open-bills', 'bank-uncleared', 'statement', 'crosswalk', 'payroll-register', 'payroll-to-date', 'pay-bill'));

alter table pay_run
  add column replaces bigint,                            -- the run that this one corrects
  add column joined_batch bigint,                        -- the summary of the same run
  add column joined jsonb not null default '[]',         -- its totals: label id and amount
  add column answers jsonb not null default '[]',        -- questions a person answered
  add column officer_share jsonb not null default '[]',  -- of totals: label id and amount
  add column to_date jsonb not null default '[]',        -- the provider's year to date: label id and amount
  add column sums jsonb,                                 -- by item and group, kept so that lists need not add facts up
  add column tax_ties jsonb not null default '[]',       -- computed taxes as they stood when it was posted
  add column posted_rules jsonb;                         -- as it was posted

create table pay_bill (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  batch_id bigint not null,
  kind text not null check (kind in ('carrier', 'fee')),
  party text not null default '',
  number text not null default '',
  day date,
  month text not null default '',        -- the month of runs it is for, year-month
  run_id bigint,                         -- the run that a fee invoice is for
  employee_item bigint,                  -- the deduction that it takes up
  employer_item bigint,                  -- the employer's contribution
  from_account bigint,                   -- what pays it
  printed bigint,                        -- the total on the paper
  version bigint not null default 1,
  primary key (ledger_id, id),
  unique (ledger_id, batch_id),
  foreign key (ledger_id, batch_id) references batch (ledger_id, id),
  foreign key (ledger_id, run_id) references pay_run (ledger_id, id),
  foreign key (ledger_id, employee_item) references label (ledger_id, id),
  foreign key (ledger_id, employer_item) references label (ledger_id, id),
  foreign key (ledger_id, from_account) references account (ledger_id, id)
);

create table pay_form (
  ledger_id bigint not null references ledger (id),
  form text not null,
  year int not null,
  quarter int not null default 0,
  box text not null,
  amount bigint not null,
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  primary key (ledger_id, form, year, quarter, box)
);

-- An item of one run is asked for all the time.
create index fact_batch_label on fact (batch_id, label_id);

alter table connection add column from_day date; -- of a payroll provider: earlier runs only on request

-- +goose StatementBegin
do $$
declare t text;
begin
  foreach t in array array['pay_bill', 'pay_form'] loop
    execute format('alter table %I enable row level security', t);
    execute format('create policy of_ledger on %I using (ledger_id = nullif(current_setting(''app.ledger_id'', true), '''')::bigint)', t);
  end loop;
end $$;
-- +goose StatementEnd

-- +goose Down
select 1;
