// One row of the sheet: its cells, the editor of the one that is written in, and
// what is wrong with it.
import { memo, useRef, type KeyboardEvent } from "react";
import { useDrag, useDrop } from "react-aria-components";
import type { Schemas } from "../../contract/types";
import { columns, edited, kinds, shown, type Field } from "../master/cells";
import type { Item, Master, Stage } from "../master/edits";
import { Grip } from "./TableLook";
import { labelIn, said } from "../../ui/units";

type Material = Schemas["MaterialView"];
export type At = { key: string; field: Field };

/** Puts the focus into a field in the moment in which it appears. */
const focused = (el: HTMLElement | null) => el?.focus();

type RowProps = {
  item: Item;
  /** Among all rows of the sheet, from 1; the heading is the first. */
  index: number;
  label: string;
  materials: Material[];
  chosen: boolean;
  marked: string;
  fault?: string;
  at?: Field;
  typing: string | null;
  outlines: Master["outlines"];
  writes: boolean;
  verbs: Verbs;
};

/** What a row does; they stay the same ones for good. */
export type Verbs = {
  press: (key: string, f: Field, extend: boolean) => void;
  open: (key: string, f: Field) => void;
  type: (text: string) => void;
  /** False when the text was refused, or is still being read. */
  commit: (text: string, then?: At | null) => boolean;
  next: (dRow: number, dColumn: number) => At | undefined;
  leave: () => void;
  /** The items that are dragged by the grip of one of them. */
  grab: (key: string) => string[];
  /** Drops items on another, or on a stage. */
  drop: (keys: string[], on: string) => void;
};

// What a dragged row carries: the keys of its items.
const carried = "application/x-juxta-items";

/** Where rows may be dropped: on the item or the stage of a key. */
function useDropOn(key: string, writes: boolean, verbs: Verbs) {
  const ref = useRef<HTMLTableRowElement>(null);
  const { dropProps, isDropTarget } = useDrop({
    ref,
    isDisabled: !writes,
    getDropOperation: (types) => (types.has(carried) ? "move" : "cancel"),
    onDrop: (e) => {
      const item = e.items.find((i) => i.kind === "text");
      if (item) void item.getText(carried).then((keys) => verbs.drop(JSON.parse(keys) as string[], key));
    },
  });
  return { ref, ...dropProps, tabIndex: writes ? -1 : undefined, "data-over": isDropTarget || undefined };
}

/** The heading of a stage, which takes rows to its beginning. */
export function StageRow({
  stage: s,
  index,
  writes,
  verbs,
}: {
  stage: Stage;
  index: number;
  writes: boolean;
  verbs: Verbs;
}) {
  const drop = useDropOn(s.key, writes, verbs);
  return (
    <tr {...drop} className="stage" aria-rowindex={index} aria-label={`Stage ${s.name || s.kind}`}>
      <td colSpan={columns.length + 1}>
        {s.name || s.kind}{" "}
        <small>{[s.kind, s.rosette ? `rosette at ${s.rosette}°` : "", s.note].filter(Boolean).join(" · ")}</small>
      </td>
    </tr>
  );
}

// A row is drawn anew only when something of it changed: a stack has hundreds.
export const SheetRow = memo(RowOf);

