// One item in full: what the sheet has no column for.
import { useState } from "react";
import { FileTrigger } from "react-aria-components";
import { base64, client } from "../../app/api";
import { Button, NumberField, Refusal, Row, SelectField, Stack, TextField } from "../../ui/parts";
import { layered } from "./cells";
import { withItems, type Item, type Master } from "./edits";

type Field = { label: string; scale: number; field: "turnDeg" | "joinWidth" | "stagger" | "chamfer" | "mass" };

/** A number that is kept when it is left, in people's units. */
export function Figure({
  label,
  value,
  scale,
  set,
  off,
  narrow,
  need,
  min,
  max,
  kelvin,
}: {
  label: string;
  value?: number | undefined;
  scale: number;
  set: (v: number | undefined) => void;
  off?: boolean;
  narrow?: boolean;
  /** It may not be left empty. */
  need?: boolean;
  /** In people's units. */
  min?: number;
  max?: number;
  /** K, entered in °C. */
  kelvin?: boolean;
}) {
  return (
    <div style={{ width: narrow ? 92 : 132 }}>
      <NumberField
        late
        {...{ need: need ?? false, off: off ?? false, kelvin: kelvin ?? false }}
        {...(min === undefined ? {} : { min })}
        {...(max === undefined ? {} : { max })}
        label={label}
        value={value === undefined ? NaN : value * scale}
        onChange={(v) => set(Number.isNaN(v) ? undefined : v / scale)}
      />
    </div>
  );
}

