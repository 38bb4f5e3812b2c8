-- +goose Up
-- What a run was expected to do when it was started: its plan, as foreseen for what was loaded. Null: of before cures
-- were foreseen.
alter table runs add column foreseen jsonb;

-- Pressure above the air outside, Pa, of what has one.
alter table samples add column pressure double precision;

-- +goose Down
select 1 / 0; -- migrations only go forward
