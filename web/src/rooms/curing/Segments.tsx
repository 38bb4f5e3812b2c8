// The segments of a recipe, in a table: where to, how fast, what is waited for, how long, and how it is pressed.
import { memo, useCallback } from "react";
import { Button, NumberField, Row, SelectField, Table, TextField } from "../../ui/parts";
import { labelIn } from "../../ui/units";
import { kelvin, per } from "./Figures";
import { withSegment, type Plan, type Segment } from "./useForecast";
import type { Schemas } from "../../contract/types";
import type { JSX } from "react";

/** What a segment may wait for before its hold begins: its key, its words, its field. */
const waits = [
  {
    key: "waitPart",
    until: "coldest above",
    label: "°C",
    ...kelvin,
  },
  {
    key: "waitCool",
    until: "hottest below",
    label: "°C",
    ...kelvin,
  },
  {
    key: "waitCure",
    until: "degree of cure above",
    label: "%",
    ...per(100),
  },
  { key: "waitThin", until: "viscosity has fallen to", label: "Pa·s", ...per(1) },
  { key: "waitThick", until: "viscosity has risen to", label: "Pa·s", ...per(1) },
] as const;

/** And a wait that has no figure. */
const passed = "after minimum viscosity";

const usual = { waitPart: -4, waitCool: 10, waitCure: 0.5, waitThin: 10, waitThick: 20 };

type Change = (next: (plan: Plan) => Plan) => void;

/** One segment; the others stay as they are while it is typed in. */
const SegmentRow = memo(RowOf);

function RowOf({
  s,
  k,
  change,
  takeOut,
}: {
  s: Segment;
  k: number;
  change: Change | undefined;
  takeOut: ((k: number) => void) | undefined;
}) {
  const off = !change;
  const set = (part: Partial<Segment>) => change?.((plan) => withSegment(plan, k, part));
  const field = (label: string, v: number, then: (v: number) => Partial<Segment>, width = 70, inKelvin = false) => (
    <div style={{ width }}>
      <NumberField
        plain
        need
        label={`Segment ${k + 1}: ${label}`}
        value={+v.toPrecision(8)}
        kelvin={inKelvin}
        off={off}
        onChange={(n) => set(then(n))}
      />
    </div>
  );
  return (
    <tr>
      <td>{k + 1}</td>
      <td>{field("to, °C", s.target, (v) => ({ target: v }), 70, true)}</td>
      <td>{field("at, K/min", s.rate * 60, (v) => ({ rate: v / 60 }), 58)}</td>
      <Waits s={s} field={field} off={off} k={k} set={set} />
      <td>{field("hold, min", s.hold / 60, (v) => ({ hold: v * 60 }), 62)}</td>
      <td>
        {field("pressure, kPa", (s.pressure ?? 0) / 1e3, (v) => ({ pressure: v * 1e3 }))}
        {(s.pressure ?? 0) > 0 && (
          <label style={{ display: "flex", gap: 6, fontSize: 13, alignItems: "center" }}>
            <input
              type="checkbox"
              style={{ width: 20, height: 20 }}
              checked={s.withTool ?? false}
              disabled={off}
              onChange={(e) => set({ withTool: e.target.checked })}
            />
            as it warms
          </label>
        )}
      </td>
      <td>
        {field("vacuum, kPa", (s.vacuum ?? 0) / 1e3, (v) => ({ vacuum: v * 1e3 }))}
        {(s.vacuum ?? 0) > 0 && (s.pressure ?? 0) > 0 && (
          <Row $gap={6} style={{ flexWrap: "nowrap" }}>
            <small>vent at</small>
            {field("bag vented at a pressure of, kPa", (s.vent ?? 0) / 1e3, (v) => ({ vent: v * 1e3 }), 70)}
          </Row>
        )}
      </td>
      <td>
        {takeOut && (
          <Button $quiet $small aria-label={`Remove segment ${k + 1}`} onPress={() => takeOut(k)}>
            ✕
          </Button>
        )}
      </td>
    </tr>
  );
}

export const Segments = memo(SegmentsOf);

