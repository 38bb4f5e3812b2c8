// The stack as it is written: the sheet on the left, the stacking code that
// fills it, one item in full.
import { useRef, useState, type FormEvent } from "react";
import { api, client } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useSay } from "../../ui/say";
import { told } from "../../ui/format";
import { Button, Mark, NumberField, Row, Select, SelectField, TextField } from "../../ui/parts";
import { kinds } from "../master/cells";
import { Detail, Figure } from "../master/Detail";
import {
  coded,
  freshKey,
  inserted,
  itemLabels,
  items,
  mirrored,
  repeated,
  without,
  type Item,
  type Master,
} from "../master/edits";
import { StackTable } from "./Table";
import type { Writing } from "../master/useMaster";

const stageKinds: Schemas["Stage"]["kind"][] = [
  "skin",
  "core",
  "second skin",
  "pre-form",
  "co-cure",
  "bond",
  "over-wrap",
  "wet layup",
  "injection",
];

export function StackPage({
  w,
  writes,
  found,
  changed,
  chosen,
  shown,
  choose,
}: {
  w: Writing;
  writes: boolean;
  /** Keys that a finding is about. */
  found: Set<string>;
  changed: Set<string>;
  chosen: string[];
  /** The chosen ones, a moment later: the last of them stands in full. */
  shown: string[];
  choose: (keys: string[]) => void;
}) {
  const materials = api.useQuery("get", "/api/materials");
  const say = useSay();
  const none = chosen.length === 0 ? "choose rows" : "";
  const doc = w.doc;
  const laid = w.drawing?.layers;
  const labels = itemLabels(doc);
  const all = items(doc).filter((i) => shown.includes(i.key));
  const one = all.find((i) => i.key === shown.at(-1));
  return (
    <div>
      {writes && (
        <CodeLine
          doc={doc}
          at={chosen[0] ?? null}
          materials={(materials.data ?? []).filter((m) => m.kind === "unidirectional" || m.kind === "woven")}
          lay={(next, keys) => {
            w.change(next);
            choose(keys);
          }}
        />
      )}
      <StackTable
        tall={writes ? "max(330px, calc(100vh - 440px))" : "max(420px, calc(100vh - 300px))"}
        doc={doc}
        labels={labels}
        materials={materials.data ?? []}
        faults={w.faults}
        found={found}
        changed={changed}
        chosen={chosen}
        choose={choose}
        {...(writes ? { change: w.change } : {})}
        undo={w.undo}
        redo={w.redo}
        label={say}
      />
      {items(doc).length === 0 && <p>An empty stack: type a stacking code above, or add an item.</p>}
      {writes && (
        <Row $gap={8} style={{ paddingTop: 8 }}>
          <Add
            doc={doc}
            after={chosen.at(-1) ?? null}
            materials={materials.data ?? []}
            change={w.change}
            choose={choose}
          />
          <Button $quiet $small why={none} onPress={() => act(w, choose, repeated(doc, ordered(doc, chosen)))}>
            Repeat
          </Button>
          <Button $quiet $small why={none} onPress={() => act(w, choose, mirrored(doc, ordered(doc, chosen)))}>
            Mirror
          </Button>
          <Button $quiet $small why={none} onPress={() => (w.change(without(doc, chosen)), choose([]))}>
            Remove
          </Button>
          <Button $quiet $small why={w.done === 0 ? "none yet" : ""} onPress={w.undo}>
            Undo
          </Button>
          <Button $quiet $small why={w.undone === 0 ? "none yet" : ""} onPress={w.redo}>
            Redo
          </Button>
          <small>
            {laid && `${laid.length} layers, ${told.size(laid.at(-1)?.running ?? 0, 2)} if all lie on each other`}
          </small>
        </Row>
      )}
      {w.faults.filter((f) => !items(doc).some((i) => i.key === f.key)).length > 0 && (
        <ul role="alert" style={{ margin: "8px 0", paddingLeft: 18 }}>
          {w.faults
            .filter((f) => !items(doc).some((i) => i.key === f.key))
            .map((f) => (
              <li key={f.key + f.field + f.message}>
                <Mark tone="stop">{f.message}</Mark>
              </li>
            ))}
        </ul>
      )}
      {one && (
        <Detail
          key={one.key}
          doc={doc}
          item={one}
          all={all}
          labels={labels}
          {...(writes ? { change: w.change } : {})}
        />
      )}
      {writes && one && <StageOf doc={doc} item={one} all={all} change={w.change} />}
    </div>
  );
}

