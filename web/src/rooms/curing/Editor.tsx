// A recipe on its page: planned as a curve and a table, simulated beside it as it is typed.
import { memo, useCallback, useDeferredValue, useMemo, useState } from "react";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { api, useChange } from "../../app/api";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import type { Schemas } from "../../contract/types";
import { spell } from "../../ui/format";
import {
  Big,
  Button,
  Caution,
  Heading,
  Mark,
  NumberField,
  Page,
  Refusal,
  Row,
  Rule,
  SelectField,
  Stack,
  TextField,
} from "../../ui/parts";
import { useSay } from "../../ui/say";
import { Sign } from "../../ui/Sign";
import { CompareRecipes, type Pinned } from "./CompareRecipes";
import { Curve, Legend } from "./Curve";
import { Exchange } from "./Exchange";
import { CureOutcome, Through } from "./CureOutcome";
import { Flow } from "./Flow";
import { LearnFromRun } from "./LearnFromRun";
import { LimitsOf } from "./LimitsOf";
import { Pressure } from "./Pressure";
import { Segments } from "./Segments";
import { CureMap, Shortest } from "./Shortest";
import { StackOf } from "./StackOf";
import { Versions } from "./Versions";
import { WhatIf, type Mishap } from "./WhatIf";
import { filled, useForecast, useForecasts, type Plan } from "./useForecast";

export type Recipe = Schemas["RecipeView"];

/** The plan beside what follows from it; one below the other where both would be cramped. */
const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1.6fr) minmax(0, 1fr);
  gap: 26px;
  @media (max-width: 1100px) {
    grid-template-columns: minmax(0, 1fr);
  }
`;

// What is asked of the plan, and what is told besides the curves, is drawn once the curves stand.
const ShortestKept = memo(Shortest);
const LearnKept = memo(LearnFromRun);
const CureMapKept = memo(CureMap);
const ExchangeKept = memo(Exchange);
const BesideKept = memo(CompareRecipes);
const FeelsKept = memo(CureOutcome);
const ThroughKept = memo(Through);
const WhatIfKept = memo(WhatIf);
const LegendKept = memo(Legend);
const VersionsKept = memo(Versions);

export function Editor({ r }: { r: Recipe }) {
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
  const writes = may("edit the master");
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
  const f = forecast.data;
  // A key moves the curves first; the tables beside them follow when the page has nothing else to do.
  const calm = useDeferredValue(as);
  const felt = useDeferredValue(f);
  const planned = mishaps.length > 0 ? without.data : undefined;
  const laid = useMemo(
    () => [
      ...pins.flatMap((p, k) => (beside[k] ? [{ name: p.name, f: beside[k] }] : [])),
      ...(planned ? [{ name: "as planned", f: planned }] : []),
    ],
    [pins, beside, planned],
  );
  const long = Math.max(600, ...[...(f ? [f] : []), ...laid.map((o) => o.f)].map((g) => g.duration));
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
  const ready = filled(as);
  const answered = !forecast.error && ready;
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
            {r.id ? `${r.name} · version ${r.version}, ${r.state}` : "A new recipe"} ·{" "}
            {resins.data?.find((x) => x.id === resinId)?.name ?? r.resin} · {place}
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
      {r.since?.map((x) => (
        <p key={x}>
          <Mark tone="attend">{x}</Mark> Check it with the new figures, then save and release it again.
        </p>
      ))}
      <Refusal error={forecast.error} />
      {!ready && <Mark tone="attend">The curves wait until every field is filled.</Mark>}
      {f && f.sections.length > 0 && at >= 0 && (
        <>
          <Curve f={f} plan={plan} section={at} change={change} others={laid} />
          <Flow f={f} section={at} limits={plan.limits} long={long} />
          <Pressure f={f} limits={plan.limits} long={long} />
          {felt?.sections[at] && <LegendKept f={felt} section={at} handles={change !== undefined} />}
          {felt && <BesideKept pins={pins} change={setPins} asked={calm} f={felt} others={beside} />}
        </>
      )}
      <Columns>
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
          <ShortestKept asked={calm} take={setPlan} ready={ready} />
          <LearnKept asked={calm} section={Math.min(section, calm.plan.sections.length - 1)} ready={ready} />
          <CureMapKept asked={calm} section={Math.min(section, calm.plan.sections.length - 1)} ready={ready} />
        </Stack>
        <Stack $gap={18}>
          {felt && <FeelsKept f={felt} />}
          {felt?.sections[at] && <ThroughKept f={felt} section={at} />}
          <ExchangeKept name={name || "recipe"} asked={calm} take={change} />
          <WhatIfKept mishaps={mishaps} change={setMishaps} f={felt} planned={planned} />
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
              <TextField label="Name (a new name starts a new recipe)" value={name} onChange={setName} />
              <Refusal error={save.error} />
              <Row>
                <Button
                  why={
                    name.trim() === ""
                      ? "Enter a name."
                      : !touched && r.id && !r.since
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
                    Undo the changes
                  </Button>
                )}
              </Row>
            </Stack>
          )}
          <VersionsKept r={r} />
          {r.id > 0 && r.state === "draft" && may("release a revision") && (
            <>
              <Refusal error={release.error} />
              <Sign
                action="Release it"
                why={touched ? "Save the changes first." : ""}
                busy={release.isPending}
                sign={(pin) => release.mutate({ id: r.id, body: { pin } })}
              />
            </>
          )}
          <Caution>
            Simulated from the figures entered; measured temperatures come first. The resin supplier’s data sheet, the
            makers of oven and vessel, local codes and the responsible engineer rule.
          </Caution>
        </Stack>
      </Columns>
    </Page>
  );
}
