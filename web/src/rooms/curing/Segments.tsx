// The segments of a recipe, in a table: where to, how fast, what is waited for, how long, and how it is pressed.
import { memo } from "react";
import { Button, NumberField, Row, SelectField, Table, TextField } from "../../ui/parts";
import { labelIn } from "../../ui/units";
import { withSegment, type Plan, type Segment } from "./useForecast";

/** What a segment may wait for before its hold begins: its key, its words, its field. */
const waits = [
  {
    key: "waitPart",
    says: "coldest above",
    label: "°C",
    to: (k: number) => k - 273.15,
    from: (c: number) => c + 273.15,
  },
  {
    key: "waitCool",
    says: "hottest below",
    label: "°C",
    to: (k: number) => k - 273.15,
    from: (c: number) => c + 273.15,
  },
  {
    key: "waitCure",
    says: "degree of cure above",
    label: "%",
    to: (v: number) => v * 100,
    from: (v: number) => v / 100,
  },
  { key: "waitThin", says: "viscosity has fallen to", label: "Pa·s", to: (v: number) => v, from: (v: number) => v },
  { key: "waitThick", says: "viscosity has risen to", label: "Pa·s", to: (v: number) => v, from: (v: number) => v },
] as const;

const usual = { waitPart: -4, waitCool: 10, waitCure: 0.5, waitThin: 10, waitThick: 20 };

export const Segments = memo(SegmentsOf);

function SegmentsOf({ plan, change }: { plan: Plan; change: ((plan: Plan) => void) | undefined }) {
  const off = !change;
  const set = (k: number, part: Partial<Segment>) => change?.(withSegment(plan, k, part));
  const segments = plan.recipe.segments;
  /** Other segments; the reason of one that is gone goes with it. */
  const put = (list: Segment[], gone?: number) =>
    change?.({
      ...plan,
      recipe: { ...plan.recipe, segments: list },
      ...(plan.reasons ? { reasons: plan.reasons.filter((_, n) => n !== gone) } : {}),
    });
  const field = (k: number, label: string, v: number, then: (v: number) => Partial<Segment>, width = 70) => (
    <div style={{ width }}>
      <NumberField
        plain
        need
        label={`Segment ${k + 1}: ${label}`}
        value={+v.toPrecision(8)}
        off={off}
        onChange={(n) => set(k, then(n))}
      />
    </div>
  );
  return (
    <>
      <Table aria-label="Segments">
        <thead>
          <tr>
            <th />
            <th>{labelIn("To, °C")}</th>
            <th>{labelIn("At, K/min")}</th>
            <th>Then until</th>
            <th>Hold, min</th>
            <th>{labelIn("Pressure, kPa")}</th>
            <th>{labelIn("Vacuum, kPa")}</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {segments.map((s, k) => (
            <tr key={k}>
              <td>{k + 1}</td>
              <td>{field(k, "to, °C", s.target - 273.15, (v) => ({ target: v + 273.15 }))}</td>
              <td>{field(k, "at, K/min", s.rate * 60, (v) => ({ rate: v / 60 }), 58)}</td>
              <td>
                {waits
                  .filter((w) => s[w.key] !== undefined && s[w.key] !== 0)
                  .map((w) => (
                    <Row key={w.key} $gap={6} style={{ flexWrap: "nowrap" }}>
                      <small style={{ width: 76 }}>{w.says}</small>
                      {field(k, `${w.says}, ${w.label}`, w.to(s[w.key]!), (v) => ({ [w.key]: w.from(v) }), 74)}
                      {!off && (
                        <Button
                          $quiet
                          $small
                          aria-label={`Segment ${k + 1}: no longer wait until ${w.says}`}
                          onPress={() => set(k, { [w.key]: 0 })}
                        >
                          ✕
                        </Button>
                      )}
                    </Row>
                  ))}
                {!off && (
                  <SelectField
                    label=""
                    aria-label={`Segment ${k + 1}: wait for more`}
                    value=""
                    onChange={(e) => {
                      const key = e.target.value as keyof typeof usual;
                      const add = usual[key];
                      set(k, { [key]: key === "waitPart" || key === "waitCool" ? s.target + add : add });
                    }}
                  >
                    <option value="">wait for …</option>
                    {waits
                      .filter((w) => !s[w.key])
                      .map((w) => (
                        <option key={w.key} value={w.key}>
                          {w.says}
                        </option>
                      ))}
                  </SelectField>
                )}
              </td>
              <td>{field(k, "hold, min", s.hold / 60, (v) => ({ hold: v * 60 }), 62)}</td>
              <td>
                {field(k, "pressure, kPa", (s.pressure ?? 0) / 1e3, (v) => ({ pressure: v * 1e3 }))}
                {(s.pressure ?? 0) > 0 && (
                  <label style={{ display: "flex", gap: 6, fontSize: 13, alignItems: "center" }}>
                    <input
                      type="checkbox"
                      style={{ width: 20, height: 20 }}
                      checked={s.withTool ?? false}
                      disabled={off}
                      onChange={(e) => set(k, { withTool: e.target.checked })}
                    />
                    as it warms
                  </label>
                )}
              </td>
              <td>
                {field(k, "vacuum, kPa", (s.vacuum ?? 0) / 1e3, (v) => ({ vacuum: v * 1e3 }))}
                {(s.vacuum ?? 0) > 0 && (s.pressure ?? 0) > 0 && (
                  <Row $gap={6} style={{ flexWrap: "nowrap" }}>
                    <small>vent at</small>
                    {field(k, "bag vented at a pressure of, kPa", (s.vent ?? 0) / 1e3, (v) => ({ vent: v * 1e3 }), 70)}
                  </Row>
                )}
              </td>
              <td>
                {!off && segments.length > 1 && (
                  <Button
                    $quiet
                    $small
                    aria-label={`Take segment ${k + 1} out`}
                    onPress={() =>
                      put(
                        segments.filter((_, n) => n !== k),
                        k,
                      )
                    }
                  >
                    ✕
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      {!off && (
        <details style={{ margin: "8px 0" }}>
          <summary style={{ minHeight: 40, display: "list-item", alignContent: "center" }}>
            Why each segment is there, for who steps through it
          </summary>
          {segments.map((_s, k) => (
            <TextField
              key={k}
              label={`${k + 1}`}
              aria-label={`Why segment ${k + 1}`}
              value={plan.reasons?.[k] ?? ""}
              onChange={(why) =>
                change({ ...plan, reasons: segments.map((_, n) => (n === k ? why : (plan.reasons?.[n] ?? ""))) })
              }
            />
          ))}
        </details>
      )}
      {!off && (
        <Row $gap={10} style={{ marginTop: 8 }}>
          <Button
            $quiet
            onPress={() => put([...segments, { target: segments.at(-1)!.target, rate: 1 / 60, hold: 1800 }])}
          >
            One more segment
          </Button>
          <SelectField
            label="Follows the set point"
            value={plan.recipe.control ?? ""}
            onChange={(e) => change({ ...plan, recipe: { ...plan.recipe, control: e.target.value as "" } })}
          >
            <option value="">the air</option>
            <option value="lagging">the coldest part sensor</option>
            <option value="leading">the hottest part sensor</option>
          </SelectField>
        </Row>
      )}
    </>
  );
}
