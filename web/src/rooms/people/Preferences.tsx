// The units that somebody reads and types in, and what single keys do for them.
import { useEffect, useState } from "react";
import { useChange } from "../../app/api";
import { useSession } from "../../app/session";
import type { Schemas } from "../../contract/types";
import { Choices } from "../../ui/Choices";
import { Big, Button, Heading, Refusal, Row, Stack, TextField } from "../../ui/parts";
import { usual } from "../../ui/shortcuts";

type System = Schemas["System"];
type Preferred = Schemas["Preferences"];

const kinds: { key: keyof System; label: string; of: { value: string; label: string }[] }[] = [
  { key: "length", label: "Lengths", of: both("mm", "mm and m", "in", "inches and feet") },
  { key: "temperature", label: "Temperatures", of: both("C", "°C", "F", "°F") },
  { key: "vacuum", label: "Vacuum", of: [...both("kPa", "kPa", "mbar", "mbar"), { value: "inHg", label: "inHg" }] },
  { key: "pressure", label: "Pressure", of: [...both("kPa", "kPa", "bar", "bar"), { value: "psi", label: "psi" }] },
  { key: "mass", label: "Mass", of: both("kg", "kg", "lb", "lb") },
  { key: "area", label: "Areas", of: both("m2", "m²", "ft2", "ft²") },
  { key: "decimal", label: "Decimal separator", of: both("point", "a point, 1.5", "comma", "a comma, 1,5") },
];

function both(a: string, saysA: string, b: string, saysB: string) {
  return [
    { value: a, label: saysA },
    { value: b, label: saysB },
  ];
}

const metric: System = {};
const inches: System = { length: "in", temperature: "F", vacuum: "inHg", pressure: "psi", mass: "lb", area: "ft2" };

/** What was pressed last: other units draw the page anew, and the focus stays there. */
let pressed = "";

export function Preferences() {
  // Another visit begins where the page begins.
  useEffect(() => () => void setTimeout(() => (pressed = "")), []);
  const { preferences } = useSession();
  const save = useChange("/api/preferences");
  const set = (next: Partial<Preferred>) => save.mutate({ body: { ...preferences, ...next } });
  const choose = (what: string, units: System) => {
    pressed = what;
    set({ units });
  };
  const of = (key: keyof System) => preferences.units[key] ?? kinds.find((k) => k.key === key)!.of[0]!.value;
  return (
    <Stack as="section" aria-label="Units and keys" $gap={12} style={{ flex: "1 1 480px", maxWidth: 640 }}>
      <Heading>Units</Heading>
      <Big as="h2">What you read and type in</Big>
      <p>
        Records stay as they are: a length of 300 mm is one of 11.81 in. A unit that is typed with a number always wins,
        as in “28 inHg”.
      </p>
      <Row>
        <Button
          $quiet
          autoFocus={pressed === "metric"}
          onPress={() => choose("metric", { ...metric, decimal: preferences.units.decimal })}
        >
          All metric
        </Button>
        <Button
          $quiet
          autoFocus={pressed === "inches"}
          onPress={() => choose("inches", { ...inches, decimal: preferences.units.decimal })}
        >
          All in inches and °F
        </Button>
      </Row>
      {kinds.map((k) => (
        <Choices
          key={k.key}
          label={k.label}
          value={of(k.key)}
          of={k.of}
          focused={pressed === k.key}
          onChange={(v) => choose(k.key, { ...preferences.units, [k.key]: v })}
        />
      ))}
      <Heading style={{ marginTop: 20 }}>Keys</Heading>
      <Big as="h2">What single keys do</Big>
      <label style={{ display: "flex", gap: 10, alignItems: "center", minHeight: 44 }}>
        <input
          type="checkbox"
          checked={preferences.keys.off ?? false}
          onChange={(e) => set({ keys: { ...preferences.keys, off: e.target.checked } })}
        />
        Single keys do nothing: everything is done by buttons, Enter and scans
      </label>
      {!preferences.keys.off && (
        <Moves moved={preferences.keys.moved ?? {}} save={(moved) => set({ keys: { ...preferences.keys, moved } })} />
      )}
      <Refusal error={save.error} />
    </Stack>
  );
}

/** Each usual key, and the one that does the same for this person. */
function Moves({ moved, save }: { moved: Record<string, string>; save: (moved: Record<string, string>) => void }) {
  const [typed, setTyped] = useState(moved);
  const wanted = Object.fromEntries(Object.entries(typed).filter(([from, to]) => to !== "" && to !== from));
  // Another use of a key that is given away would be out of reach.
  const lost = Object.values(wanted).find((to) => to in usual && !(to in wanted));
  return (
    <>
      <p>Enter another key where the usual one is in your way; empty: the usual one.</p>
      <div style={{ display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(250px, 1fr))", gap: 12 }}>
        {Object.entries(usual).map(([key, label]) => (
          <TextField
            key={key}
            label={`${key.toUpperCase()}: ${label}`}
            value={typed[key] ?? ""}
            onChange={(to) => setTyped({ ...typed, [key]: to.slice(-1).toLowerCase() })}
          />
        ))}
      </div>
      <Row>
        <Button
          onPress={() => save(wanted)}
          why={lost ? `${lost.toUpperCase()} does something already: give that another key too.` : ""}
        >
          Use these keys
        </Button>
      </Row>
    </>
  );
}
