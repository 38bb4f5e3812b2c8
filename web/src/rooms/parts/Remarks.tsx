// What the items say besides the sheet's columns: everything that somebody who
// checks the master has to see, without opening each row.
import { memo } from "react";
import { ranges } from "../../ui/format";
import { Button, Heading, Mark } from "../../ui/parts";
import { items, type Master } from "../master/edits";

export const Remarks = memo(function Remarks({
  doc,
  labels,
  point,
}: {
  doc: Master;
  labels: Map<string, string>;
  point: (keys: string[]) => void;
}) {
  const each = items(doc)
    .map((i) => ({
      key: i.key,
      label: labels.get(i.key) ?? "",
      ply: i.kind === "ply",
      remarks: [
        i.hold && { tone: "attend" as const, label: `hold until ${i.hold}` },
        i.caution && { tone: "attend" as const, label: `caution: ${i.caution}` },
        i.second && { tone: "attend" as const, label: "a second person checks it" },
        i.splice && { tone: "plain" as const, label: "may be spliced along the fibre" },
        i.metal && { tone: "plain" as const, label: "of metal" },
        i.filmsOff !== undefined && { tone: "plain" as const, label: `${i.filmsOff} films to take off` },
        i.join && { tone: "plain" as const, label: i.join === "butt" ? "pieces butt" : "pieces overlap" },
        i.note && { tone: "plain" as const, label: i.note },
      ].filter((x) => !!x),
    }))
    .filter((x) => x.remarks.length > 0);
  // What is said of many alike is said once.
  const said = [...Map.groupBy(each, (x) => JSON.stringify([x.ply, x.remarks])).entries()].map(([key, alike]) => ({
    key,
    keys: alike.map((x) => x.key),
    remarks: alike[0]!.remarks,
    label: !alike[0]!.ply
      ? alike.map((x) => x.label).join(", ")
      : `${alike.length === 1 ? "Ply" : "Plies"} ${ranges(alike.map((x) => Number(x.label)))}`,
  }));
  if (said.length === 0) return null;
  return (
    <section aria-label="Holds, cautions and notes">
      <Heading>
        Holds, cautions, notes: {each.length} {each.length === 1 ? "item" : "items"}
      </Heading>
      <ul
        style={{ listStyle: "none", margin: "4px 0 0", padding: 0, maxHeight: 220, overflow: "auto", fontSize: 15.5 }}
      >
        {said.map((x) => (
          <li key={x.key} style={{ padding: "3px 0", borderBottom: "1px solid var(--g4)" }}>
            <Button $quiet $small onPress={() => point(x.keys)}>
              {x.label}
            </Button>{" "}
            {x.remarks.map((s) => (
              <span key={s.label} style={{ marginRight: 10 }}>
                <Mark tone={s.tone}>{s.label}</Mark>
              </span>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
});
