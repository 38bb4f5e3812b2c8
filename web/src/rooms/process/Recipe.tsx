// The cure recipe segment by segment, and what a run that goes as planned would
// do: the server walks it, integrates the cure and holds it against the limits.
import { keepPreviousData } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { api, client } from "../../app/api";
import { Refused, type Schemas } from "../../contract/types";
import { percent, spell, told } from "../../ui/format";
import { Button, Heading, Mark, Refusal, Row, SelectField, Stack, Table, TextField } from "../../ui/parts";
import { RunChart } from "../../ui/RunChart";
import { SimulatedPlaces } from "../../ui/SimulatedPlaces";
import { SegmentRead } from "../../ui/SegmentRead";
import { Figure } from "../master/Detail";
import { said } from "../../ui/units";

type Recipe = Schemas["Recipe"];
type Segment = Schemas["Segment"];

const nothing = { air: null, tool: null, vacuum: null };

/** What a cure is done by: a recipe, the released one that it is, and what it is done in. */
export type Cured = { recipe: Recipe; from?: Schemas["ReleasedRecipe"] | undefined; equipment?: string | undefined };

/** The cure of a process. */
export const heatOf = (p: Schemas["Process"]): Schemas["Heat"] => ({
  recipe: p.recipe,
  limits: p.runLimits,
  ...(p.from ? { from: p.from } : {}),
  ...(p.equipment ? { equipment: p.equipment } : {}),
  ...(p.pressureMax ? { pressureMax: p.pressureMax } : {}),
  ...(p.pressForce ? { pressForce: p.pressForce } : {}),
});

export function RecipeForm({
  cured,
  set: change,
  take,
}: {
  /** The cure as it stands, with its limits. */
  cured: Schemas["Heat"];
  set: (part: Partial<Cured>) => void;
  /** The cure with a released recipe, and the limits that this was planned with. */
  take: (h: Schemas["Heat"]) => void;
}) {
  const [error, setError] = useState<unknown>(null);
  const takes = async (id: number) => {
    setError(null);
    const { data, error: refused } = await client.POST("/api/recipes/{id}/take", {
      params: { path: { id } },
      body: cured,
    });
    if (data) take(data);
    else setError(new Refused(refused));
  };
  const { recipe, from } = cured;
  const resins = api.useQuery("get", "/api/resins");
  const released = api.useQuery("get", "/api/recipes", { params: { query: { released: true } } });
  const equipment = api.useQuery("get", "/api/equipment");
  // What is changed by hand is no longer the recipe that somebody released.
  const set = (next: Recipe) => change({ recipe: next, from: undefined });
  const newest = from && released.data?.find((r) => r.name === from.name);
  const put = (k: number, part: Partial<Segment>) =>
    set({ ...recipe, segments: recipe.segments.map((s, n) => (n === k ? { ...s, ...part } : s)) });
  const insert = (k: number) => {
    const like = recipe.segments[k]!;
    set({
      ...recipe,
      segments: [...recipe.segments.slice(0, k + 1), { ...like, hold: 0 }, ...recipe.segments.slice(k + 1)],
    });
  };
  return (
    <Stack $gap={10}>
      <Row $gap={12} style={{ alignItems: "flex-end" }}>
        <SelectField
          label="Take a released recipe"
          value=""
          onChange={(e) => e.target.value !== "" && void takes(Number(e.target.value)).catch(setError)}
        >
          <option value="">choose one</option>
          {released.data?.map((r) => (
            <option key={r.id} value={r.id}>
              {r.name}, version {r.version}: {r.resin}, {r.equipment}
            </option>
          ))}
        </SelectField>
        <SelectField
          label="Cured in"
          value={cured.equipment ?? ""}
          onChange={(e) => change({ equipment: e.target.value || undefined })}
        >
          <option value="">usual equipment</option>
          {equipment.data?.map((x) => (
            <option key={x.facts.name}>{x.facts.name}</option>
          ))}
        </SelectField>
      </Row>
      <Refusal error={error ?? released.error ?? equipment.error} />
      <RecipeSource from={from} newest={newest} />
      <Row $gap={12} style={{ alignItems: "flex-end" }}>
        <div style={{ flex: "1 1 180px" }}>
          <TextField label="Name of the recipe" value={recipe.name} onChange={(name) => set({ ...recipe, name })} />
        </div>
        <SelectField
          label="Start from the cycle of"
          value=""
          onChange={(e) => {
            const r = resins.data?.find((x) => x.id === Number(e.target.value));
            if (r) set(r.recipe);
          }}
        >
          <option value="">choose a resin</option>
          {resins.data?.map((r) => (
            <option key={r.id} value={r.id}>
              {r.name}
            </option>
          ))}
        </SelectField>
        <Figure
          need
          label="Starts at, °C"
          kelvin
          scale={1}
          value={recipe.start}
          set={(x) => x !== undefined && set({ ...recipe, start: x })}
        />
        <Figure
          need
          label="Air within ±, K"
          scale={1}
          value={recipe.tolerance}
          set={(x) => x !== undefined && set({ ...recipe, tolerance: x })}
        />
      </Row>
      <SegmentTable recipe={recipe} put={put} insert={insert} set={set} />
      <small>
        A segment ramps the air to its temperature, waits until the coldest part sensor has the temperature given
        (empty: it does not wait), then holds.
      </small>
    </Stack>
  );
}

