-- +goose Up
-- What is known of how a resin hardens besides its law, with source and range.
alter table resins add column facts jsonb not null default '{}';

-- A run that waits for a viscosity knows its resin's.
alter table runs add column viscosity jsonb;

-- What cures are done in. What is changed is a new version; recipes name it.
create table equipment (
    id         bigint generated always as identity primary key,
    name       text not null,
    version    integer not null,
    facts      jsonb not null,
    why        text not null,
    person_id  bigint references people,
    created_at timestamptz not null,
    unique (name, version)
);

-- Recipes are planned on a page, with the stack and the equipment that they are for; each saving is a version, and one
-- that a second person has released stays as it is.
create table recipes (
    id          bigint generated always as identity primary key,
    name        text not null,
    version     integer not null,
    state       text not null check (state in ('draft', 'released', 'superseded')),
    resin_id    bigint not null references resins,
    equipment   text not null,
    plan        jsonb not null,
    written_by  bigint references people,
    written_at  timestamptz not null,
    released_by bigint references people,
    released_at timestamptz,
    unique (name, version)
);
create index recipes_newest on recipes (name, version desc);

-- +goose StatementBegin
create function recipe_stays() returns trigger language plpgsql as $$
begin
    if old.plan is distinct from new.plan or old.name <> new.name or old.version <> new.version
        or old.resin_id <> new.resin_id or old.equipment <> new.equipment then
        raise exception 'a version of a recipe stays as it is';
    end if;
    return new;
end $$;
-- +goose StatementEnd
create trigger recipe_stays before update on recipes for each row execute function recipe_stays();

-- +goose Down
select 1 / 0; -- migrations only go forward
