// What the laminate says at once: the rules it breaks, what it weighs, how it
// bends and warps.
import { Fragment, memo, useMemo, useState } from "react";
import type { Schemas } from "../../contract/types";
import { angle, percent, told } from "../../ui/format";
import { Button, Mark, Row, Stack, Table, TextField } from "../../ui/parts";
import { Sign } from "../../ui/Sign";
import { said } from "../../ui/units";

type Worked = Schemas["AnalysisView"];
type Zone = Schemas["ZoneView"];

type Finding = Schemas["FindingView"];
type Waive = (f: Finding, reason: string, pin: string) => void;

const names: Record<string, string> = {
  symmetry: "unpaired",
  balance: "not balanced",
  share: "share",
  run: "too many in a row",
  step: "angle step",
  outer: "outer ply",
  drop: "drop-off",
  ramp: "core edge",
  "core bond": "core bond",
  width: "wider than its rolls",
  galvanic: "metal on carbon",
};

/** What a broken rule is called in a word. */
export const ruleName = (rule: string) => names[rule] ?? rule;

/** Of one rule shown at once: a stack of hundreds can break one in every zone. */
const few = 4;

/** Findings with the items they point at; quality may let one stand. */
export const Findings = memo(FindingsOf);

function FindingsOf({ worked, point, waive }: { worked?: Worked; point: (keys: string[]) => void; waive?: Waive }) {
  const keysOf = useMemo(() => worked?.findings.map((f) => f.items.map((k) => worked.labels[k]!.key)) ?? [], [worked]);
  // What is being let stand, by what it says: its line stays its own, the others
  // are used again for whatever is found next.
  const [waiving, setWaiving] = useState<string | null>(null);
  const [whole, setWhole] = useState<string[]>([]); // rules of which all is shown
  if (!worked) return null;
  if (worked.findings.length === 0)
    return (
      <p>
        <Mark tone="met">symmetric, balanced, no rule broken</Mark>
      </p>
    );
  const lines = worked.findings.map((f, k) => ({ f, keys: keysOf[k]! }));
  // Of each rule what nobody has let stand comes first: it is what is shown when
  // the rest is folded.
  const ofRule = (rule: string) =>
    lines.filter(({ f }) => f.rule === rule).sort((a, b) => Number(Boolean(a.f.waived)) - Number(Boolean(b.f.waived)));
  const groups = [...new Set(lines.map(({ f }) => f.rule))].map((rule) => [rule, ofRule(rule)] as const);
  return (
    <ul aria-label="Findings" style={{ listStyle: "none", margin: 0, padding: 0 }}>
      {groups.map(([rule, all]) => (
        <Fragment key={rule}>
          {(whole.includes(rule) ? all : all.filter((x, k) => k < few || x.f.message === waiving)).map(
            ({ f, keys }, k) => (
              <FindingLine
                key={waiving === f.message ? f.message : k}
                f={f}
                keys={keys}
                point={point}
                {...(waive ? { waive } : {})}
                open={waiving === f.message}
                setOpen={setWaiving}
              />
            ),
          )}
          {all.length > few && (
            <li>
              <Button
                $quiet
                $small
                onPress={() => setWhole(whole.includes(rule) ? whole.filter((r) => r !== rule) : [...whole, rule])}
              >
                {whole.includes(rule) ? `Fewer: ${ruleName(rule)}` : `${all.length - few} more: ${ruleName(rule)}`}
              </Button>
            </li>
          )}
        </Fragment>
      ))}
    </ul>
  );
}

// Every key brings all findings anew: those that say the same are not drawn again.
const FindingLine = memo(
  FindingOf,
  (a, b) =>
    a.point === b.point &&
    a.waive === b.waive &&
    a.open === b.open &&
    a.f.message === b.f.message &&
    a.f.waived === b.f.waived &&
    a.keys.length === b.keys.length &&
    a.keys.every((k, i) => k === b.keys[i]),
);

