// What cures are done in, as it heats: every change is a version, with the source of its figures.
import { useState } from "react";
import { api, useChange } from "../../app/api";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import type { Schemas } from "../../contract/types";
import { moment } from "../../ui/format";
import {
  Big,
  Button,
  Caution,
  Empty,
  Heading,
  Loading,
  Refusal,
  Row,
  SelectField,
  Stack,
  Table,
  TextField,
} from "../../ui/parts";
import { useSay } from "../../ui/say";
import { Seam } from "../../ui/Seam";
import { told } from "../../ui/format";
import { Figures, kelvin, per, type Figure } from "./Figures";
import { CureTabs } from "./Tabs";
import { filled } from "./useForecast";

type View = Schemas["EquipmentView"];
type Facts = Schemas["Equipment"];
const groups: { name: string; of: (Facts["kind"] | "all")[]; fields: Figure<Facts>[] }[] = [
  {
    name: "Heat transfer",
    of: ["all"],
    fields: [
      { key: "film", label: "Air, W/(m²·K)", ...per(1) },
      { key: "contact", label: "Platens, W/(m²·K)", ...per(1) },
      { key: "lag", label: "Lag, s", ...per(1) },
    ],
  },
  {
    name: "Capacity",
    of: ["all"],
    fields: [
      { key: "heatUp", label: "Max. heating rate, K/min", ...per(60) },
      { key: "coolDown", label: "Max. cooling rate, K/min", ...per(60) },
      { key: "power", label: "Power, kW", ...per(1e-3) },
      { key: "capacity", label: "Heat capacity (air and walls), kJ/K", ...per(1e-3) },
      { key: "hottest", label: "Max. temperature, °C", ...kelvin },
      { key: "vacuum", label: "Max. vacuum, kPa", ...per(1e-3) },
    ],
  },
  {
    name: "Pressure",
    of: ["autoclave", "press"],
    fields: [
      { key: "pressure", label: "Max. pressure, kPa", ...per(1e-3) },
      { key: "pressureUp", label: "Pressurisation rate, kPa/min", ...per(60e-3) },
    ],
  },
  {
    name: "Mould closing",
    of: ["press"],
    fields: [
      { key: "force", label: "Closing force, kN", ...per(1e-3) },
      { key: "bolts", label: "Bolts", ...per(1) },
      { key: "bolt", label: "Force per bolt, kN", ...per(1e-3) },
    ],
  },
  {
    name: "Sensors and lines",
    of: ["all"],
    fields: [
      { key: "lead", label: "Air ahead of a part by, K", ...per(1) },
      { key: "sensors", label: "Part sensors", ...per(1) },
      { key: "ports", label: "Vacuum lines", ...per(1) },
    ],
  },
];

const begun: View = {
  facts: { name: "", kind: "oven", film: 20, lag: 300 },
  version: 0,
  why: "",
  at: new Date(0).toISOString(),
};

export function Equipment() {
  useTitle("Ovens and vessels");
  const all = api.useQuery("get", "/api/equipment");
  const { may } = useSession();
  const [at, setAt] = useState<string | null>(null);
  if (!all.data) return <Loading error={all.error} />;
  const one = at === "" ? begun : (all.data.find((e) => e.facts.name === at) ?? all.data[0]);
  const keeps = may("manage tools");
  return (
    <>
      <CureTabs />
      <Seam
        names={["Ovens and vessels", "One of them"]}
        planned={
          <Stack $gap={12}>
            <Big>Ovens and vessels</Big>
            {all.data.length === 0 && <Empty>None is entered yet: cures are simulated in a usual one.</Empty>}
            <Table>
              <thead>
                <tr>
                  <th>Name</th>
                  <th>Kind</th>
                  <th className="n">Up to</th>
                  <th className="n">Pressure</th>
                  <th className="n">Sensors</th>
                  <th className="n">Lines</th>
                </tr>
              </thead>
              <tbody>
                {all.data.map((e) => (
                  <tr key={e.facts.name} className={e === one ? "on" : undefined}>
                    <td>
                      <Button $quiet $small onPress={() => setAt(e.facts.name)} aria-pressed={e === one}>
                        {e.facts.name}
                      </Button>
                      <br />
                      <small>version {e.version}</small>
                    </td>
                    <td>{e.facts.kind}</td>
                    <td className="n">{e.facts.hottest ? told.degrees(e.facts.hottest) : "–"}</td>
                    <td className="n">{e.facts.pressure ? told.pressure(e.facts.pressure) : "none"}</td>
                    <td className="n">{e.facts.sensors ?? "–"}</td>
                    <td className="n">{e.facts.ports ?? "–"}</td>
                  </tr>
                ))}
              </tbody>
            </Table>
            {keeps && (
              <Row>
                <Button $quiet onPress={() => setAt("")}>
                  Add another
                </Button>
              </Row>
            )}
            <Caution>
              These figures are for simulation; they protect nothing. Interlocks, relief valves and their inspection are
              the maker’s and the local code’s.
            </Caution>
          </Stack>
        }
        built={one && <One key={`${one.facts.name} ${one.version}`} e={one} keeps={keeps} done={setAt} />}
      />
    </>
  );
}

