-- +goose Up
-- Every ledger table has ledger_id first in its keys, so that it can be
-- partitioned or sharded by ledger later. Amounts are minor units; debit is
-- positive. Posted is posted: entries, lines, traces, units, bindings, facts and
-- history are only ever added to.

create table firm (
  id bigint generated always as identity primary key,
  name text not null,
  time_zone text not null default 'America/New_York'
);

create table person (
  id bigint generated always as identity primary key,
  firm_id bigint not null references firm (id),
  email text not null,
  name text not null,
  initials text not null,
  role text not null check (role in ('owner', 'bookkeeper', 'reviewer', 'contributor')),
  password_hash text not null,
  active boolean not null default true,
  created_at timestamptz not null default now()
);
create unique index person_email on person (lower(email));

create table api_token (
  id bigint generated always as identity primary key,
  person_id bigint not null references person (id),
  name text not null,
  hash bytea not null unique,
  created_at timestamptz not null default now(),
  last_used_at timestamptz,
  revoked_at timestamptz
);

create table sessions (token text primary key, data bytea not null, expiry timestamptz not null);
create index sessions_expiry on sessions (expiry);

create table idempotency (
  person_id bigint not null references person (id),
  key text not null,
  request bytea not null,
  status int,
  content_type text not null default '',
  body bytea,
  created_at timestamptz not null default now(),
  primary key (person_id, key)
);

create table ledger (
  id bigint generated always as identity primary key,
  firm_id bigint not null references firm (id),
  name text not null,
  legal_name text not null default '',
  trade_name text not null default '',
  entity_class text not null,
  tax_id_sealed bytea,
  address text not null default '',
  telephone text not null default '',
  fiscal_year_end int not null default 12 check (fiscal_year_end between 1 and 12),
  method text not null default 'accrual' check (method in ('accrual', 'cash')),
  currency text not null default 'USD',
  opening_day date not null,
  needs text[] not null default '{openings}',
  locked_through date,
  version bigint not null default 1,
  touched_at timestamptz not null default now(),
  touched_by bigint references person (id),
  created_at timestamptz not null default now(),
  unique (firm_id, name)
);

create table ledger_member (
  ledger_id bigint not null references ledger (id),
  person_id bigint not null references person (id),
  role text not null check (role in ('owner', 'bookkeeper', 'reviewer', 'contributor')),
  sees_pay boolean not null default false,
  sees_tax_ids boolean not null default false,
  primary key (ledger_id, person_id)
);

create table history (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  at timestamptz not null default now(),
  person_id bigint not null references person (id),
  what text not null,
  subject text not null,
  subject_id bigint not null default 0,
  before jsonb,
  after jsonb,
  primary key (ledger_id, id)
);
create index history_subject on history (subject, subject_id);

create table account (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  number text not null default '',
  name text not null,
  kind text not null default '',
  sort text not null default '',
  parent_id bigint,
  active boolean not null default true,
  role text not null default '',
  tax_code text not null default '',
  note text not null default '',
  version bigint not null default 1,
  primary key (ledger_id, id),
  foreign key (ledger_id, parent_id) references account (ledger_id, id)
);
create unique index account_number on account (ledger_id, number) where number <> '';
create unique index account_name on account (ledger_id, coalesce(parent_id, 0), lower(name)) where active;
create unique index account_role on account (ledger_id, role) where role <> '' and active;

create table account_outside (
  ledger_id bigint not null references ledger (id),
  source text not null,
  outside_id text not null,
  account_id bigint not null,
  primary key (ledger_id, source, outside_id),
  foreign key (ledger_id, account_id) references account (ledger_id, id)
);

-- A batch is a file's bytes, kept as they came. State: sheet (being looked at),
-- taken (its reading is frozen), aside (not used), destroyed (bytes gone).
create table batch (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  purpose text not null check (purpose in ('chart', 'trial-balance')),
  source text not null,
  name text not null,
  sheet text not null default '',
  format text not null,
  fingerprint bytea not null,
  size bigint not null,
  bytes bytea,
  state text not null default 'sheet' check (state in ('sheet', 'taken', 'aside', 'destroyed')),
  settings jsonb not null default '{}',
  summary bytea, -- the reading, sealed: it repeats what stands in the file
  confirmed jsonb not null default '[]',
  classes bytea,
  records int not null default 0,
  reading int not null default 0,
  version bigint not null default 1,
  created_by bigint not null references person (id),
  created_at timestamptz not null default now(),
  taken_by bigint references person (id),
  taken_at timestamptz,
  primary key (ledger_id, id)
);
create index batch_fingerprint on batch (fingerprint);