function RowOf(p: RowProps) {
  const { item: i, verbs } = p;
  const byKey = useRef(true);
  const left = useRef(false); // by Escape: then losing the focus keeps nothing
  const drop = useDropOn(i.key, p.writes, verbs);
  const { dragProps, dragButtonProps } = useDrag({
    hasDragButton: true,
    isDisabled: !p.writes,
    getAllowedDropOperations: () => ["move"],
    getItems: () => [{ [carried]: JSON.stringify(verbs.grab(i.key)), "text/plain": p.label }],
  });
  // Enter and Tab keep the entry; at the end of the row Tab leaves the sheet.
  const keys = (e: KeyboardEvent) => {
    e.stopPropagation();
    left.current = e.key === "Escape";
    if (left.current) verbs.leave();
    else if (e.key === "Enter") verbs.commit(p.typing ?? "", verbs.next(1, 0));
    else if (e.key === "Tab") {
      const to = verbs.next(0, e.shiftKey ? -1 : 1);
      const stays = to?.field !== p.at;
      if (verbs.commit(p.typing ?? "", stays ? to : null) && !stays) return;
    } else return;
    e.preventDefault();
  };
  const select = (options: { value: string; label: string }[], field: Field) => (
    <select
      ref={focused}
      aria-label={`${field === "materialId" ? "Material" : field === "faceUp" ? "Face" : field} of ${p.label}`}
      value={p.typing ?? ""}
      onPointerDown={() => (byKey.current = false)}
      // What the mouse picks is meant; a key only walks through the choices.
      onChange={(e) => (byKey.current ? verbs.type(e.target.value) : verbs.commit(e.target.value))}
      onBlur={(e) => {
        if (!left.current && p.typing !== null && e.target.value !== edited(i, field)) verbs.commit(e.target.value);
      }}
      onKeyDown={(e) => {
        byKey.current = e.key !== "Enter";
        keys(e);
      }}
    >
      {p.typing === "" && <option value="">choose</option>}
      {options.map((o) => (
        <option key={o.value} value={o.value}>
          {o.label}
        </option>
      ))}
    </select>
  );
  const editor = (field: Field) => {
    switch (field) {
      case "kind":
        return select(
          kinds.map((k) => ({ value: k, label: k })),
          field,
        );
      case "materialId":
        return select(
          p.materials.map((m) => ({ value: String(m.id), label: m.name })),
          field,
        );
      case "outline":
        return select(
          p.outlines.map((o) => ({ value: o.name, label: o.name })),
          field,
        );
      case "faceUp":
        return select(
          ["up", "down"].map((v) => ({ value: v, label: v })),
          field,
        );
      default:
        return (
          <input
            ref={focused}
            aria-label={`${field === "angleDeg" ? "Angle, or a stacking code," : field} of ${p.label}`}
            value={p.typing ?? ""}
            onChange={(e) => verbs.type(e.target.value)}
            onBlur={(e) => {
              if (!left.current && p.typing !== null && !p.fault && e.target.value !== edited(i, field))
                verbs.commit(e.target.value);
            }}
            onKeyDown={keys}
          />
        );
    }
  };
  return (
    <>
      <tr
        aria-selected={p.chosen}
        aria-rowindex={p.index}
        className={p.fault ? "fault" : undefined}
        aria-label={p.label}
        {...drop}
      >
        <td {...dragProps}>
          {p.writes && (
            <Grip {...dragButtonProps} excludeFromTabOrder={p.at === undefined} aria-label={`Drag ${p.label}`}>
              ⠿
            </Grip>
          )}
          <b>{p.label}</b>
          {p.marked === "found" && <b style={{ color: "var(--brick)" }}> ✕</b>}
          {p.marked === "changed" && <small> new</small>}
        </td>
        {columns.map((c) => (
          <td
            key={c.field}
            role="gridcell"
            className={c.number ? "n" : undefined}
            data-cell={`${i.key}/${c.field}`}
            tabIndex={p.at === c.field && p.typing === null ? 0 : -1}
            aria-label={`${labelIn(c.head)} of ${p.label}: ${shown(i, c.field, p.materials) || "none"}`}
            onClick={(e) => p.typing === null && verbs.press(i.key, c.field, e.shiftKey)}
            onDoubleClick={() => verbs.open(i.key, c.field)}
          >
            {p.at === c.field && p.typing !== null ? editor(c.field) : shown(i, c.field, p.materials)}
          </td>
        ))}
      </tr>
      {p.fault && (
        <tr>
          <td />
          <td className="says" colSpan={columns.length}>
            <div role="alert">{said(p.fault)}</div>
          </td>
        </tr>
      )}
    </>
  );
}
