-- +goose Up
-- Two halves of one build may lie in one run: it completes an operation of each.
alter table run_builds drop constraint run_builds_pkey, add primary key (run_id, build_id, operation);

-- What a kit of a route holds besides its plies is counted by item, with the label of what
-- it is taken from.
create table kit_items (
    build_id   bigint not null references builds,
    operation  text not null,
    item_key   text not null, -- of the document
    taken_from text not null default '', -- id of a roll or a batch, or what stands on a bought part
    counted_at timestamptz not null,
    counted_by bigint not null references people,
    primary key (build_id, operation, item_key)
);
alter table kit_counts add column container text not null default '';

-- +goose Down
select 1 / 0; -- migrations only go forward
