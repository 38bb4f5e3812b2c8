-- +goose Up
-- A nest is of one sheet or several, its placements turn about the origin of a piece's own points. A
-- search whose worker falls silent goes to another.
alter table nests add column seen_at timestamptz not null default now(); -- when its worker was last at it

-- Nests that were cut stay to be seen: their placements are said anew. Before, a piece was turned and
-- then its box moved.
update nests set problem = (problem - 'width' - 'length' - 'edgeTrim' - 'flaws') || jsonb_build_object('sheets',
    jsonb_build_array(jsonb_strip_nulls(jsonb_build_object('width', problem->'width', 'length', problem->'length',
        'edgeTrim', problem->'edgeTrim', 'flaws', problem->'flaws'))))
    where problem ? 'width';
update nests n set best = best || jsonb_build_object('used', jsonb_build_array(best->'length'), 'placements', (
    select coalesce(jsonb_agg(jsonb_build_object('id', p->>'id', 'sheet', 0,
        'turn', case when (p->>'turned')::boolean then 180 else 0 end,
        'x', (p->>'x')::float8 + case when (p->>'turned')::boolean then box.x1 else -box.x0 end,
        'y', (p->>'y')::float8 + case when (p->>'turned')::boolean then box.y1 else -box.y0 end) order by place), '[]')
    from jsonb_array_elements(n.best->'placements') with ordinality as at (p, place)
    cross join lateral (
        select min((q->>0)::float8) as x0, max((q->>0)::float8) as x1, min((q->>1)::float8) as y0, max((q->>1)::float8) as y1
        from jsonb_array_elements(n.problem->'pieces') piece cross join jsonb_array_elements(piece->'outline') q
        where piece->>'id' = p->>'id') as box))
    where jsonb_typeof(best) = 'object' and not best ? 'used';
update nests set state = 'failed', says = 'this nest was made by an earlier version: nest again', best = null
    where state in ('queued', 'running', 'done');
create index nests_open on nests (seen_at) where state in ('queued', 'running');

-- +goose Down
select 1 / 0; -- migrations only go forward
