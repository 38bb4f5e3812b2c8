-- +goose Up
-- A ply's shape on the table, in pieces, where it is not its outline on the tool.
alter table plies add column flat jsonb;

-- +goose Down
select 1 / 0; -- migrations only go forward