/** What a segment asks for that is planned on the page of a recipe. */
function More({ s }: { s: Segment }) {
  const label = [
    s.waitCure && `cured to ${percent(s.waitCure)} %`,
    s.waitThin && "flows",
    s.waitThick && "gels",
    s.waitTurn && "thinnest",
    s.waitCool && `cool: ${told.degrees(s.waitCool)}`,
    s.pressure && told.pressure(s.pressure),
    s.vacuum && `vacuum ${told.vacuum(s.vacuum, 0)}`,
  ].filter(Boolean);
  return label.join(", ");
}

/** The recipe in words. */
export function RecipeRead({ cured: { recipe, from, equipment } }: { cured: Cured }) {
  return (
    <Stack $gap={4}>
      <p>
        <b>{recipe.name}</b>
        {from && `, version ${from.version} as released`}
        {equipment && `, in ${equipment}`}
      </p>
      <ol aria-label="Segments of the recipe" style={{ margin: 0, paddingLeft: 22 }}>
        {recipe.segments.map((s, k) => (
          <li key={k}>
            <SegmentRead s={s} />
          </li>
        ))}
      </ol>
    </Stack>
  );
}

/** The recipe as a run that goes as planned, and the limits that it would meet. */
export function Simulated({
  code,
  letter,
  question,
}: {
  code: string;
  letter: string;
  /** Of a process, or of an operation of a document. */
  question: Omit<Schemas["ProcessQuestion"], "letter">;
}) {
  const asked = api.useQuery(
    "post",
    "/api/parts/{code}/simulate",
    { params: { path: { code } }, body: { letter, ...question } },
    { placeholderData: keepPreviousData, retry: false },
  );
  const seen = asked.data;
  const expected = useMemo(
    () =>
      (seen?.plan ?? []).map((p) => ({ ...nothing, t: p.t, setPoint: p.setPoint, lead: p.lead ?? null, lag: p.part })),
    [seen],
  );
  return (
    <Stack $gap={8}>
      <Refusal error={asked.error} />
      {seen && (
        <>
          <Heading>
            If it runs as planned, in {seen.equipment}: {spell(seen.duration)}
          </Heading>
          <RunChart
            plan={seen.plan}
            samples={expected}
            cure={seen.cure}
            height={220}
            expected
            label={`The recipe as planned over ${spell(seen.duration)}, part and degree of cure as expected`}
          />
          <ul aria-label="Limits as planned" style={{ listStyle: "none", margin: 0, padding: 0 }}>
            {seen.verdict?.checks.map((c) => (
              <li key={c.what}>
                <Mark tone={c.met ? "met" : "stop"}>
                  {said(c.what)}: {said(c.message)}
                </Mark>
              </li>
            ))}
          </ul>
          <SimulatedPlaces f={seen} />
          {!seen.verdict && <small>No ply yet says which resin cures: nothing is compared with the limits.</small>}
        </>
      )}
    </Stack>
  );
}

/** The segments of the recipe. */
function SegmentTable({
  recipe,
  put,
  insert,
  set,
}: {
  recipe: Schemas["Recipe"];
  put: (k: number, part: Partial<Schemas["Segment"]>) => void;
  insert: (k: number) => void;
  set: (next: Schemas["Recipe"]) => void;
}) {
  return (
    <Table>
      <tbody>
        {recipe.segments.map((s, k) => (
          <tr key={k}>
            <TargetCell k={k} s={s} put={put} />
            <td>
              <Figure
                need
                narrow
                label={`${k + 1}: at, K/min`}
                scale={60}
                value={s.rate}
                set={(x) => put(k, { rate: x ?? 0 })}
              />
            </td>
            <td>
              <Figure
                narrow
                label={`${k + 1}: part has, °C`}
                kelvin
                scale={1}
                {...(s.waitPart ? { value: s.waitPart } : {})}
                set={(x) => put(k, { waitPart: x ?? 0 })}
              />
            </td>
            <td>
              <Figure
                need
                narrow
                label={`${k + 1}: hold, min`}
                scale={1 / 60}
                value={s.hold}
                set={(x) => put(k, { hold: x ?? 0 })}
              />
            </td>
            <td style={{ maxWidth: 150 }}>
              <small>
                <More s={s} />
              </small>
            </td>
            <td>
              <Row $gap={6}>
                <Button $quiet $small onPress={() => insert(k)} aria-label={`Insert a segment below ${k + 1}`}>
                  Insert
                </Button>
                <Button
                  $quiet
                  $small
                  why={recipe.segments.length === 1 ? "the only one" : ""}
                  onPress={() => set({ ...recipe, segments: recipe.segments.filter((_, n) => n !== k) })}
                  aria-label={`Remove segment ${k + 1}`}
                >
                  Remove
                </Button>
              </Row>
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** Which released recipe it is. */
function RecipeSource({
  from,
  newest,
}: {
  from: undefined | Schemas["ReleasedRecipe"];
  newest: undefined | Schemas["RecipeView"];
}) {
  return (
    <p>
      {from ? (
        newest && newest.version !== from.version ? (
          <Mark tone="attend">{`version ${from.version} of ${from.name} as released; version ${newest.version} is released since`}</Mark>
        ) : (
          <Mark tone="met">{`version ${from.version} of ${from.name} as released`}</Mark>
        )
      ) : (
        <Mark tone="attend">a recipe of this revision’s own: no released one</Mark>
      )}
    </p>
  );
}

/** Where a segment goes. */
function TargetCell({
  k,
  s,
  put,
}: {
  k: number;
  s: Schemas["Segment"];
  put: (k: number, part: Partial<Schemas["Segment"]>) => void;
}) {
  return (
    <td>
      <Figure
        need
        narrow
        label={`${k + 1}: to, °C`}
        kelvin
        scale={1}
        value={s.target}
        set={(x) => x !== undefined && put(k, { target: x })}
      />
    </td>
  );
}
