// A recipe as a file, and the curves as a table.
import { useState } from "react";
import { Button, Heading, Mark, Row } from "../../ui/parts";
import type { Forecast, Plan } from "./useForecast";

function hand(name: string, mime: string, text: string) {
  const a = document.createElement("a");
  a.href = URL.createObjectURL(new Blob([text], { type: mime }));
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 1000);
}

/** The curves, a line a time: SI units, comma and point as in RFC 4180. */
function table(f: Forecast) {
  const cell = (v: number | undefined) => (v === undefined ? "" : String(+v.toPrecision(7)));
  const head = ["t s", "set point K", "air K", "pressure Pa", "vacuum Pa", "segment"];
  for (const s of f.sections)
    for (const c of [
      "coldest K",
      "middle K",
      "hottest K",
      "least cure",
      "most cure",
      "least viscosity Pa s",
      "glass transition K",
    ])
      head.push(`${s.name.replaceAll(",", " ")}: ${c}`);
  const lines = f.points.map((p) =>
    [
      ...[p.t, p.setPoint, p.air, p.pressure, p.vacuum, p.segment + 1].map(cell),
      ...p.parts.flatMap((q) => [q.lag, q.middle, q.lead, q.least, q.most, q.thin, q.glass].map(cell)),
    ].join(","),
  );
  return [head.map((h) => `"${h.replaceAll('"', '""')}"`).join(","), ...lines].join("\r\n") + "\r\n";
}

export function Exchange({
  name,
  plan,
  f,
  take,
}: {
  name: string;
  plan: Plan;
  f: Forecast | undefined;
  take: ((plan: Plan) => void) | undefined;
}) {
  const [says, setSays] = useState("");
  const file = name.replace(/[^\p{L}\p{N}]+/gu, "-");
  const read = async (chosen: File | undefined) => {
    if (!chosen) return;
    setSays("");
    if (chosen.size > 1_000_000) return setSays("A recipe has less than a megabyte.");
    try {
      const v = JSON.parse(await chosen.text()) as Partial<Plan>;
      if (!v.recipe?.segments?.length || !v.sections?.length)
        return setSays("This file has no recipe with segments and sections: it is not one that was written here.");
      take?.({
        recipe: v.recipe,
        sections: v.sections,
        limits: v.limits ?? {},
        ...(v.reasons ? { reasons: v.reasons } : {}),
      });
    } catch {
      setSays("This file is not JSON.");
    }
  };
  return (
    <section aria-label="Files">
      <Heading>Files</Heading>
      <Row $gap={10} style={{ margin: "6px 0" }}>
        <Button
          $quiet
          $small
          onPress={() => hand(`${file}.json`, "application/json", JSON.stringify(plan, null, 2) + "\n")}
        >
          Recipe, JSON
        </Button>
        {f && (
          <Button $quiet $small onPress={() => hand(`${file}.csv`, "text/csv", table(f))}>
            Curves, CSV
          </Button>
        )}
        {take && (
          <label style={{ display: "flex", gap: 8, alignItems: "center" }}>
            Read one:
            <input type="file" accept=".json,application/json" onChange={(e) => void read(e.target.files?.[0])} />
          </label>
        )}
      </Row>
      {says && <Mark tone="stop">{says}</Mark>}
    </section>
  );
}
