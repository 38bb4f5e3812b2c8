// Cures laid over one another: other recipes, or this one as it was before something was changed.
import { api } from "../../app/api";
import { percent, spell, told } from "../../ui/format";
import { Button, Heading, Row, SelectField, Table } from "../../ui/parts";
import { plain } from "../../ui/units";
import type { Asked, Forecast } from "./useForecast";

export type Pinned = { name: string; asked: Asked };

export function CompareRecipes({
  pins,
  change,
  asked,
  f,
  others,
}: {
  pins: Pinned[];
  change: (pins: Pinned[]) => void;
  asked: Asked;
  f: Forecast;
  others: (Forecast | undefined)[];
}) {
  const recipes = api.useQuery("get", "/api/recipes");
  const add = (name: string, of: Asked) => change([...pins, { name, asked: of }]);
  const rows: [string, (g: Forecast) => string][] = [
    ["Takes", (g) => spell(g.duration)],
    ["Hottest", (g) => told.degrees(Math.max(...g.sections.map((s) => s.hottest)), 1)],
    ["Overshoot", (g) => told.rise(Math.max(...g.sections.map((s) => s.overshoot)))],
    ["Spread through the thickness", (g) => told.rise(Math.max(...g.sections.map((s) => s.spread)))],
    ["Min. degree of cure", (g) => `${percent(Math.min(...g.sections.map((s) => s.cure)), 1)} %`],
    ["Energy", (g) => (g.energy > 0 ? `${plain(g.energy / 3.6e6, 1)} kWh` : "not known")],
    [
      "Own limits",
      (g) => {
        const unmet = g.held.filter((h) => !h.met).length;
        return g.met ? "all met" : unmet > 0 ? `${unmet} not met` : "one cannot be held";
      },
    ],
  ];
  return (
    <section aria-label="Compare">
      <Row $gap={10} style={{ alignItems: "end", margin: "2px 0 8px" }}>
        <Heading>Compare</Heading>
        {pins.length < 3 && (
          <>
            <Button $quiet $small onPress={() => add(`as it was, ${spell(f.duration)}`, asked)}>
              Keep to compare
            </Button>
            <SelectField
              label=""
              aria-label="Compare with another recipe"
              value=""
              onChange={(e) => {
                const r = recipes.data?.find((x) => x.id === +e.target.value);
                if (r) add(`${r.name} ${r.version}`, { resinId: r.resinId, equipment: r.equipment, plan: r.plan });
              }}
            >
              <option value="">another recipe …</option>
              {recipes.data?.map((r) => (
                <option key={r.id} value={r.id}>
                  {r.name}
                </option>
              ))}
            </SelectField>
          </>
        )}
      </Row>
      {pins.length > 0 && (
        <Table>
          <BesideHead pins={pins} change={change} />
          <tbody>
            {rows.map(([name, of]) => (
              <tr key={name}>
                <td>{name}</td>
                <td>
                  <b>{of(f)}</b>
                </td>
                {others.map((g, k) => (
                  <td key={k}>{g ? of(g) : "–"}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </Table>
      )}
    </section>
  );
}

/** How the others are told apart: by their dashes. */
export const dashes = ["8 3", "3 3", "10 3 2 3"];

/** Names of the forecasts that stand beside each other. */
function BesideHead({ pins, change }: { pins: Pinned[]; change: (pins: Pinned[]) => void }) {
  return (
    <thead>
      <tr>
        <th />
        <th>this one</th>
        {pins.map((p, k) => (
          <th key={k}>
            <svg width={30} height={8} aria-hidden="true">
              <line x2={30} y1={4} y2={4} stroke="var(--g1)" strokeWidth={1.6} strokeDasharray={dashes[k]} />
            </svg>{" "}
            {p.name}{" "}
            <Button
              $quiet
              $small
              aria-label={`No longer compared: ${p.name}`}
              onPress={() => change(pins.filter((_, n) => n !== k))}
            >
              ✕
            </Button>
          </th>
        ))}
      </tr>
    </thead>
  );
}
