-- +goose Up
-- A file's payment lines are asked for by file only when it is put back or destroyed; the
-- index by ledger and day serves that, and a year of lines is written faster.
drop index paid_line_batch;

-- +goose Down
select 1;
