// What if something goes wrong: the cure is worked out again with it, and laid beside the one that was planned.
import type { Schemas } from "../../contract/types";
import { spell, told } from "../../ui/format";
import { Button, Heading, Mark, NumberField, Row, SelectField } from "../../ui/parts";
import { percent } from "../../ui/format";
import type { Forecast } from "./useForecast";

export type Mishap = Schemas["Disturbance"];

const kinds: Record<Mishap["kind"], { label: string; lasts: number; size?: number }> = {
  "door open": { label: "the door is opened", lasts: 300 },
  "heater lost": { label: "heaters are lost", lasts: 3600, size: 0.5 },
  "power cut": { label: "the power is cut", lasts: 3600 },
  "sensor off": { label: "the lagging sensor has fallen off", lasts: 7200 },
  "vacuum lost": { label: "the vacuum is lost", lasts: 1800 },
  neighbour: { label: "a thicker part lies beside it", lasts: 0, size: 2 },
};

export function WhatIf({
  mishaps,
  change,
  f,
  planned,
}: {
  mishaps: Mishap[];
  change: (m: Mishap[]) => void;
  f: Forecast | undefined;
  planned: Forecast | undefined;
}) {
  const set = (k: number, part: Partial<Mishap>) => change(mishaps.map((m, n) => (n === k ? { ...m, ...part } : m)));
  return (
    <section aria-label="What if">
      <Heading>What if</Heading>
      {mishaps.map((m, k) => (
        <DisturbanceRow key={k} k={k} m={m} set={set} change={change} mishaps={mishaps} />
      ))}
      {mishaps.length < 4 && (
        <SelectField
          label="Something goes wrong"
          value=""
          onChange={(e) => {
            const kind = e.target.value as Mishap["kind"];
            const of = kinds[kind];
            change([
              ...mishaps,
              {
                kind,
                at: kind === "neighbour" ? 0 : Math.round((f?.duration ?? 7200) / 180) * 60,
                for: of.lasts,
                ...(of.size ? { size: of.size } : {}),
              },
            ]);
          }}
        >
          <option value="">nothing</option>
          {Object.entries(kinds).map(([kind, of]) => (
            <option key={kind} value={kind}>
              {of.label}
            </option>
          ))}
        </SelectField>
      )}
      {f && planned && mishaps.length > 0 && (
        <div style={{ marginTop: 8 }} role="status">
          <p>
            It takes {spell(f.duration)}, planned {spell(planned.duration)}.
          </p>
          {f.sections.map((s, k) => (
            <p key={s.name}>
              {s.name}: hottest {told.degrees(s.hottest)}
              {planned.sections[k] && `, planned ${told.degrees(planned.sections[k].hottest)}`}; cured to{" "}
              {percent(s.cure, 1)} %{planned.sections[k] && `, planned ${percent(planned.sections[k].cure, 1)} %`}.
            </p>
          ))}
          <Mark tone={f.met ? "plain" : "stop"}>
            {f.met ? "The limits entered are still met." : "Not every limit entered is met then."}
          </Mark>
          <p>
            <small>The responsible engineer decides what becomes of such a part.</small>
          </p>
        </div>
      )}
    </section>
  );
}

/** One thing that goes wrong, with its figures. */
function DisturbanceRow({
  k,
  m,
  set,
  change,
  mishaps,
}: {
  k: number;
  m: Schemas["Disturbance"];
  set: (k: number, part: Partial<Schemas["Disturbance"]>) => void;
  change: (m: Schemas["Disturbance"][]) => void;
  mishaps: Schemas["Disturbance"][];
}) {
  return (
    <Row $gap={8} style={{ alignItems: "end", margin: "6px 0" }}>
      <b style={{ width: 180 }}>{kinds[m.kind].label}</b>
      {m.kind === "neighbour" ? (
        <div style={{ width: 140 }}>
          <NumberField
            label="Times as thick"
            value={m.size ?? 2}
            onChange={(v) => set(k, { size: v })}
            min={1}
            max={5}
          />
        </div>
      ) : (
        <>
          <div style={{ width: 92 }}>
            <NumberField
              label="After, min"
              value={Math.round(m.at / 60)}
              onChange={(v) => set(k, { at: v * 60 })}
              min={0}
            />
          </div>
          <div style={{ width: 92 }}>
            <NumberField
              label="For, min"
              value={Math.round(m.for / 60)}
              onChange={(v) => set(k, { for: v * 60 })}
              min={1}
            />
          </div>
          {m.kind === "heater lost" && (
            <div style={{ width: 92 }}>
              <NumberField
                label="Of them, %"
                value={Math.round((m.size ?? 0.5) * 100)}
                onChange={(v) => set(k, { size: v / 100 })}
                min={1}
                max={100}
              />
            </div>
          )}
        </>
      )}
      <Button
        $quiet
        $small
        aria-label={`Without: ${kinds[m.kind].label}`}
        onPress={() => change(mishaps.filter((_, n) => n !== k))}
      >
        ✕
      </Button>
    </Row>
  );
}
