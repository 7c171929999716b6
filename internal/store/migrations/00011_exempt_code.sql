-- +goose Up
-- The exempt payee code of Form W-9, as the payee wrote it; nothing else decides by it.
alter table payee add column exempt_code text not null default '';

-- +goose Down
select 1;
