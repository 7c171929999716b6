-- +goose Up
-- The state or locality that a pay item is of, for boxes 15 to 20 of Form W-2, where a person
-- said it; null: as its name says, empty: none.
alter table pay_item add column place text;

-- +goose Down
select 1;
