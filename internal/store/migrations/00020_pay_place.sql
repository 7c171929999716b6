-- +goose Up
-- The state or locality that a pay item is of, for boxes 15 to 20 of Form W-2, where a person
-- said it; null: as its name says, empty: none.
alter table pay_item add column place text;

-- The customer or vendor that one which is not active any more was joined into.
alter table party add column joined_into bigint;

-- Nobody asks for payment lines by these.
alter table paid_line alter record set statistics 0, alter line set statistics 0, alter col set statistics 0, alter amount set statistics 0, alter withheld set statistics 0, alter method_text set statistics 0, alter suggested_why set statistics 0, alter memo set statistics 0, alter said_why set statistics 0;

-- +goose Down
select 1;
