// The second person who looks and signs, by name and with their own PIN.
import { useState } from "react";
import { api } from "../../app/api";
import { useSession } from "../../app/session";
import { Row, SelectField, TextField } from "../../ui/parts";

/** Who it is, and what their fields hold; 0 while nobody else is there. */
export function useSecond(asks: boolean) {
  const { person } = useSession();
  const people = api.useQuery("get", "/api/people", undefined, { enabled: asks });
  const others = (people.data ?? []).filter((p) => p.id !== person.id && p.role !== "viewer");
  const [typed, set] = useState({ id: 0, pin: "" });
  return { others, id: typed.id || (others[0]?.id ?? 0), pin: typed.pin, set };
}

export function SecondPerson({ of: { others, id, pin, set } }: { of: ReturnType<typeof useSecond> }) {
  return (
    <Row $gap={12} style={{ alignItems: "flex-end" }}>
      <SelectField label="Second person" value={id} onChange={(e) => set({ pin, id: Number(e.target.value) })}>
        {others.map((p) => (
          <option key={p.id} value={p.id}>
            {p.name}
          </option>
        ))}
      </SelectField>
      <div style={{ width: 160 }}>
        <TextField label="Their PIN" type="password" pin value={pin} onChange={(pin) => set({ id, pin })} />
      </div>
    </Row>
  );
}