const act = (w: Writing, choose: (k: string[]) => void, [next, keys]: [Master, string[]]) => {
  w.change(next);
  choose(keys);
};

const ordered = (m: Master, keys: string[]) =>
  items(m)
    .filter((i) => keys.includes(i.key))
    .map((i) => i.key);

/** A stacking code that fills the stack. */
function CodeLine({
  doc,
  at,
  materials,
  lay,
}: {
  doc: Master;
  at: string | null;
  materials: Schemas["MaterialView"][];
  lay: (m: Master, keys: string[]) => void;
}) {
  const [code, setCode] = useState("");
  const [material, setMaterial] = useState("");
  const [wrong, setWrong] = useState<{ at: number; label: string } | null>(null);
  const field = useRef<HTMLDivElement>(null);
  const empty = items(doc).length === 0;
  const submit = async (e: FormEvent) => {
    e.preventDefault();
    const { data } = await client.GET("/api/stack", { params: { query: { code } } });
    if (!data) return;
    if (data.message) {
      const place = data.at ?? 0;
      setWrong({ at: place, label: data.message });
      const input = field.current?.querySelector("input");
      input?.focus();
      input?.setSelectionRange(place, Math.min(place + 1, code.length));
      return;
    }
    setWrong(null);
    const like = { materialId: Number(material) || materials[0]?.id };
    const stages =
      doc.stages.length > 0 ? doc.stages : [{ key: freshKey(doc), name: "Skin", kind: "skin" as const, items: [] }];
    const [next, keys] = coded({ ...doc, stages }, null, like, data.plies);
    lay(next, keys);
    setCode("");
  };
  return (
    <form onSubmit={(e) => void submit(e)} ref={field as never}>
      <Row $gap={10} style={{ alignItems: "flex-end", padding: "6px 0" }}>
        <div style={{ flex: "1 1 200px" }}>
          <TextField
            label={`Stacking code, such as [(0/90)2/±45]s, added ${empty ? "as the stack" : "at the end"}`}
            value={code}
            onChange={setCode}
          />
        </div>
        <SelectField label="of" value={material} onChange={(e) => setMaterial(e.target.value)}>
          {materials.map((m) => (
            <option key={m.id} value={m.id}>
              {m.name}
            </option>
          ))}
        </SelectField>
        <Button type="submit" $quiet why={code.trim() === "" ? "Type a code." : ""}>
          Lay the code
        </Button>
      </Row>
      {wrong && (
        <p role="alert">
          <Mark tone="stop">
            {code.slice(0, wrong.at)}▸{code.slice(wrong.at)}: {wrong.label}
          </Mark>
        </p>
      )}
      {at && !wrong && <small>In a cell of the column Angle a code takes the place of that row.</small>}
    </form>
  );
}

/** A new item of some kind after the chosen one. */
function Add({
  doc,
  after,
  materials,
  change,
  choose,
}: {
  doc: Master;
  after: string | null;
  materials: Schemas["MaterialView"][];
  change: (m: Master) => void;
  choose: (keys: string[]) => void;
}) {
  const [kind, setKind] = useState<Item["kind"]>("ply");
  const made: Partial<Record<Item["kind"], string[]>> = {
    ply: ["unidirectional", "woven"],
    "film adhesive": ["film adhesive"],
    core: ["core"],
    potting: ["paste adhesive", "liquid resin"],
    fillet: ["paste adhesive", "film adhesive"],
  };
  return (
    <form
      style={{ display: "flex", gap: 6 }}
      onSubmit={(e) => {
        e.preventDefault();
        const like = items(doc).find((i) => i.key === after);
        const fits = materials.find((m) => made[kind]?.includes(m.kind));
        const stages =
          doc.stages.length > 0 ? doc.stages : [{ key: freshKey(doc), name: "Skin", kind: "skin" as const, items: [] }];
        const [next, key] = inserted(
          { ...doc, stages },
          after,
          {
            materialId: like?.kind === kind ? like.materialId : fits?.id,
            outline: like?.outline ?? doc.outlines[0]?.name,
            x: like?.x ?? 0,
            y: like?.y ?? 0,
          },
          kind,
        );
        change(next);
        choose([key]);
      }}
    >
      <Select
        aria-label="Kind of item to add after the chosen one"
        value={kind}
        onChange={(e) => setKind(e.target.value as Item["kind"])}
      >
        {kinds.map((k) => (
          <option key={k}>{k}</option>
        ))}
      </Select>
      <Button $quiet $small type="submit">
        Add
      </Button>
    </form>
  );
}

