-- +goose Up
-- Payees: payments to vendors, the boxes of the accounts they were charged to, what
-- is known of who is paid, thresholds of a ledger's own, adjustments, requests and
-- letters, sendings to a filing service.

alter table batch drop constraint batch_purpose_check;
alter table batch add constraint batch_purpose_check check (purpose in ('chart', 'trial-balance', 'parties', 'open-invoices', 'open-bills', 'bank-uncleared', 'statement', 'crosswalk', 'payroll-register', 'payroll-to-date', 'pay-bill', 'vendor-payments', 'prior-payments'));

alter table binding add column box text not null default '';
alter table binding drop constraint binding_answer_check;
alter table binding add constraint binding_answer_check check (answer in ('account', 'split', 'party', 'box', 'by-line', 'left-out', 'nothing'));
alter table binding add constraint binding_box_check check ((answer = 'box') = (box <> ''));

-- What Form W-9 says of a vendor, and a person's word on it.
create table payee (
  ledger_id bigint not null references ledger (id),
  party_id bigint not null,
  tax_kind text not null default '' check (tax_kind in ('', 'ssn', 'ein', 'itin')),
  number_mark bytea,                       -- tells the same number from another without opening it
  class_from text not null default '' check (class_from in ('', 'w9', 'said', 'guess')),
  w9_day date,
  street text not null default '',
  city text not null default '',
  state text not null default '',
  zip text not null default '',
  attorney boolean not null default false,
  agent boolean not null default false,
  ordered boolean not null default false,  -- the IRS ordered withholding
  gets text not null default '' check (gets in ('', 'yes', 'no')),
  why text not null default '',
  without_number boolean not null default false,
  joined_to bigint,                        -- said to be one payee with it
  apart boolean not null default false,    -- told apart from others with its number
  match_code int,                          -- answer of name-and-number matching
  match_mark bytea,                        -- of the name and number it was given for
  match_day date,
  version bigint not null default 1,
  primary key (ledger_id, party_id),
  foreign key (ledger_id, party_id) references party (ledger_id, id),
  foreign key (ledger_id, joined_to) references party (ledger_id, id)
);

-- A payment line as it was read: a fact with its dimensions in columns, since a year
-- of them is added up at once. What a person said of it stands beside, never over it.
create table paid_line (
  ledger_id bigint not null,
  id bigint generated always as identity,
  batch_id bigint not null,
  source text not null,
  prior boolean not null,
  head text not null,                      -- the payment, known by its id or day, vendor and reference
  no int not null,                         -- which line of it
  record int not null,
  line int not null,
  col int not null,
  vendor bigint,                           -- label; null where none is named
  label_id bigint not null,                -- of the account charged
  fund bigint,                             -- label of the account it was paid from
  day date not null,
  year int not null,                       -- in which it counts: a void counts in the year of what it undoes
  apart boolean not null default false,    -- a refund of another year's payment: counts in none
  amount bigint not null,
  withheld bigint not null default 0,
  kind text not null check (kind in ('payment', 'void', 'refund')),
  method text not null default '',         -- as the payment states it, read
  method_text text not null default '',    -- as written, where it could not be read
  suggested text not null default '',      -- read out of reference or memo: shown, never silent
  suggested_why text not null default '',
  ref text not null default '',
  memo text not null default '',
  undoes text not null default '',         -- as written
  undoes_head text not null default '',
  said_method text not null default '',
  said_box text not null default '',
  said_bucket text not null default '',
  said_why text not null default '',
  said_party bigint,
  gone boolean not null default false,     -- no longer in a later file of its source
  -- All that decides its bucket beside its vendor, in one figure: a year is added up by
  -- the two. It follows the columns by itself.
  way bigint not null generated always as (hashtextextended(
    label_id::text || E'\x01' || coalesce(fund, 0)::text || E'\x01' || year::text || E'\x01' || extract(year from day)::text || E'\x01' || prior::text || E'\x01' || apart::text || E'\x01' || kind
    || E'\x01' || method || E'\x01' || method_text || E'\x01' || suggested || E'\x01' || said_method || E'\x01' || said_box || E'\x01' || said_bucket || E'\x01' || said_why || E'\x01' || coalesce(said_party, 0)::text, 0)) stored,
  primary key (ledger_id, id)
);
create unique index paid_line_key on paid_line (ledger_id, source, prior, head, no);
create index paid_line_vendor on paid_line (vendor, day);
create index paid_line_day on paid_line (ledger_id, day);
create index paid_line_batch on paid_line (batch_id);
-- References are checked a statement at a time, as for the other tables that take a row
-- for each row of a file (migration 00003).
create trigger paid_line_refs after insert on paid_line referencing new table as new_rows for each statement execute function refs_hold('batch_id', 'batch', 'label_id', 'label', 'vendor', 'label', 'fund', 'label');
create trigger paid_line_said after update on paid_line referencing new table as new_rows for each statement execute function refs_hold('batch_id', 'batch', 'label_id', 'label', 'vendor', 'label', 'fund', 'label', 'said_party', 'party');

