// The recipes of the shop, and one on its page: planned as a curve and a table, foreseen beside it as it is typed.
import { memo, useCallback, useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, useChange } from "../../app/api";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import type { Schemas } from "../../contract/types";
import { moment, spell } from "../../ui/format";
import {
  Big,
  Button,
  Caution,
  Empty,
  Heading,
  Loading,
  Mark,
  NumberField,
  Page,
  Refusal,
  Row,
  Rule,
  SelectField,
  Stack,
  Table,
  TextField,
} from "../../ui/parts";
import { useSay } from "../../ui/say";
import { Sign } from "../../ui/Sign";
import { Beside, type Pinned } from "./Beside";
import { Curve, Legend } from "./Curve";
import { Exchange } from "./Exchange";
import { Feels, Through } from "./Feels";
import { Learn } from "./Learn";
import { LimitsOf } from "./LimitsOf";
import { Pressure } from "./Pressure";
import { Segments } from "./Segments";
import { CureMap, Shortest } from "./Shortest";
import { StackOf } from "./StackOf";
import { CureTabs } from "./Tabs";
import { Versions } from "./Versions";
import { WhatIf, type Mishap } from "./WhatIf";
import { filled, useForecast, useForecasts, type Plan } from "./useForecast";

type Recipe = Schemas["RecipeView"];

// What asks about the plan stays as it is while curves come in.
const ShortestKept = memo(Shortest);
const LearnKept = memo(Learn);
const CureMapKept = memo(CureMap);
const ExchangeKept = memo(Exchange);

