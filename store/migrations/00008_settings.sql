-- +goose Up
-- Two halves of one build may lie in one run: it completes an operation of each.
alter table run_builds drop constraint run_builds_pkey, add primary key (run_id, build_id, operation);

-- +goose Down
select 1 / 0; -- migrations only go forward
