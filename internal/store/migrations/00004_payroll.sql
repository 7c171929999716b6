-- +goose Up
-- Payroll from an outside provider: who is paid, what the items are, the runs and
-- what left the bank for them. Amounts stand in facts, as the register has them.

alter table batch drop constraint batch_purpose_check;
alter table batch add constraint batch_purpose_check check (purpose in ('chart', 'trial-balance', 'parties', 'open-invoices', 'open-bills', 'bank-uncleared', 'statement', 'crosswalk', 'payroll-register', 'payroll-to-date'));

create table employee (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  source text not null,
  key text not null,
  number text not null default '',
  name text not null,
  team text not null default '',
  officer boolean not null default false,
  primary key (ledger_id, id),
  unique (ledger_id, source, key)
);

-- What a provider's pay item is. sure: read off its name or said by a person; what
-- is not sure holds its run.
create table pay_item (
  ledger_id bigint not null references ledger (id),
  label_id bigint not null,
  kind text not null default '',
  sure boolean not null default false,
  why text not null default '',
  position int not null default 0,
  feeds jsonb, -- the boxes a person said; null: as its kind
  version bigint not null default 1,
  primary key (ledger_id, label_id),
  foreign key (ledger_id, label_id) references label (ledger_id, id)
);

create table pay_run (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  source text not null,
  batch_id bigint not null,
  prior boolean not null default false, -- figures of before the start: never posted
  provider text not null default '',
  company text not null default '',
  period_from date,
  period_to date,
  check_date date,
  outside_id text not null default '',
  kind text not null default 'regular',
  people int not null default 0,
  controls jsonb not null default '[]', -- label id and amount, as printed
  checks jsonb not null default '[]',   -- paper checks: employee, number, amount
  version bigint not null default 1,
  primary key (ledger_id, id),
  unique (ledger_id, batch_id),
  foreign key (ledger_id, batch_id) references batch (ledger_id, id)
);

create table pay_draw (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  run_id bigint not null,
  kind text not null check (kind in ('net', 'taxes', 'fee')),
  day date not null,
  amount bigint not null check (amount > 0),
  words text not null default '',
  batch_id bigint,
  record int not null default 0,
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  removed_at timestamptz,
  primary key (ledger_id, id),
  foreign key (ledger_id, run_id) references pay_run (ledger_id, id),
  foreign key (ledger_id, batch_id) references batch (ledger_id, id)
);
-- One line of a statement pays one draw.
create unique index pay_draw_line on pay_draw (ledger_id, batch_id, record) where batch_id is not null and removed_at is null;

-- +goose StatementBegin
do $$
declare t text;
begin
  foreach t in array array['employee', 'pay_item', 'pay_run', 'pay_draw'] loop
    execute format('alter table %I enable row level security', t);
    execute format('create policy of_ledger on %I using (ledger_id = nullif(current_setting(''app.ledger_id'', true), '''')::bigint)', t);
  end loop;
end $$;
-- +goose StatementEnd

-- +goose Down
select 1;
