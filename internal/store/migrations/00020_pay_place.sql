-- +goose Up
-- The state or locality that a pay item is of, for boxes 15 to 20 of Form W-2, where a person
-- said it; null: as its name says, empty: none.
alter table pay_item add column place text;

-- The customer or vendor that one which is not active any more was joined into.
alter table party add column joined_into bigint;

-- +goose Down
select 1;
