-- +goose Up
-- Openings in full: parties, open items, the bank as of the cutover, splits,
-- kits, connections, sign-offs.

alter table batch drop constraint batch_purpose_check;
alter table batch add constraint batch_purpose_check check (purpose in ('chart', 'trial-balance', 'parties', 'open-invoices', 'open-bills', 'bank-uncleared', 'statement', 'crosswalk'));
alter table batch add column account_id bigint;
alter table batch add foreign key (ledger_id, account_id) references account (ledger_id, id);

alter table account add column pinned boolean not null default false;
alter table account add column hidden_from text[] not null default '{}';
alter table account add column merged_into bigint;
alter table account add foreign key (ledger_id, merged_into) references account (ledger_id, id);

create table party (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  name text not null,
  trade_name text not null default '',
  kinds text[] not null default '{}',
  class text not null default '',
  terms text not null default '',
  address text not null default '',
  email text not null default '',
  telephone text not null default '',
  tax_id_sealed bytea,
  note text not null default '',
  active boolean not null default true,
  version bigint not null default 1,
  primary key (ledger_id, id)
);
create unique index party_name on party (ledger_id, lower(name)) where active;

create table party_outside (
  ledger_id bigint not null references ledger (id),
  source text not null,
  kind text not null,
  outside_id text not null,
  party_id bigint not null,
  primary key (ledger_id, source, kind, outside_id),
  foreign key (ledger_id, party_id) references party (ledger_id, id)
);

alter table binding drop constraint binding_answer_check;
alter table binding drop constraint binding_check;
alter table binding add column party_id bigint;
alter table binding add column parts jsonb not null default '[]';
alter table binding add foreign key (ledger_id, party_id) references party (ledger_id, id);
alter table binding add constraint binding_answer_check check (answer in ('account', 'split', 'party', 'left-out', 'nothing'));
alter table binding add constraint binding_target_check check ((answer in ('account', 'split')) = (account_id is not null) and (answer = 'party') = (party_id is not null));

-- A posted open item. Its identity lives once; ended_by is the unit that reversed
-- it. Dates can be amended (with history), since they move no money.
create table open_item (
  ledger_id bigint not null,
  id bigint generated always as identity,
  side text not null check (side in ('receivable', 'payable')),
  source text not null,
  identity text not null,
  party_id bigint not null,
  doc text not null,
  number text not null,
  item_day date,
  due_day date,
  terms text not null default '',
  age_day date, -- due day, or day plus terms; null where nothing says when
  amount bigint not null,
  original bigint not null default 0,
  settled bigint not null default 0,
  said boolean not null default false,
  tax bigint not null default 0,
  tags jsonb not null default '{}',
  fact_id bigint not null,
  record int not null,
  unit_id bigint not null,
  ended_by bigint,
  primary key (ledger_id, id),
  foreign key (ledger_id, party_id) references party (ledger_id, id),
  foreign key (ledger_id, fact_id) references fact (ledger_id, id),
  foreign key (ledger_id, unit_id) references unit (ledger_id, id),
  foreign key (ledger_id, ended_by) references unit (ledger_id, id)
);
create unique index open_item_once on open_item (ledger_id, side, source, identity) where ended_by is null;
create index open_item_party on open_item (party_id);
create index open_item_unit on open_item (unit_id);
-- A label's facts and what was posted from them are walked together.
create index fact_label_id on fact (label_id, id);
drop index fact_label;

create table item_amendment (
  ledger_id bigint not null,
  id bigint generated always as identity,
  item_id bigint not null,
  unit_id bigint not null,
  fact_id bigint not null,
  before jsonb not null,
  after jsonb not null,
  undone boolean not null default false,
  primary key (ledger_id, id),
  foreign key (ledger_id, item_id) references open_item (ledger_id, id),
  foreign key (ledger_id, unit_id) references unit (ledger_id, id)
);

create table uncleared (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  account_id bigint not null,
  kind text not null check (kind in ('check', 'deposit')),
  day date,
  number text not null default '',
  payee text not null default '',
  amount bigint not null check (amount <> 0),
  batch_id bigint,
  record int not null default 0,
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  removed_at timestamptz,
  primary key (ledger_id, id),
  foreign key (ledger_id, account_id) references account (ledger_id, id),
  foreign key (ledger_id, batch_id) references batch (ledger_id, id)
);

-- What the bank's statement says as of the cutover; the latest one counts.
create table bank_balance (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  account_id bigint not null,
  day date not null,
  amount bigint not null,
  batch_id bigint,
  withdrawn boolean not null default false,
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  primary key (ledger_id, id),
  foreign key (ledger_id, account_id) references account (ledger_id, id),
  foreign key (ledger_id, batch_id) references batch (ledger_id, id)
);

create table signoff (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  what text not null,
  through date not null,
  note text not null default '',
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  unlocked_by bigint references person (id),
  unlocked_at timestamptz,
  unlock_reason text not null default '',
  primary key (ledger_id, id)
);

-- Decisions about a ledger that are neither particulars nor mappings.
create table ledger_choice (
  ledger_id bigint not null references ledger (id),
  key text not null,
  value text not null,
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  primary key (ledger_id, key)
);

create table kit (
  id bigint generated always as identity primary key,
  firm_id bigint not null references firm (id),
  name text not null,
  client text not null,
  rows jsonb not null,
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  unique (firm_id, name)
);

create table kit_laid (
  ledger_id bigint not null references ledger (id),
  kit_id bigint not null references kit (id),
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  primary key (ledger_id, kit_id)
);

-- One outside company binds to one client.
create table connection (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  firm_id bigint not null references firm (id),
  kind text not null,
  address text not null,
  company_id text not null,
  company text not null,
  tax_id_masked text not null default '',
  currency text not null default '',
  last_entry date,
  consent_by bigint not null references person (id),
  consent_at timestamptz not null default now(),
  consent_until date not null,
  ended_at timestamptz,
  pulled_at timestamptz,
  primary key (ledger_id, id)
);
create unique index connection_one on connection (firm_id, kind, company_id) where ended_at is null;

-- Long acts and how far they are; what died in the middle can be begun again.
create table long_act (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  act text not null,
  args jsonb not null default '{}',
  state text not null default 'waiting' check (state in ('waiting', 'running', 'done', 'failed', 'cancelled')),
  done int not null default 0,
  total int not null default 0,
  words text not null default '',
  result jsonb,
  problem jsonb,
  beat timestamptz not null default now(),
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  primary key (ledger_id, id)
);

-- +goose StatementBegin
do $$
declare t text;
begin
  foreach t in array array['party', 'party_outside', 'open_item', 'item_amendment', 'uncleared', 'bank_balance', 'signoff', 'ledger_choice', 'kit_laid', 'connection', 'long_act'] loop
    execute format('alter table %I enable row level security', t);
    execute format('create policy of_ledger on %I using (ledger_id = nullif(current_setting(''app.ledger_id'', true), '''')::bigint)', t);
  end loop;
end $$;
-- +goose StatementEnd
alter table kit enable row level security;
create policy of_firm on kit using (firm_id = nullif(current_setting('app.firm_id', true), '')::bigint);

-- +goose Down
select 1;
