-- +goose Up
-- How often a search was taken up by a worker: one that comes back late finds that it is another's turn.
alter table nests add column turn integer not null default 0;
alter table cut_jobs add column turn integer not null default 0;
alter table drape_searches add column turn integer not null default 0;

-- +goose Down
select 1 / 0; -- migrations only go forward
