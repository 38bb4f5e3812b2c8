-- +goose Up
-- Plies that a nest was to give and that did not come off the table good: they wait to be cut again.
create table cut_misses (
    id       bigint generated always as identity primary key,
    nest_id  bigint not null references nests,
    build_id bigint not null references builds,
    ply_id   bigint not null references plies,
    why      text   not null check (why in ('damaged', 'lost', 'flawed', 'not cut')),
    note     text   not null default '',
    unique (nest_id, build_id, ply_id)
);

-- A nest as it was before it was arranged again: taken back, or kept where the search finds nothing.
alter table nests add column before jsonb;

-- A plan whose plies were cut by another is released: it is not cut any more.
alter table nests drop constraint nests_state_check;
alter table nests add constraint nests_state_check
    check (state in ('queued', 'running', 'done', 'failed', 'cut', 'released'));

-- A nest on a table with a knife. The table holds the state of its program; what it told last stands here.
create table cut_jobs (
    id         bigint generated always as identity primary key,
    nest_id    bigint not null references nests,
    name       text not null,                -- of the job, as the table knows it
    address    text not null,                -- of the table
    pieces     jsonb not null,               -- that it cuts
    by_kit     boolean not null,
    state      text not null check (state in ('queued', 'running', 'fault', 'stopped', 'done')),
    stop       boolean not null default false,
    x          double precision not null default 0, -- on the sheet, m
    y          double precision not null default 0,
    share      double precision not null default 0, -- of the program
    seconds    double precision not null,           -- that it takes by the plan
    piece      text not null default '',            -- that the knife is at
    freed      jsonb not null default '[]',         -- pieces that are cut free, in their order
    says       text not null default '',
    created_at timestamptz not null,
    seen_at    timestamptz not null,         -- when its worker was last at it, by the wall
    started_at timestamptz,
    ended_at   timestamptz
);
create unique index cut_jobs_one on cut_jobs (nest_id) where state in ('queued', 'running');
create index cut_jobs_nest on cut_jobs (nest_id, id);
create index cut_jobs_open on cut_jobs (seen_at) where state in ('queued', 'running');

-- +goose Down
select 1 / 0; -- migrations only go forward
