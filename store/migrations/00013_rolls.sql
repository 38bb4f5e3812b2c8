-- +goose Up
-- A nest that was searched on several rolls is one on each of them when it is found; the others name the first.
alter table nests add column lead_id bigint references nests;
create index nests_lead on nests (lead_id);

-- Where the knife has spoiled the cloth to its end was a flaw with a note; it is an outline like the rest of what
-- is spoiled. What a person noted so on a roll stands on the roll's own map all the same.
update nests set problem = jsonb_set(
    jsonb_set(problem, '{sheets,0,spoiled}', coalesce(problem #> '{sheets,0,spoiled}', '[]') || (
        select jsonb_agg(jsonb_build_array(
            jsonb_build_array(f->'from', 0), jsonb_build_array(f->'to', 0),
            jsonb_build_array(f->'to', problem #> '{sheets,0,width}'),
            jsonb_build_array(f->'from', problem #> '{sheets,0,width}')))
        from jsonb_array_elements(problem #> '{sheets,0,flaws}') f where f->>'note' = 'spoiled')),
    '{sheets,0,flaws}', (
        select coalesce(jsonb_agg(f), '[]') from jsonb_array_elements(problem #> '{sheets,0,flaws}') f
        where f->>'note' is distinct from 'spoiled'))
where state in ('queued', 'running', 'done')
  and jsonb_typeof(problem #> '{sheets,0,flaws}') = 'array'
  and exists (select from jsonb_array_elements(problem #> '{sheets,0,flaws}') f where f->>'note' = 'spoiled');

-- +goose Down
select 1 / 0; -- migrations only go forward
