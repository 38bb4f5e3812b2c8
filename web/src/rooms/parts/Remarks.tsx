// What the items say besides the sheet's columns: everything that somebody who
// checks the master has to see, without opening each row.
import { memo } from "react";
import { Heading, Mark } from "../../ui/parts";
import { items, type Master } from "./edits";

export const Remarks = memo(function Remarks({
  doc,
  labels,
  point,
}: {
  doc: Master;
  labels: Map<string, string>;
  point: (keys: string[]) => void;
}) {
  const said = items(doc)
    .map((i) => ({
      key: i.key,
      label: i.kind === "ply" ? `Ply ${labels.get(i.key) ?? ""}` : (labels.get(i.key) ?? i.kind),
      says: [
        i.hold && { tone: "attend" as const, says: `hold until ${i.hold}` },
        i.caution && { tone: "attend" as const, says: `caution: ${i.caution}` },
        i.second && { tone: "attend" as const, says: "a second person checks it" },
        i.splice && { tone: "plain" as const, says: "may be spliced along the fibre" },
        i.metal && { tone: "plain" as const, says: "of metal" },
        i.filmsOff !== undefined && { tone: "plain" as const, says: `${i.filmsOff} films to take off` },
        i.join && { tone: "plain" as const, says: i.join === "butt" ? "pieces butt" : "pieces overlap" },
        i.note && { tone: "plain" as const, says: i.note },
      ].filter((x) => !!x),
    }))
    .filter((x) => x.says.length > 0);
  if (said.length === 0) return null;
  return (
    <section aria-label="Holds, cautions and notes">
      <Heading>
        Holds, cautions, notes: {said.length} {said.length === 1 ? "item" : "items"}
      </Heading>
      <ul style={{ listStyle: "none", margin: "4px 0 0", padding: 0, maxHeight: 220, overflow: "auto", fontSize: 15.5 }}>
        {said.map((x) => (
          <li key={x.key} style={{ padding: "3px 0", borderBottom: "1px solid var(--g4)" }}>
            <button type="button" className="plain" onClick={() => point([x.key])}>
              {x.label}
            </button>{" "}
            {x.says.map((s) => (
              <span key={s.says} style={{ marginRight: 10 }}>
                <Mark tone={s.tone}>{s.says}</Mark>
              </span>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
});
