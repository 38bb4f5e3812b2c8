-- +goose Up
-- What re-tests gave a roll goes with what is cut of it.
alter table cut_plies
    add column more double precision not null default 0 check (more >= 0),
    add column until timestamptz;
alter table rolls
    add column base_more double precision not null default 0 check (base_more >= 0),
    add column base_until timestamptz;
-- Plies that were cut after a re-test of their roll had it as well: it stands in
-- the ledger, with the moment of both.
update cut_plies c set more = t.more, until = t.until from (
    select c.id, sum(e.more) as more, (array_agg(e.until order by e.at desc, e.id desc) filter (where e.until is not null))[1] as until
    from cut_plies c join freezer_events e on e.roll_id = c.roll_id and e.kind = 'retested' and e.at <= c.cut_at
    where not exists (select from freezer_events k where k.cancels = e.id)
    group by c.id) t where t.id = c.id;

-- +goose Down
select 1 / 0; -- migrations only go forward
