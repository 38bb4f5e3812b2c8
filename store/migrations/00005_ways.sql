-- +goose Up
-- How somebody likes to work: the units that they read and type in, and the
-- single keys that do something at once.
alter table people add column ways jsonb not null default '{}';

-- +goose Down
select 1 / 0; -- migrations only go forward