function FindingOf({
  f,
  keys,
  point,
  waive,
  open,
  setOpen,
}: {
  f: Finding;
  /** Of the items that it is about. */
  keys: string[];
  point: (keys: string[]) => void;
  waive?: Waive;
  open: boolean;
  setOpen: (label: string | null) => void;
}) {
  return (
    <li style={{ borderBottom: "1px solid var(--g4)", padding: "4px 0" }}>
      <Row $gap={10} $between>
        <span style={{ flex: 1 }}>
          <Mark tone={f.waived ? "attend" : "stop"}>{f.message}</Mark>
          {f.waived && <small> waived: {f.waived}</small>}
        </span>
        {keys.length > 0 && (
          <Button $quiet $small onPress={() => point(keys)} aria-label={`Show: ${said(f.message)}`}>
            Show
          </Button>
        )}
        {waive && !f.waived && (
          <Button
            $quiet
            $small
            onPress={() => setOpen(open ? null : f.message)}
            aria-label={`Waive: ${said(f.message)}`}
          >
            Waive
          </Button>
        )}
      </Row>
      {waive && open && (
        <LetStand
          stand={(reason, pin) => {
            waive(f, reason, pin);
            setOpen(null);
          }}
        />
      )}
    </li>
  );
}

function LetStand({ stand }: { stand: (reason: string, pin: string) => void }) {
  const [reason, setReason] = useState("");
  return (
    <Stack $gap={8} style={{ padding: "8px 0" }}>
      <TextField label="Reason for the waiver" value={reason} onChange={setReason} autoFocus />
      <Sign
        action="Waive the finding"
        label="PIN, to waive it"
        why={reason.trim() === "" ? "Enter the reason." : ""}
        sign={(pin) => stand(reason, pin)}
      />
    </Stack>
  );
}

type Column = { name: string; of?: Worked };

/** Figures of several states of a part beside each other. */
export const Figures = memo(FiguresOf);

function FiguresOf({ columns, zones = 3 }: { columns: Column[]; zones?: number }) {
  const now = columns.at(-1)!.of;
  const row = (label: string, show: (w: Worked) => string) => (
    <tr key={label}>
      <td>{label}</td>
      {columns.map((c) => (
        <td key={c.name} className="n">
          {c.of ? show(c.of) : ""}
        </td>
      ))}
    </tr>
  );
  const zoneRow = (k: number, label: string, show: (z: Schemas["LaminateOut"], span: number) => string) =>
    row(label, (w) => {
      const z = w.zones[k]?.analysis;
      return z ? show(z, w.span) : "";
    });
  if (!now) return null;
  return (
    <Table>
      <thead>
        <tr>
          <th>Calculated</th>
          {columns.map((c) => (
            <th key={c.name} className="n">
              {c.name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {row("Scale: as laid", (w) => told.mass(w.scale.laid))}
        {now.scale.cured !== now.scale.laid && row("Scale: cured", (w) => told.mass(w.scale.cured))}
        {now.scale.trimmed !== now.scale.cured && row("Scale: trimmed", (w) => told.mass(w.scale.trimmed))}
        {row("Resin in it", (w) => told.mass(w.scale.resin))}
        {row("Centre of mass", (w) => `${told.size(w.scale.x)}, ${told.size(w.scale.y)}`)}
        {now.zones.slice(0, zones).map((z, k) => [
          <tr key={k}>
            <td colSpan={columns.length + 1} style={{ paddingTop: 10 }}>
              <b>{zoneName(k)}</b> <small>{zoneSays(z)}</small>
            </td>
          </tr>,
          zoneRow(k, "Thickness", (o) => `${told.size(o.thickness, 2)}`),
          zoneRow(k, `Shares at ${z.analysis?.shares.map((s) => angle(s.angleDeg)).join(" / ") ?? ""}`, (o) =>
            o.shares.length === z.analysis?.shares.length
              ? `${o.shares.map((s) => percent(s.part)).join(" / ")} %`
              : o.shares.map((s) => `${angle(s.angleDeg)} ${percent(s.part)} %`).join(", "),
          ),
          zoneRow(k, "Ex / Ey / Gxy", (o) => [o.ex, o.ey, o.gxy].map((e) => (e / 1e9).toFixed(1)).join(" / ") + " GPa"),
          zoneRow(
            k,
            `Warp over ${told.run(now.span)}`,
            (o) => `${told.size(o.bow)}${o.bow > 5e-5 ? ` at ${o.bowAlongDeg.toFixed(0)}°` : ""}`,
          ),
        ])}
        {(now.zones.length > zones || now.more > 0) && (
          <tr>
            <td colSpan={columns.length + 1}>
              <small>
                {now.zones.length + now.more - zones} smaller zones: see Laminate. Warp is given for the largest zone as
                a plate of its own.
              </small>
            </td>
          </tr>
        )}
      </tbody>
    </Table>
  );
}

export const zoneName = (k: number) => (k === 0 ? "Field" : `Zone ${k + 1}`);
export const zoneSays = (z: Zone) => `${z.label} · ${told.area(z.area, 4)}`;