function SegmentsOf({ plan, change }: { plan: Plan; change: Change | undefined }) {
  const off = !change;
  const segments = plan.recipe.segments;
  /** Without a segment; the reason of one that is gone goes with it. */
  const takeOut = useCallback(
    (gone: number) =>
      change?.((p) => ({
        ...p,
        recipe: { ...p.recipe, segments: p.recipe.segments.filter((_, n) => n !== gone) },
        ...(p.reasons ? { reasons: p.reasons.filter((_, n) => n !== gone) } : {}),
      })),
    [change],
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
            <SegmentRow
              key={k}
              s={s}
              k={k}
              change={change}
              takeOut={!off && segments.length > 1 ? takeOut : undefined}
            />
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
                change((p) => ({
                  ...p,
                  reasons: p.recipe.segments.map((_, n) => (n === k ? why : (p.reasons?.[n] ?? ""))),
                }))
              }
            />
          ))}
        </details>
      )}
      {!off && <SegmentVerbs change={change} plan={plan} />}
    </>
  );
}

/** What a segment waits for. */
function Waits({
  s,
  field,
  off,
  k,
  set,
}: {
  s: Schemas["Segment"];
  field: (
    label: string,
    v: number,
    then: (v: number) => Partial<Schemas["Segment"]>,
    width?: number,
    inKelvin?: boolean,
  ) => JSX.Element;
  off: boolean;
  k: number;
  set: (part: Partial<Schemas["Segment"]>) => undefined | void;
}) {
  return (
    <td>
      {waits
        .filter((w) => s[w.key] !== undefined && s[w.key] !== 0)
        .map((w) => (
          <Row key={w.key} $gap={6} style={{ flexWrap: "nowrap" }}>
            <small style={{ width: 76 }}>{w.until}</small>
            {field(`${w.until}, ${w.label}`, w.to(s[w.key]!), (v) => ({ [w.key]: w.from(v) }), 74, w.kelvin)}
            {!off && (
              <Button
                $quiet
                $small
                aria-label={`Segment ${k + 1}: no longer wait until ${w.until}`}
                onPress={() => set({ [w.key]: 0 })}
              >
                ✕
              </Button>
            )}
          </Row>
        ))}
      {s.waitTurn && (
        <Row $gap={6} style={{ flexWrap: "nowrap" }}>
          <small style={{ width: 156 }}>{passed}</small>
          {!off && (
            <Button
              $quiet
              $small
              aria-label={`Segment ${k + 1}: no longer wait until ${passed}`}
              onPress={() => set({ waitTurn: false })}
            >
              ✕
            </Button>
          )}
        </Row>
      )}
      {!off && (
        <SelectField
          label=""
          aria-label={`Segment ${k + 1}: wait for more`}
          value=""
          onChange={(e) => {
            if (e.target.value === "waitTurn") return set({ waitTurn: true });
            const key = e.target.value as keyof typeof usual;
            const add = usual[key];
            set({ [key]: key === "waitPart" || key === "waitCool" ? s.target + add : add });
          }}
        >
          <option value="">wait for …</option>
          {waits
            .filter((w) => !s[w.key])
            .map((w) => (
              <option key={w.key} value={w.key}>
                {w.until}
              </option>
            ))}
          {!s.waitTurn && <option value="waitTurn">{passed}</option>}
        </SelectField>
      )}
    </td>
  );
}

/** Adds a segment at the end, of either kind. */
function SegmentVerbs({ change, plan }: { change: Change; plan: Schemas["RecipePlan"] }) {
  return (
    <Row $gap={10} style={{ marginTop: 8 }}>
      <Button
        $quiet
        onPress={() =>
          change((p) => {
            const before = p.recipe.segments;
            const one = { target: before.at(-1)!.target, rate: 1 / 60, hold: 1800 };
            return { ...p, recipe: { ...p.recipe, segments: [...before, one] } };
          })
        }
      >
        Add a segment
      </Button>
      <SelectField
        label="Follows the set point"
        value={plan.recipe.control ?? ""}
        onChange={(e) => {
          const control = e.target.value as "";
          change((p) => ({ ...p, recipe: { ...p.recipe, control } }));
        }}
      >
        <option value="">the air</option>
        <option value="lagging">the coldest part sensor</option>
        <option value="leading">the hottest part sensor</option>
      </SelectField>
    </Row>
  );
}
