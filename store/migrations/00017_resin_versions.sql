-- +goose Up
-- What is said of a resin is kept in versions, each with where it comes from: a rate that was learned from a run is one.
alter table resins add column version integer not null default 1;
create table resin_versions (
    resin_id   bigint not null references resins,
    version    integer not null,
    facts      jsonb not null,
    why        text not null,
    person_id  bigint references people,
    created_at timestamptz not null,
    primary key (resin_id, version)
);
insert into resin_versions (resin_id, version, facts, why, created_at)
select id, 1, jsonb_strip_nulls(jsonb_build_object('name', name, 'kinetics', kinetics, 'viscosity', viscosity, 'alpha0', alpha0,
    'recipe', recipe)) || facts, coalesce(facts->>'source', ''), now() from resins;

-- +goose Down
select 1 / 0; -- migrations only go forward
