-- +goose Up
-- What is known of how a resin hardens besides its law, with source and range.
alter table resins add column facts jsonb not null default '{}';

-- A run that waits for a viscosity knows its resin's.
alter table runs add column viscosity jsonb;

-- +goose Down
select 1 / 0; -- migrations only go forward