create table raw_chunk (
  ledger_id bigint not null,
  batch_id bigint not null,
  first_record int not null,
  cells bytea not null,
  primary key (ledger_id, batch_id, first_record),
  foreign key (ledger_id, batch_id) references batch (ledger_id, id)
);
alter table raw_chunk alter column cells set storage external;

-- Corrections stand beside the raw text, never over it.
create table fix (
  ledger_id bigint not null,
  batch_id bigint not null,
  id bigint generated always as identity,
  record int not null,
  col int not null,
  text text,
  class text,
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  primary key (ledger_id, batch_id, id),
  foreign key (ledger_id, batch_id) references batch (ledger_id, id)
);

-- Column choices are remembered per source and purpose.
create table source_choice (
  ledger_id bigint not null references ledger (id),
  source text not null,
  purpose text not null,
  settings jsonb not null,
  primary key (ledger_id, source, purpose)
);

create table label (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  source text not null,
  kind text not null,
  key text not null,
  outside_id text not null default '',
  number text not null default '',
  name text not null default '',
  account_kind text not null default '',
  section text not null default '',
  primary key (ledger_id, id),
  unique (ledger_id, source, kind, key)
);

create table fact (
  ledger_id bigint not null,
  id bigint generated always as identity,
  batch_id bigint not null,
  reading int not null,
  label_id bigint not null,
  day date not null,
  amount bigint not null,
  record int not null,
  line int not null,
  col int not null,
  party text not null default '',
  dims jsonb not null default '{}',
  primary key (ledger_id, id),
  foreign key (ledger_id, batch_id) references batch (ledger_id, id),
  foreign key (ledger_id, label_id) references label (ledger_id, id)
);
create index fact_batch on fact (batch_id, reading, record);
create index fact_label on fact (label_id);

create table binding (
  ledger_id bigint not null,
  id bigint generated always as identity,
  label_id bigint not null,
  facet text not null,
  qualifiers jsonb not null default '{}',
  from_day date,
  answer text not null check (answer in ('account', 'left-out', 'nothing')),
  account_id bigint,
  reason text not null default '',
  evidence text not null default '',
  revisit boolean not null default false,
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  primary key (ledger_id, id),
  foreign key (ledger_id, label_id) references label (ledger_id, id),
  foreign key (ledger_id, account_id) references account (ledger_id, id),
  check ((answer = 'account') = (account_id is not null))
);
create index binding_label on binding (label_id);

create table unit (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  area text not null,
  purpose text not null,
  title text not null,
  batch_id bigint,
  day date not null,
  reverses_unit bigint,
  note text not null default '',
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  primary key (ledger_id, id),
  unique (ledger_id, reverses_unit),
  foreign key (ledger_id, batch_id) references batch (ledger_id, id),
  foreign key (ledger_id, reverses_unit) references unit (ledger_id, id)
);

create table once_key (
  ledger_id bigint not null,
  id bigint generated always as identity,
  key text not null,
  unit_id bigint not null,
  released_by bigint,
  primary key (ledger_id, id),
  foreign key (ledger_id, unit_id) references unit (ledger_id, id),
  foreign key (ledger_id, released_by) references unit (ledger_id, id)
);
create unique index once_key_live on once_key (ledger_id, key) where released_by is null;

create table entry (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  unit_id bigint not null,
  day date not null,
  kind text not null,
  party text not null default '',
  method text not null default '',
  memo text not null default '',
  reverses_entry bigint,
  first_line int not null default 1 check (first_line = 1),
  primary key (ledger_id, id),
  unique (ledger_id, reverses_entry),
  foreign key (ledger_id, unit_id) references unit (ledger_id, id),
  foreign key (ledger_id, reverses_entry) references entry (ledger_id, id)
);
create index entry_unit on entry (unit_id);

create table line (
  ledger_id bigint not null,
  entry_id bigint not null,
  no int not null check (no > 0),
  account_id bigint not null,
  amount bigint not null,
  party text not null default '',
  tags jsonb not null default '{}',
  memo text not null default '',
  primary key (ledger_id, entry_id, no),
  foreign key (ledger_id, entry_id) references entry (ledger_id, id),
  foreign key (ledger_id, account_id) references account (ledger_id, id)
);
create index line_account on line (account_id, entry_id);
alter table entry add foreign key (ledger_id, id, first_line) references line (ledger_id, entry_id, no) deferrable initially deferred;