/** The chosen items in full: what is entered goes to all of them that have such a field. */
export function Detail({
  doc,
  item,
  all,
  labels,
  change,
}: {
  doc: Master;
  /** The last of the chosen; its values are shown. */
  item: Item;
  all: Item[];
  labels: Map<string, string>;
  change?: (m: Master) => void;
}) {
  const layer = layered(item);
  const has: Record<string, (i: Item) => boolean> = {
    ...Object.fromEntries(
      ["splice", "join", "joinWidth", "stagger", "filmsOff"].map((f) => [f, (i: Item) => i.kind === "ply"]),
    ),
    ...Object.fromEntries(["name", "mass", "metal"].map((f) => [f, (i: Item) => !layered(i)])),
    turnDeg: layered,
    chamfer: (i) => i.kind === "core",
  };
  const fits = (field: string) => all.filter(has[field] ?? (() => true));
  const set = (part: Partial<Item>) =>
    change?.(
      withItems(
        doc,
        fits(Object.keys(part)[0] ?? "").map((i) => i.key),
        part,
      ),
    );
  const differs = (field: keyof Item) => (fits(field).some((i) => i[field] !== item[field]) ? ", not alike" : "");
  const label = labels.get(item.key) ?? "";
  const off = !change;
  const fields: Field[] = layer
    ? [
        { label: "Outline turned, °", scale: 1, field: "turnDeg" },
        ...(item.kind === "core" ? [{ label: "Chamfer, °", scale: 1, field: "chamfer" } as Field] : []),
        ...(item.join === "overlap" ? [{ label: "Overlap, mm", scale: 1e3, field: "joinWidth" } as Field] : []),
        ...(item.join ? [{ label: "Seams stagger, mm", scale: 1e3, field: "stagger" } as Field] : []),
      ]
    : [{ label: "Mass each, g", scale: 1e3, field: "mass" }];
  const text = (name: "name" | "hold" | "note" | "caution", label: string) => (
    <div style={{ flex: "1 1 220px" }}>
      <TextField
        label={label + differs(name)}
        value={item[name] ?? ""}
        onChange={off ? () => undefined : (v) => set({ [name]: v || undefined })}
      />
    </div>
  );
  const tick = (name: "splice" | "second" | "metal", label: string) => (
    <label style={{ minHeight: 32, display: "inline-flex", alignItems: "center", gap: 8 }}>
      <input
        type="checkbox"
        checked={item[name] ?? false}
        disabled={off}
        onChange={(e) => set({ [name]: e.target.checked || undefined })}
      />
      {label + differs(name)}
    </label>
  );
  return (
    <Stack
      $gap={8}
      style={{ borderTop: "2px solid var(--ink)", paddingTop: 8, marginTop: 10 }}
      role="group"
      aria-label={all.length > 1 ? `More of the ${all.length} chosen` : `More of ${label}`}
    >
      <b>
        {all.length > 1
          ? `All ${all.length} chosen: ${all.map((i) => labels.get(i.key)).join(", ")}`
          : item.kind === "ply"
            ? `Ply ${label}`
            : label}
        {all.length === 1 && item.name ? `, ${item.name}` : ""}
      </b>
      <Row $gap={12} $top>
        {!layer && text("name", "What it is")}
        {fields.map((f) => (
          <Figure
            key={item.key + f.field}
            label={f.label + differs(f.field)}
            scale={f.scale}
            value={item[f.field]}
            off={off}
            set={(v) => set({ [f.field]: v })}
          />
        ))}
        {item.kind === "ply" && (
          <SelectField
            label={"Seams between pieces" + differs("join")}
            value={item.join ?? ""}
            disabled={off}
            onChange={(e) =>
              set(
                e.target.value === ""
                  ? { join: undefined, joinWidth: undefined, stagger: undefined }
                  : e.target.value === "butt"
                    ? { join: "butt", joinWidth: undefined }
                    : { join: "overlap", joinWidth: item.joinWidth ?? 0.015 },
              )
            }
          >
            <option value="">in one piece</option>
            <option value="butt">butt</option>
            <option value="overlap">overlap</option>
          </SelectField>
        )}
        {item.kind === "ply" && (
          <SelectField
            label={"Films to take off" + differs("filmsOff")}
            value={item.filmsOff ?? ""}
            disabled={off}
            onChange={(e) => set({ filmsOff: e.target.value === "" ? undefined : Number(e.target.value) })}
          >
            <option value="">all</option>
            {[0, 1, 2].map((n) => (
              <option key={n}>{n}</option>
            ))}
          </SelectField>
        )}
      </Row>
      <Row $gap={16}>
        {item.kind === "ply" && tick("splice", "may be spliced along the fibre where it is wider than its roll")}
        {tick("second", "a second person checks it")}
        {!layer && tick("metal", "of metal")}
      </Row>
      <Row $gap={12} $top>
        {text("note", "Note")}
        {text("caution", "Caution")}
        {text("hold", "Hold point: until this is done")}
      </Row>
      <Picture id={item.pictureId} {...(off ? {} : { set: (pictureId?: number) => set({ pictureId }) })} />
    </Stack>
  );
}

/** A picture of how it lies: kept as a file, shown here and in the ply book. */
function Picture({ id, set }: { id?: number | undefined; set?: (id?: number) => void }) {
  const [error, setError] = useState<unknown>(null);
  const keep = async (file: File) => {
    const { data, error: fault } = await client.POST("/api/files", {
      body: { name: file.name, content: await base64(file) },
    });
    setError(fault ?? null);
    if (data) set?.(data.id);
  };
  if (!id && !set) return null;
  return (
    <Row $gap={12} $top>
      {id && (
        <img
          src={`/api/files/${id}`}
          alt="Position of the item"
          style={{ maxWidth: 220, maxHeight: 160, border: "1px solid var(--ink)" }}
        />
      )}
      {set && (
        <FileTrigger acceptedFileTypes={["image/png", "image/jpeg"]} onSelect={(f) => f?.[0] && void keep(f[0])}>
          <Button $quiet $small>
            {id ? "Another picture" : "Add a picture"}
          </Button>
        </FileTrigger>
      )}
      {set && id && (
        <Button $quiet $small onPress={() => set(undefined)}>
          Remove the picture
        </Button>
      )}
      <Refusal error={error} />
    </Row>
  );
}
