-- +goose Up
-- The wall between clients asked which ledger is set for every row it let through. Asked
-- in a sub-select it is asked once a statement; what it lets through is the same.
-- +goose StatementBegin
do $$
declare p record;
begin
  for p in select tablename, policyname, qual from pg_policies where schemaname = 'public' and qual like '%current_setting%' loop
    execute format('alter policy %I on %I using (%s = (select nullif(current_setting(%L, true), '''')::bigint))', p.policyname, p.tablename,
      case p.policyname when 'of_firm' then 'firm_id' else 'ledger_id' end,
      case p.policyname when 'of_firm' then 'app.firm_id' else 'app.ledger_id' end);
  end loop;
end $$;
-- +goose StatementEnd

-- +goose Down
select 1;
