// A recipe as a file, the curves as a table, and a recipe that is read from either.
import { useState } from "react";
import { client } from "../../app/api";
import { Refused } from "../../contract/types";
import { Button, Heading, Refusal, Row } from "../../ui/parts";
import { filled, type Asked, type Plan } from "./useForecast";
import type { Schemas } from "../../contract/types";

function hand(name: string, content: Blob) {
  const a = document.createElement("a");
  a.href = URL.createObjectURL(content);
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 1000);
}

const strange = (title: string) => new Refused({ title, detail: title });

/** Bytes as the API takes them. */
const base64 = async (file: File) => {
  let out = "";
  for (const b of new Uint8Array(await file.arrayBuffer())) out += String.fromCharCode(b);
  return btoa(out);
};

export function Exchange({
  name,
  asked,
  take,
}: {
  name: string;
  asked: Asked;
  take: ((plan: Plan) => void) | undefined;
}) {
  const [error, setError] = useState<unknown>(null);
  const file = name.replace(/[^\p{L}\p{N}]+/gu, "-");
  const attempt = (what: () => Promise<void>) => {
    setError(null);
    what().catch(setError);
  };
  const curves = async () => {
    const { data, error: refused } = await client.POST("/api/forecast/curves", { body: asked, parseAs: "blob" });
    if (!data) throw new Refused(refused);
    hand(`${file}.csv`, data);
  };
  const recipe = async (chosen: File) => {
    if (chosen.size > 500_000) throw strange("A recipe has less than half a megabyte.");
    let v: Partial<Plan> | null;
    try {
      v = JSON.parse(await chosen.text()) as Partial<Plan> | null;
    } catch {
      throw strange("This file is not JSON.");
    }
    if (!v?.recipe || !v.sections)
      throw strange("This file has no recipe with segments and sections: it is not one that was written here.");
    const plan: Plan = {
      recipe: v.recipe,
      sections: v.sections,
      limits: v.limits ?? {},
      ...(v.reasons ? { reasons: v.reasons } : {}),
    };
    // The server says whether it is one: nothing of a file is on the page before it is known to be sound.
    const { data, error: refused } = await client.POST("/api/forecast", { body: { ...asked, plan } });
    if (!data) throw new Refused(refused);
    take?.(plan);
  };
  const curve = async (chosen: File) => {
    if (chosen.size > 4_000_000) throw strange("A curve has less than 4 megabytes.");
    const { data, error: refused } = await client.POST("/api/recipes/curve", {
      body: { name, table: await base64(chosen) },
    });
    if (!data) throw new Refused(refused);
    const control = asked.plan.recipe.control;
    take?.({ ...asked.plan, recipe: { ...data, ...(control ? { control } : {}) }, reasons: [] });
  };
  const choose = (label: string, accept: string, read: (f: File) => Promise<void>) => (
    <label style={{ display: "flex", gap: 8, alignItems: "center", flexWrap: "wrap" }}>
      {label}
      <input
        type="file"
        accept={accept}
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          if (chosen) attempt(() => read(chosen));
          e.target.value = "";
        }}
      />
    </label>
  );
  return (
    <section aria-label="Files">
      <Heading>Files</Heading>
      <FilesOut file={file} asked={asked} attempt={attempt} curves={curves} />
      {take && choose("Read a recipe, JSON:", ".json,application/json", recipe)}
      {take && choose("Read a curve of set points, CSV or XLSX:", ".csv,.xlsx,text/csv", curve)}
      <Refusal error={error} />
    </section>
  );
}

/** The recipe and its curves as files. */
function FilesOut({
  file,
  asked,
  attempt,
  curves,
}: {
  file: string;
  asked: Schemas["ForecastIn"];
  attempt: (what: () => Promise<void>) => void;
  curves: () => Promise<void>;
}) {
  return (
    <Row $gap={10} style={{ margin: "6px 0" }}>
      <Button
        $quiet
        $small
        onPress={() =>
          hand(
            `${file}.json`,
            new Blob(
              [JSON.stringify({ $schema: `${location.origin}/api/recipes/schema`, ...asked.plan }, null, 2) + "\n"],
              {
                type: "application/json",
              },
            ),
          )
        }
      >
        Recipe, JSON
      </Button>
      <Button $quiet $small why={filled(asked) ? "" : "Fill every field."} onPress={() => attempt(curves)}>
        Curves, CSV
      </Button>
      <a href="/api/recipes/schema" download>
        What a recipe’s file holds, JSON Schema
      </a>
    </Row>
  );
}
