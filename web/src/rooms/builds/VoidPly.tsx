// A cut ply that was lost or spoiled is voided with a reason, and cut again.
import { useState } from "react";
import { useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { Offer } from "../../app/Offer";
import { ReasonForm } from "../../ui/ReasonForm";
import { SelectField } from "../../ui/parts";

export function VoidPly({ code, kit }: { code: string; kit: Schemas["KitView"] }) {
  const cut = kit.plies.flatMap((p) => p.cut.map((c) => ({ label: c.code, ply: p.number })));
  const [label, setLabel] = useState("");
  const change = useChange("/api/kits/{code}/void", () => setLabel(""));
  if (cut.length === 0) return null;
  return (
    <Offer act="count a kit">
      <ReasonForm
        opens="A ply is lost or spoiled …"
        why="What happened to it"
        does="Void it: cut it again"
        lacks={label === "" ? "Choose the ply." : ""}
        run={{
          mutate: (reason) => change.mutate({ code, body: { cutPly: label, reason } }),
          isPending: change.isPending,
          error: change.error,
        }}
      >
        <SelectField label="Which ply" value={label} onChange={(e) => setLabel(e.target.value)}>
          <option value="">choose</option>
          {cut.map((c) => (
            <option key={c.label} value={c.label}>
              ply {c.ply}, {c.label}
            </option>
          ))}
        </SelectField>
        {kit.countedAt && <small>The kit is counted again once the ply is there.</small>}
      </ReasonForm>
    </Offer>
  );
}