export function Recipes() {
  useTitle("Cure recipes");
  const all = api.useQuery("get", "/api/recipes");
  const { may } = useSession();
  if (!all.data) return <Loading error={all.error} />;
  return (
    <>
      <CureTabs />
      <Page>
        <Row $between>
          <Big>Cure recipes</Big>
          {may("write the master") && <Link to="/cure/recipes/new">Begin a recipe</Link>}
        </Row>
        <Table>
          <thead>
            <tr>
              <th>Recipe</th>
              <th>Resin</th>
              <th>In</th>
              <th>For</th>
              <th>State</th>
            </tr>
          </thead>
          <tbody>
            {all.data.map((r) => (
              <tr key={r.id}>
                <td style={{ minHeight: 44 }}>
                  <Link to={`/cure/recipes/${r.id}`}>
                    <b>{r.name}</b>
                  </Link>
                  <br />
                  <small>version {r.version}</small>
                </td>
                <td>{r.resin}</td>
                <td>{r.equipment}</td>
                <td>{r.plan.sections.map((s) => s.name).join(", ")}</td>
                <td>
                  {r.state === "released" ? <Mark tone="met">released</Mark> : <Mark tone="attend">{r.state}</Mark>}
                  <br />
                  <small>
                    {r.releasedBy ? `${r.releasedBy}, ` : `${r.writtenBy}, `}
                    {moment(r.releasedAt ?? r.writtenAt)}
                  </small>
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Page>
    </>
  );
}

export function RecipePage() {
  const { id = "" } = useParams();
  const kept = api.useQuery("get", "/api/recipes/{id}", { params: { path: { id: +id } } });
  if (!kept.data) return <Loading error={kept.error} />;
  return (
    <>
      <CureTabs />
      <Editor key={kept.data.id} r={kept.data} />
    </>
  );
}

/** A recipe that is begun from nothing: one dwell on a few plies, to be changed. */
export function NewRecipe() {
  const resins = api.useQuery("get", "/api/resins");
  const equipment = api.useQuery("get", "/api/equipment");
  const layers = api.useQuery("get", "/api/layers");
  if (!resins.data || !equipment.data || !layers.data)
    return <Loading error={resins.error ?? equipment.error ?? layers.error} />;
  const resin = resins.data[0];
  const oven = equipment.data[0];
  if (!resin || !oven)
    return (
      <Page>
        <CureTabs />
        <Empty>A recipe needs a resin and something to cure it in: enter {resin ? "an oven" : "a resin"} first.</Empty>
      </Page>
    );
  const thick: Record<string, number> = { aluminium: 0.01, laminate: 0.002, "breather and bag": 0.004 };
  const stack = Object.keys(thick).flatMap((name) =>
    layers.data.filter((l) => l.name === name).map((l) => ({ ...l, thickness: thick[name]! })),
  );
  const begun: Recipe = {
    id: 0,
    name: "",
    version: 0,
    state: "draft",
    resinId: resin.id,
    resin: resin.name,
    equipment: oven.facts.name,
    writtenAt: new Date().toISOString(),
    plan: {
      recipe: { ...resin.recipe, name: "new" },
      sections: [{ name: "10 plies on their tool", layers: stack }],
      limits: { minCure: 0.9 },
    },
  };
  return (
    <>
      <CureTabs />
      <Editor r={begun} />
    </>
  );
}

function Editor({ r }: { r: Recipe }) {
  useTitle(r.name);
  const { may } = useSession();
  const navigate = useNavigate();
  const say = useSay();
  const resins = api.useQuery("get", "/api/resins");
  const equipment = api.useQuery("get", "/api/equipment");
  const [plan, setPlan] = useState<Plan>(r.plan);
  const [name, setName] = useState(r.name);
  const [resinId, setResin] = useState(r.resinId);
  const [place, setPlace] = useState(r.equipment);
  const [section, setSection] = useState(0);
  const [mishaps, setMishaps] = useState<Mishap[]>([]);
  const writes = may("write the master");
  const change = writes ? setPlan : undefined;
  const [spent, setSpent] = useState(0);
  const as = useMemo(
    () => ({ resinId, equipment: place, plan, ...(spent === 0 ? {} : { outTime: spent * 3600 }) }),
    [resinId, place, plan, spent],
  );
  const setSections = useCallback((sections: Plan["sections"]) => setPlan((p) => ({ ...p, sections })), []);
  const setLimits = useCallback((limits: Plan["limits"]) => setPlan((p) => ({ ...p, limits })), []);
  const takeStack = useCallback((sections: Plan["sections"], resin: number | undefined) => {
    setSection(0);
    setPlan((p) => ({ ...p, sections }));
    if (resin) setResin(resin);
  }, []);
  const forecast = useForecast({ ...as, ...(mishaps.length > 0 ? { mishaps } : {}) });
  const without = useForecast(mishaps.length > 0 ? as : undefined);
  const [pins, setPins] = useState<Pinned[]>([]);
  const beside = useForecasts(pins.map((p) => p.asked));
  const laid = pins.flatMap((p, k) => (beside[k] ? [{ name: p.name, f: beside[k] }] : []));
  const f = forecast.data;
  const at = Math.min(section, (f?.sections.length ?? 1) - 1);
  const touched =
    JSON.stringify(plan) !== JSON.stringify(r.plan) ||
    name !== r.name ||
    resinId !== r.resinId ||
    place !== r.equipment;
  const save = useChange("/api/recipes", (v) => {
    say(`Version ${v.version} is saved.`, true);
    void navigate(`/cure/recipes/${v.id}`);
  });
  const release = useChange("/api/recipes/{id}/release", () => say("It is released.", true));
  // What is refused, or not filled, has no verdict: the curves are still those of before.
  const answered = !forecast.error && filled(as);
  const current = answered && !forecast.isPlaceholderData;
  const unmet = f?.held.filter((h) => !h.met).length ?? 0;
  const tight = f?.held
    .filter((h) => h.met && h.limit > 0 && h.kind !== "temperature")
    .map((h) => ({ h, near: h.atLeast ? h.limit / h.found : h.found / h.limit }))
    .sort((a, b) => b.near - a.near)[0]?.h;
  return (
    <Page>
      <Row $between $top>
        <div>
          <Heading>
            {r.id ? `${r.name} · version ${r.version}, ${r.state}` : "A new recipe"} · {r.resin} · {r.equipment}
          </Heading>
          <Big>
            {f && answered ? spell(f.duration) : "…"}
            {touched && " as changed"}
          </Big>
          {r.id > 0 && <Link to={`/cure/recipes/${r.id}/steps`}>Step by step, with the reasons</Link>}
        </div>
        <div style={{ textAlign: "right" }}>
          {f &&
            current &&
            (f.held.length === 0 ? (
              <Mark tone="attend">no limit is entered</Mark>
            ) : unmet > 0 ? (
              <Mark tone="stop">{`${unmet} of ${f.held.length} limits are not met`}</Mark>
            ) : !f.met ? (
              <Mark tone="stop">a limit cannot be held: see below</Mark>
            ) : (
              <Mark tone="met">every limit entered is met</Mark>
            ))}
          {current && tight && unmet === 0 && (
            <>
              <br />
              <small>nearest to its limit: {tight.what}</small>
            </>
          )}
        </div>
      </Row>
      <Refusal error={forecast.error} />
      {!filled(as) && <Mark tone="attend">The curves wait until every field is filled.</Mark>}
      {f && f.sections.length > 0 && at >= 0 && (
        <>
          <Curve
            f={f}
            plan={plan}
            section={at}
            change={change}
            others={without.data && mishaps.length > 0 ? [...laid, { name: "as planned", f: without.data }] : laid}
          />
          <Pressure
            f={f}
            limits={plan.limits}
            long={Math.max(
              600,
              ...[f, ...laid.map((o) => o.f), ...(without.data ? [without.data] : [])].map((g) => g.duration),
            )}
          />
          <Legend f={f} section={at} handles={change !== undefined} />
          <Beside pins={pins} change={setPins} asked={as} f={f} others={beside} />
        </>
      )}
      <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 1.6fr) minmax(0, 1fr)", gap: 26 }}>
        <Stack $gap={18}>
          <div>
            <Heading>Segments</Heading>
            <Segments plan={plan} change={change} />
          </div>
          <StackOf
            sections={plan.sections}
            change={writes ? setSections : undefined}
            chosen={Math.min(section, plan.sections.length - 1)}
            choose={setSection}
            take={takeStack}
          />
          <LimitsOf limits={plan.limits} change={writes ? setLimits : undefined} />
          <ShortestKept asked={as} take={setPlan} ready={filled(as)} />
          <LearnKept asked={as} section={Math.min(section, plan.sections.length - 1)} ready={filled(as)} />
          <CureMapKept asked={as} section={Math.min(section, plan.sections.length - 1)} ready={filled(as)} />
        </Stack>
        <Stack $gap={18}>
          {f && <Feels f={f} />}
          {f && at >= 0 && f.sections[at] && <Through f={f} section={at} />}
          <ExchangeKept name={name || "recipe"} asked={as} take={change} />
          <WhatIf mishaps={mishaps} change={setMishaps} f={f} planned={without.data} />
          <Rule />
          <Row $gap={10} style={{ alignItems: "end" }}>
            <SelectField label="Resin" value={resinId} disabled={!writes} onChange={(e) => setResin(+e.target.value)}>
              {resins.data?.map((x) => (
                <option key={x.id} value={x.id}>
                  {x.name}
                </option>
              ))}
            </SelectField>
            <SelectField label="Cured in" value={place} disabled={!writes} onChange={(e) => setPlace(e.target.value)}>
              {equipment.data?.map((x) => (
                <option key={x.facts.name} value={x.facts.name}>
                  {x.facts.name}
                </option>
              ))}
            </SelectField>
          </Row>
          <div style={{ width: 170 }}>
            <NumberField label="Out-time spent, h" value={spent} onChange={setSpent} min={0} max={8760} need />
          </div>
          {writes && (
            <Stack $gap={8}>
              <TextField label="Name; another one begins a new recipe" value={name} onChange={setName} />
              <Refusal error={save.error} />
              <Row>
                <Button
                  why={
                    name.trim() === ""
                      ? "Give it a name."
                      : !touched && r.id
                        ? "Nothing is changed."
                        : !filled(plan)
                          ? "Fill every field."
                          : ""
                  }
                  isDisabled={save.isPending}
                  onPress={() =>
                    save.mutate({
                      body: { name, version: name.trim() === r.name ? r.version : 0, resinId, equipment: place, plan },
                    })
                  }
                >
                  Save as {name.trim() === r.name ? `version ${r.version + 1}` : "a new recipe"}
                </Button>
                {touched && (
                  <Button
                    $quiet
                    onPress={() => {
                      setPlan(r.plan);
                      setName(r.name);
                      setResin(r.resinId);
                      setPlace(r.equipment);
                    }}
                  >
                    Take the changes back
                  </Button>
                )}
              </Row>
            </Stack>
          )}
          <Versions r={r} />
          {r.id > 0 && r.state === "draft" && may("release a revision") && (
            <>
              <Refusal error={release.error} />
              <Sign
                says="Release it"
                why={touched ? "Save the changes first." : ""}
                busy={release.isPending}
                sign={(pin) => release.mutate({ id: r.id, body: { pin } })}
              />
            </>
          )}
          <Caution>
            Foreseen from the figures entered; a thermocouple knows better. The resin supplier’s data sheet, the makers
            of oven and vessel, local codes and the responsible engineer rule.
          </Caution>
        </Stack>
      </div>
    </Page>
  );
}