/** The stages of the chosen items; a new one may begin at the first of them. */
function StageOf({
  doc,
  item: last,
  all,
  change,
}: {
  doc: Master;
  item: Item;
  all: Item[];
  change: (m: Master) => void;
}) {
  const item = all[0] ?? last;
  const of = doc.stages.filter((s) => s.items.some((i) => all.includes(i)));
  const k = doc.stages.findIndex((s) => s.items.some((i) => i.key === item.key));
  const stage = doc.stages[k];
  if (!stage) return null;
  const set = (part: Partial<Schemas["Stage"]>) =>
    change({ ...doc, stages: doc.stages.map((s) => (of.includes(s) ? { ...s, ...part } : s)) });
  const at = stage.items.findIndex((i) => i.key === item.key);
  const split = () => {
    // Its own 0° goes on: nothing turns because a stage begins.
    const rest = { ...stage, key: freshKey(doc), name: "", items: stage.items.slice(at) };
    change({
      ...doc,
      stages: [
        ...doc.stages.slice(0, k),
        { ...stage, items: stage.items.slice(0, at) },
        rest,
        ...doc.stages.slice(k + 1),
      ],
    });
  };
  return (
    <Row $gap={12} style={{ alignItems: "flex-end", paddingTop: 8 }} role="group" aria-label="Stage of what is chosen">
      <div style={{ width: 180 }}>
        <TextField
          label={of.length > 1 ? `Their ${of.length} stages` : "Its stage"}
          value={stage.name}
          onChange={(name) => set({ name })}
        />
      </div>
      <SelectField
        label="Kind of stage"
        value={stage.kind} // A cavity is of an injection, and goes with it.
        onChange={(e) => set({ kind: e.target.value as never, cavity: undefined, resin: undefined })}
      >
        {stageKinds.map((s) => (
          <option key={s}>{s}</option>
        ))}
      </SelectField>
      <div style={{ width: 120 }}>
        <NumberField
          late
          label="Rosette, °"
          value={stage.rosette ?? 0}
          min={-180}
          max={180}
          onChange={(v) => set({ rosette: Number.isNaN(v) || v === 0 ? undefined : v })}
        />
      </div>
      {stage.kind === "injection" && (
        <>
          <Figure label="Cavity, cm³" scale={1e6} value={stage.cavity} min={0} set={(v) => set({ cavity: v })} />
          <Figure label="Resin, kg" scale={1} value={stage.resin} min={0} set={(v) => set({ resin: v })} />
        </>
      )}
      {at > 0 && (
        <Button $quiet $small onPress={split}>
          Begin a stage here
        </Button>
      )}
      {k > 0 && <JoinToPrevious change={change} doc={doc} k={k} stage={stage} />}
    </Row>
  );
}

/** Puts the items of a stage into the stage above. */
function JoinToPrevious({
  change,
  doc,
  k,
  stage,
}: {
  change: (m: Schemas["Document"]) => void;
  doc: Schemas["Document"];
  k: number;
  stage: Schemas["Stage"];
}) {
  return (
    <Button
      $quiet
      $small
      onPress={() =>
        change({
          ...doc,
          stages: doc.stages
            .map((s, n) => (n === k - 1 ? { ...s, items: [...s.items, ...stage.items] } : s))
            .filter((_, n) => n !== k),
        })
      }
    >
      Join with the stage before
    </Button>
  );
}