function One({ e, keeps, done }: { e: View; keeps: boolean; done: (name: string) => void }) {
  const say = useSay();
  const [facts, setFacts] = useState(e.facts);
  const [why, setWhy] = useState("");
  const save = useChange("/api/equipment", (v) => {
    say(`Version ${v.version} of ${v.facts.name} is kept.`, true);
    done(v.facts.name);
  });
  const set = (part: Partial<Facts>) => setFacts({ ...facts, ...part });
  const isNew = e.version === 0;
  const changed = JSON.stringify(facts) !== JSON.stringify(e.facts);
  return (
    <Stack $gap={14}>
      <Heading>{isNew ? "New equipment" : `${e.facts.kind}, version ${e.version}`}</Heading>
      {isNew ? (
        <TextField label="Name" value={facts.name} onChange={(name) => set({ name })} />
      ) : (
        <div>
          <Big>{e.facts.name}</Big>
          <small>
            {e.by && `${e.by}, `}
            {moment(e.at)}: {e.why}
          </small>
        </div>
      )}
      <KindOfEquipment facts={facts} keeps={keeps} set={set} />
      {groups
        .filter((g) => g.of.includes("all") || g.of.includes(facts.kind))
        .map((g) => (
          <section key={g.name} aria-label={g.name}>
            <Heading>{g.name}</Heading>
            <Row $top $gap={10} style={{ marginTop: 6 }}>
              <Figures
                of={facts}
                fields={g.fields.filter((f) => f.key !== "contact" || facts.kind === "press")}
                width={150}
                change={keeps ? set : undefined}
              />
            </Row>
          </section>
        ))}
      {keeps && (
        <>
          <TextField label="Source of the figures" value={why} onChange={setWhy} />
          <Refusal error={save.error} />
          <Row>
            <Button
              isDisabled={save.isPending}
              why={
                !changed && !isNew
                  ? "Nothing is changed."
                  : !filled(facts)
                    ? "Fill every field."
                    : why.trim() === ""
                      ? "Enter the source of the figures."
                      : ""
              }
              onPress={() => save.mutate({ body: { facts, version: e.version, why } })}
            >
              {isNew ? "Keep it" : `Keep as version ${e.version + 1}`}
            </Button>
            {changed && !isNew && (
              <Button $quiet onPress={() => setFacts(e.facts)}>
                Undo the changes
              </Button>
            )}
          </Row>
        </>
      )}
    </Stack>
  );
}

/** What kind it is, and how well it passes heat on. */
function KindOfEquipment({
  facts,
  keeps,
  set,
}: {
  facts: Schemas["Equipment"];
  keeps: boolean;
  set: (part: Partial<Schemas["Equipment"]>) => void;
}) {
  return (
    <Row $gap={12} style={{ alignItems: "end" }}>
      <SelectField
        label="Kind"
        value={facts.kind}
        disabled={!keeps}
        onChange={(x) => set({ kind: x.target.value as Facts["kind"] })}
      >
        {["oven", "autoclave", "press"].map((k) => (
          <option key={k}>{k}</option>
        ))}
      </SelectField>
      {facts.kind === "autoclave" && (
        <label style={{ display: "flex", gap: 8, alignItems: "center", minHeight: 44 }}>
          <input
            type="checkbox"
            style={{ width: 22, height: 22 }}
            checked={facts.byPressure ?? false}
            disabled={!keeps}
            onChange={(x) => set({ byPressure: x.target.checked })}
          />
          the heat transfer of the air rises with pressure
        </label>
      )}
    </Row>
  );
}
