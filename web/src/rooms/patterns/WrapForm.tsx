// How the chosen sheet of a rolled stage is put on.
import type { Schemas } from "../../contract/types";
import { Row, SelectField } from "../../ui/parts";
import { Figure } from "../master/Detail";
import type { Item } from "../master/edits";

type Wrap = Schemas["Wrap"];

const ways = {
  wrap: "wrapped, seam along the mandrel",
  spiral: "one long sheet wound as a spiral",
  strips: "strips or tape at a pitch",
  braid: "a sleeve pulled over",
} as const;

/** A wrap that says nothing is none. */
const worth = (w: Wrap): Wrap | undefined => (Object.values(w).some((v) => v !== undefined) ? w : undefined);

export function WrapForm({ item, last, set }: { item: Item; last: boolean; set: (part: Partial<Item>) => void }) {
  const w = item.wrap ?? {};
  const how = w.how ?? "wrap";
  const wrap = (part: Partial<Wrap>) => set({ wrap: worth({ ...w, ...part }) });
  const join = item.join ?? "butt";
  return <WrapFields how={how} set={set} w={w} item={item} wrap={wrap} join={join} last={last} />;
}

/** How a sheet is put on. */
function PutOn({
  how,
  set,
  w,
}: {
  how: "wrap" | "spiral" | "strips" | "braid";
  set: (part: Partial<Schemas["Item"]>) => void;
  w: Schemas["Wrap"];
}) {
  return (
    <SelectField
      label="Method"
      value={how}
      onChange={(e) => {
        const next = e.target.value as keyof typeof ways;
        set({
          wrap: worth({
            from: w.from,
            to: w.to,
            how: next === "wrap" ? undefined : next,
            ...(next === "wrap" ? { turns: w.turns, crossed: w.crossed } : {}),
            ...(next === "strips" ? { strip: w.strip ?? 0.02, starts: w.starts } : {}),
          }),
          ...(next === "strips" || next === "braid"
            ? { join: undefined, joinWidth: undefined, stagger: undefined }
            : {}),
        });
      }}
    >
      {Object.entries(ways).map(([k, label]) => (
        <option key={k} value={k}>
          {label}
        </option>
      ))}
    </SelectField>
  );
}

/** How its edges meet. */
function SeamKind({
  join,
  set,
  item,
}: {
  join: "butt" | "overlap" | "gap";
  set: (part: Partial<Schemas["Item"]>) => void;
  item: Schemas["Item"];
}) {
  return (
    <SelectField
      label="Seam"
      value={join}
      onChange={(e) => {
        const to = e.target.value as typeof join;
        set(
          to === "butt"
            ? { join: "butt", joinWidth: undefined }
            : { join: to, joinWidth: item.joinWidth ?? (to === "gap" ? 0.0005 : 0.01) },
        );
      }}
    >
      <option>butt</option>
      <option>overlap</option>
      <option>gap</option>
    </SelectField>
  );
}

/** The angle of the fibre from the axis. */
function FibreAngle({
  item,
  how,
  set,
}: {
  item: Schemas["Item"];
  how: "wrap" | "spiral" | "strips" | "braid";
  set: (part: Partial<Schemas["Item"]>) => void;
}) {
  return (
    <Figure
      label="Fibre from the axis, °"
      scale={1}
      need
      min={-180}
      max={180}
      value={item.angleDeg}
      off={how === "braid"}
      set={(v) => set({ angleDeg: v ?? 0 })}
    />
  );
}

/** Wrapping of the chosen sheet. */
function WrapFields({
  how,
  set,
  w,
  item,
  wrap,
  join,
  last,
}: {
  how: "wrap" | "spiral" | "strips" | "braid";
  set: (part: Partial<Schemas["Item"]>) => void;
  w: Schemas["Wrap"];
  item: Schemas["Item"];
  wrap: (part: Schemas["Wrap"]) => void;
  join: "butt" | "overlap" | "gap";
  last: boolean;
}) {
  return (
    <Row $gap={12} $top role="group" aria-label="Wrapping of the chosen sheet">
      <PutOn how={how} set={set} w={w} />
      <FibreAngle item={item} how={how} set={set} />
      {how === "wrap" && (
        <Figure
          label="Turns of one sheet"
          scale={1}
          min={1}
          max={200}
          value={w.turns ?? 1}
          set={(v) => wrap({ turns: v && v > 1 ? Math.round(v) : undefined })}
        />
      )}
      {how === "spiral" && (
        <Figure
          label="Edges from the axis, °"
          scale={1}
          min={-85}
          max={85}
          value={w.helixDeg}
          set={(v) => wrap({ helixDeg: v })}
        />
      )}
      {how === "strips" && <StripFields w={w} wrap={wrap} />}
      {(how === "wrap" || how === "spiral") && (
        <>
          <SeamKind join={join} set={set} item={item} />
          {join !== "butt" && (
            <Figure
              label={join === "gap" ? "Gap, mm" : "Overlap, mm"}
              scale={1e3}
              need
              min={0}
              value={item.joinWidth}
              set={(v) => set({ joinWidth: v ?? 0 })}
            />
          )}
        </>
      )}
      {how === "wrap" && (
        <Figure
          label="Seam offset, mm"
          scale={1e3}
          min={0}
          value={item.stagger}
          set={(v) => set({ stagger: v, ...(v && !item.join ? { join: "butt" as const } : {}) })}
        />
      )}
      <Figure label="From, mm" scale={1e3} min={0} value={w.from} set={(v) => wrap({ from: v })} />
      <Figure label="To (empty: the end), mm" scale={1e3} min={0} value={w.to} set={(v) => wrap({ to: v })} />
      {how === "wrap" && !last && <CrossedField w={w} wrap={wrap} />}
    </Row>
  );
}

/** How wide strips are, and how many are wound side by side. */
function StripFields({ w, wrap }: { w: Schemas["Wrap"]; wrap: (part: Schemas["Wrap"]) => void }) {
  return (
    <>
      <Figure label="Strip width, mm" scale={1e3} need min={0} value={w.strip} set={(v) => wrap({ strip: v ?? 0 })} />
      <Figure
        label="Strips side by side"
        scale={1}
        min={1}
        max={500}
        value={w.starts ?? 1}
        set={(v) => wrap({ starts: v && v > 1 ? Math.round(v) : undefined })}
      />
    </>
  );
}

/** Whether a sheet is tacked to the next. */
function CrossedField({ w, wrap }: { w: Schemas["Wrap"]; wrap: (part: Schemas["Wrap"]) => void }) {
  return (
    <label style={{ minHeight: 32, display: "inline-flex", alignItems: "center", gap: 8, alignSelf: "flex-end" }}>
      <input
        type="checkbox"
        checked={w.crossed ?? false}
        onChange={(e) => wrap({ crossed: e.target.checked || undefined })}
      />
      tacked to the next at its seam, rolled with it
    </label>
  );
}