create table trace (
  ledger_id bigint not null,
  entry_id bigint not null,
  no int not null,
  part int not null,
  fact_id bigint not null,
  amount bigint not null,
  bindings bigint[] not null default '{}',
  primary key (ledger_id, entry_id, no, part),
  foreign key (ledger_id, entry_id, no) references line (ledger_id, entry_id, no),
  foreign key (ledger_id, fact_id) references fact (ledger_id, id)
);
create index trace_fact on trace (fact_id);

-- Balances per account and month; only the trigger writes here.
create table balance (
  ledger_id bigint not null,
  account_id bigint not null,
  month date not null,
  debit bigint not null,
  credit bigint not null,
  primary key (ledger_id, account_id, month),
  foreign key (ledger_id, account_id) references account (ledger_id, id)
);

create table acceptance (
  ledger_id bigint not null references ledger (id),
  id bigint generated always as identity,
  proof text not null,
  left_amount bigint not null,
  right_amount bigint not null,
  reason text not null,
  person_id bigint not null references person (id),
  at timestamptz not null default now(),
  primary key (ledger_id, id)
);

-- +goose StatementBegin
create function line_posted() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
declare bad bigint;
begin
  select entry_id into bad from new_lines group by ledger_id, entry_id
    having sum(amount) <> 0 or min(no) <> 1 or max(no) <> count(*) limit 1;
  if found then
    raise exception 'entry % does not sum to zero, or its lines are not whole', bad using errcode = 'CT001';
  end if;
  insert into balance as b (ledger_id, account_id, month, debit, credit)
    select n.ledger_id, n.account_id, date_trunc('month', e.day)::date,
           sum(case when n.amount > 0 then n.amount else 0 end), sum(case when n.amount < 0 then -n.amount else 0 end)
      from new_lines n join entry e on e.ledger_id = n.ledger_id and e.id = n.entry_id
     group by 1, 2, 3 order by 1, 2, 3
  on conflict (ledger_id, account_id, month) do update set debit = b.debit + excluded.debit, credit = b.credit + excluded.credit;
  return null;
end $$;
-- +goose StatementEnd
create trigger line_posted after insert on line referencing new table as new_lines for each statement execute function line_posted();

-- +goose StatementBegin
create function entry_unlocked() returns trigger language plpgsql security definer set search_path = public, pg_temp as $$
begin
  if exists (select 1 from new_entries e join ledger l on l.id = e.ledger_id where l.locked_through is not null and e.day <= l.locked_through) then
    raise exception 'the month is locked' using errcode = 'CT002';
  end if;
  return null;
end $$;
-- +goose StatementEnd
create trigger entry_unlocked after insert on entry referencing new table as new_entries for each statement execute function entry_unlocked();

-- +goose StatementBegin
create function posted_is_posted() returns trigger language plpgsql as $$
begin
  raise exception '% is only ever added to', tg_table_name using errcode = 'CT003';
end $$;
-- +goose StatementEnd
-- +goose StatementBegin
do $$
declare t text;
begin
  foreach t in array array['entry', 'line', 'trace', 'unit', 'binding', 'fact', 'history', 'fix', 'acceptance'] loop
    execute format('create trigger %I before update or delete on %I for each statement execute function posted_is_posted()', t || '_kept', t);
    execute format('create trigger %I before truncate on %I for each statement execute function posted_is_posted()', t || '_kept_whole', t);
  end loop;
end $$;
-- +goose StatementEnd

-- Row-level security is the second wall: the application sets app.firm_id and
-- app.ledger_id in each transaction after checking the person's rights.
-- +goose StatementBegin
do $$
declare t text;
begin
  foreach t in array array['ledger_member', 'history', 'account', 'account_outside', 'batch', 'raw_chunk', 'fix', 'source_choice', 'label', 'fact', 'binding', 'unit', 'once_key', 'entry', 'line', 'trace', 'balance', 'acceptance'] loop
    execute format('alter table %I enable row level security', t);
    execute format('create policy of_ledger on %I using (ledger_id = nullif(current_setting(''app.ledger_id'', true), '''')::bigint)', t);
  end loop;
end $$;
-- +goose StatementEnd
alter table ledger enable row level security;
create policy of_firm on ledger using (firm_id = nullif(current_setting('app.firm_id', true), '')::bigint);
-- A person's own memberships decide which clients they see, before a ledger is set.
create policy of_firm on ledger_member for select using (exists (select 1 from ledger l where l.id = ledger_id));

-- +goose Down
select 1;