create table paid_fund (
  ledger_id bigint not null references ledger (id),
  label_id bigint not null,
  sort text not null check (sort in ('bank', 'card', 'network', 'cash')),
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  primary key (ledger_id, label_id),
  foreign key (ledger_id, label_id) references label (ledger_id, id)
);

create table payee_threshold (
  ledger_id bigint not null references ledger (id),
  year int not null,
  box text not null,
  amount bigint not null check (amount >= 0),
  reason text not null,
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  primary key (ledger_id, year, box)
);

create table payee_adjust (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  party_id bigint not null,
  year int not null,
  box text not null,
  amount bigint not null,
  reason text not null,
  moved bigint,                            -- the other half of a move between boxes
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  removed_at timestamptz,
  primary key (ledger_id, id),
  foreign key (ledger_id, party_id) references party (ledger_id, id)
);

create table payee_look (
  ledger_id bigint not null references ledger (id),
  person_id bigint not null references person (id),
  year int not null,
  at timestamptz not null default now(),
  seen jsonb not null,
  primary key (ledger_id, person_id, year)
);

-- Letters that went out: requests for a W-9, payee statements; the stand-in of a mail
-- service, and the log of how each payee got theirs.
create table letter (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  party_id bigint not null,
  what text not null check (what in ('w9', 'statement')),
  year int not null,
  form text not null default '',
  how text not null check (how in ('mail', 'print', 'hand')),
  address text not null default '',
  subject text not null default '',
  body text not null default '',
  paper bytea,                             -- sealed
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  primary key (ledger_id, id),
  foreign key (ledger_id, party_id) references party (ledger_id, id)
);

create table filing (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  year int not null,
  key text not null unique,                -- the service knows a sending by it: never filed twice
  service text not null,
  state text not null check (state in ('sending', 'waiting', 'failed', 'partly', 'accepted', 'rejected')),
  words text not null default '',
  retries int not null default 0,
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  answered_at timestamptz,
  primary key (ledger_id, id)
);

create table filing_row (
  ledger_id bigint not null,
  filing_id bigint not null,
  no int not null,
  party_id bigint not null,
  form text not null,
  corrected boolean not null default false,
  zero boolean not null default false,
  boxes jsonb not null,
  withheld bigint not null,
  name text not null,
  number_mark bytea,
  sealed bytea not null,                   -- the row as it is sent, with the number
  state text not null default 'waiting' check (state in ('waiting', 'accepted', 'rejected')),
  code text not null default '',
  words text not null default '',
  accepted jsonb,                          -- the boxes as the service has them
  primary key (ledger_id, filing_id, no),
  foreign key (ledger_id, filing_id) references filing (ledger_id, id),
  foreign key (ledger_id, party_id) references party (ledger_id, id)
);
create index filing_row_party on filing_row (party_id);

-- +goose StatementBegin
create or replace function know_table(name text) returns void language plpgsql security definer set search_path = public, pg_temp as $$
begin
  if name not in ('fact', 'line', 'trace', 'open_item', 'paid_line') then
    raise exception 'no such table to know: %', name;
  end if;
  execute format('analyze %I', name);
end $$;
-- +goose StatementEnd

-- +goose StatementBegin
do $$
declare t text;
begin
  foreach t in array array['payee', 'paid_line', 'paid_fund', 'payee_threshold', 'payee_adjust', 'payee_look', 'letter', 'filing', 'filing_row'] loop
    execute format('alter table %I enable row level security', t);
    execute format('create policy of_ledger on %I using (ledger_id = nullif(current_setting(''app.ledger_id'', true), '''')::bigint)', t);
  end loop;
end $$;
-- +goose StatementEnd

-- +goose Down
select 1;
