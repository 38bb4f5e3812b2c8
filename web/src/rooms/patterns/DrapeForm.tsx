// How a ply is laid on: where first, of strips or whole, with which darts and splits.
import { Button, Row, Stack } from "../../ui/parts";
import type { Schemas } from "../../contract/types";
import { Figure } from "../master/Detail";
import type { Item } from "../master/edits";
import type { Node, Piece } from "./net";
import type { JSX } from "react";

type Cut = Schemas["FabricCut"];
type Laid = NonNullable<Item["laid"]>;

export function DrapeForm({
  item,
  pieces,
  picked,
  start,
  set,
}: {
  item: Item;
  pieces: Piece[];
  picked: Node | undefined;
  /** Where it is laid on first as it stands, m. */
  start: number[] | undefined;
  set: (part: Partial<Item>) => void;
}) {
  const laid = item.laid;
  const cuts = laid?.cuts ?? [];
  const lay = (part: Partial<Laid>) => set({ laid: { ...laid, ...part } });
  const one = (k: number, part: Partial<Cut>) => lay({ cuts: cuts.map((c, n) => (n === k ? { ...c, ...part } : c)) });
  const x = start?.[0] ?? 0;
  const y = start?.[1] ?? 0;
  return (
    <Stack $gap={10} role="group" aria-label="Draping">
      <StartOfPly item={item} set={set} laid={laid} lay={lay} y={y} x={x} />
      {cuts.map((c, k) => {
        const dart = c.kind === "dart";
        const called = `${dart ? "Dart" : "Split"} ${k + 1}`;
        const figure = (label: string, value: number, part: (v: number) => Partial<Cut>) => (
          <Figure narrow need label={label} scale={1e3} value={value} set={(v) => one(k, part(v ?? 0))} />
        );
        return (
          <CutFields
            key={k}
            k={k}
            called={called}
            figure={figure}
            dart={dart}
            c={c}
            one={one}
            picked={picked}
            lay={lay}
            cuts={cuts}
          />
        );
      })}
      <Row $gap={8}>
        <Button
          $quiet
          $small
          why={
            laid?.strip
              ? "Strips are steered: they need no darts."
              : picked
                ? ""
                : "Pick the place of its tip on the drawing first."
          }
          onPress={() => picked && lay({ cuts: [...cuts, dartTo(picked, pieces[picked.piece])] })}
        >
          Dart with its tip here
        </Button>
        <Button
          $quiet
          $small
          onPress={() => {
            const at = picked?.at ?? [x, y];
            lay({ cuts: [...cuts, { kind: "split", x: at[0]!, y: at[1]!, toX: at[0]!, toY: at[1]! + 0.1 }] });
          }}
        >
          Split along y {picked ? "here" : "at the start"}
        </Button>
      </Row>
    </Stack>
  );
}

const round = (v: number) => Math.round(v * 1e4) / 1e4;

/** A dart from a place straight to the nearest place of its piece's edge. */
function dartTo(tip: Node, piece: Piece | undefined): Cut {
  let mouth = tip.at;
  let least = Infinity;
  for (const p of piece?.boundary ?? []) {
    const d = Math.hypot(p[0]! - tip.at[0]!, p[1]! - tip.at[1]!);
    if (d < least) [least, mouth] = [d, p];
  }
  return { kind: "dart", x: round(tip.at[0]!), y: round(tip.at[1]!), toX: round(mouth[0]!), toY: round(mouth[1]!) };
}

/** Where a ply is laid on first, and how its warp lies there. */
function StartOfPly({
  item,
  set,
  laid,
  lay,
  y,
  x,
}: {
  item: Schemas["Item"];
  set: (part: Partial<Schemas["Item"]>) => void;
  laid: undefined | Schemas["DrapeSettings"];
  lay: (part: Schemas["DrapeSettings"]) => void;
  y: number;
  x: number;
}) {
  return (
    <Row $gap={12} $top>
      <Figure
        label="Warp at the start, °"
        scale={1}
        need
        min={-180}
        max={180}
        value={item.angleDeg}
        set={(a) => set({ angleDeg: a ?? 0 })}
      />
      <Figure
        label="Start x, mm"
        scale={1e3}
        value={laid?.x}
        set={(v) => lay(v === undefined ? { x: undefined, y: undefined } : { x: v, y: laid?.y ?? y })}
      />
      <Figure
        label="y, mm"
        scale={1e3}
        value={laid?.y}
        set={(v) => lay(v === undefined ? { x: undefined, y: undefined } : { x: laid?.x ?? x, y: v })}
      />
      <Figure label="Cell of its net, mm" scale={1e3} min={0} value={laid?.cell} set={(cell) => lay({ cell })} />
      <Figure
        label="Strips of width, mm"
        scale={1e3}
        min={0}
        value={laid?.strip}
        set={(strip) => lay({ strip: strip || undefined })}
      />
    </Row>
  );
}

/** A dart or split: from where to where. */
function CutFields({
  k,
  called,
  figure,
  dart,
  c,
  one,
  picked,
  lay,
  cuts,
}: {
  k: number;
  called: string;
  figure: (label: string, value: number, part: (v: number) => Partial<Schemas["FabricCut"]>) => JSX.Element;
  dart: boolean;
  c: Schemas["FabricCut"];
  one: (k: number, part: Partial<Schemas["FabricCut"]>) => void;
  picked: undefined | Node;
  lay: (part: Schemas["DrapeSettings"]) => void;
  cuts: Schemas["FabricCut"][];
}) {
  return (
    <fieldset style={{ border: 0, borderTop: "1px solid var(--g4)", margin: 0, padding: "6px 0" }}>
      <legend style={{ fontWeight: 700, paddingRight: 8 }}>{called}</legend>
      <Row $gap={8} $top>
        {figure(dart ? "Tip x, mm" : "Line x, mm", c.x, (x) => ({ x }))}
        {figure(dart ? "Tip y, mm" : "Line y, mm", c.y, (y) => ({ y }))}
        {figure(dart ? "Mouth x, mm" : "to x, mm", c.toX, (toX) => ({ toX }))}
        {figure(dart ? "Mouth y, mm" : "to y, mm", c.toY, (toY) => ({ toY }))}
        <Figure
          narrow
          min={0}
          label="Overlap, mm"
          scale={1e3}
          value={c.overlap}
          set={(v) => one(k, { overlap: v || undefined })}
        />
        <Row $gap={6} style={{ alignSelf: "flex-end" }}>
          <Button
            $quiet
            $small
            aria-label={`Move ${called} here`}
            why={picked ? "" : "pick a place first"}
            onPress={() => picked && one(k, { x: round(picked.at[0]!), y: round(picked.at[1]!) })}
          >
            Move it here
          </Button>
          <Button
            $quiet
            $small
            aria-label={`Remove ${called}`}
            onPress={() => lay({ cuts: cuts.filter((_, n) => n !== k) })}
          >
            Remove
          </Button>
        </Row>
      </Row>
    </fieldset>
  );
}
