-- +goose Up
-- Counts up when a person signs out everywhere: a session of an earlier count is over, also
-- one that is just being saved.
alter table person add column session_epoch int not null default 0;

-- +goose Down
select 1;
