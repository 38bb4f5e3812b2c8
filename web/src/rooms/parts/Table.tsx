// The stack as a sheet: one row an item, edited in place and all by keyboard.
// Arrows walk the cells, typing writes, Enter keeps; Alt with arrows moves rows,
// Shift with arrows chooses several, and a row's grip drags it by mouse, touch, keys
// or screen reader. What the server finds wrong stands in the
// row that it is about.
import { useVirtualizer, defaultRangeExtractor } from "@tanstack/react-virtual";
import {
  Fragment,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type ClipboardEvent,
  type KeyboardEvent,
} from "react";
import { flushSync } from "react-dom";
import { columns, edited, read } from "../master/cells";
import { Grid } from "./TableLook";
import { SheetRow, StageRow, type At, type Verbs } from "./TableRow";
import { extended, inOrder, neighbour, pressed } from "./sheetKeys";
import { client } from "../../app/api";
import { explain, type Schemas } from "../../contract/types";
import { begun, coded, dropped, withItem, type Item, type Master } from "../master/edits";
import { labelIn } from "../../ui/units";

type Material = Schemas["MaterialView"];
type Line = { stage: Master["stages"][number]; item?: Item };

const rowHigh = 39; // until it is measured
export function StackTable({
  doc,
  labels,
  materials,
  faults,
  found,
  changed,
  chosen,
  choose,
  change,
  undo,
  redo,
  label,
  tall,
}: {
  doc: Master;
  labels: Map<string, string>;
  materials: Material[];
  faults: Schemas["Fault"][];
  /** Keys that a finding is about. */
  found: Set<string>;
  changed: Set<string>;
  chosen: string[];
  choose: (keys: string[]) => void;
  /** Missing: the sheet is read only. */
  change?: (m: Master) => void;
  undo: () => void;
  redo: () => void;
  label: (text: string, good?: boolean) => void;
  /** How high it may become before it scrolls. */
  tall: string;
}) {
  const [at, setAt] = useState<At | null>(null);
  const [typing, setTyping] = useState<string | null>(null);
  const [wrong, setWrong] = useState<{ key: string; label: string } | null>(null);
  const grid = useRef<HTMLTableElement>(null);
  const list = doc.stages.flatMap((s) => s.items);
  const names = (doc.parameters ?? []).map((p) => p.name);
  const active: At | null =
    at && list.some((i) => i.key === at.key) ? at : list[0] ? { key: list[0].key, field: "angleDeg" } : null;

  // Of hundreds of rows those in sight stand in the page, and the one that is at.
  const scroller = useRef<HTMLDivElement>(null);
  const lines = useMemo(
    () =>
      doc.stages.flatMap((stage): Line[] => [
        ...(doc.stages.length > 1 ? [{ stage }] : []),
        ...stage.items.map((item) => ({ stage, item })),
      ]),
    [doc],
  );
  const here = lines.findIndex((l) => l.item && l.item.key === active?.key);
  const rows = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHigh,
    getItemKey: (k) => lines[k]!.item?.key ?? `stage ${lines[k]!.stage.key}`,
    overscan: 10,
    scrollPaddingStart: rowHigh,
    rangeExtractor: (range) =>
      [...new Set([...defaultRangeExtractor(range), ...(here >= 0 ? [here] : [])])].sort((a, b) => a - b),
  });
  // What is chosen elsewhere, on the plan or by a finding, is brought into sight.
  const first = lines.findIndex((l) => l.item && l.item.key === chosen[0]);
  const elsewhere = first >= 0 && !chosen.includes(active?.key ?? "");
  useEffect(() => {
    if (elsewhere) rows.scrollToIndex(first);
  }, [elsewhere, first, rows]);

  // The focus follows the cell that is at, while the sheet has it.
  const wants = useRef(false);
  useEffect(() => {
    if (!wants.current || !active || typing !== null) return;
    wants.current = false;
    grid.current?.querySelector<HTMLElement>(`[data-cell="${active.key}/${active.field}"]`)?.focus();
  });

  const go = (to: At, extend = false) => {
    wants.current = true;
    setAt(to);
    setWrong(null);
    choose(extend && chosen.length > 0 && active ? extended(list, chosen, to.key) : [to.key]);
  };
  const set = (key: string, part: Partial<Item>) => change?.(withItem(doc, key, part));

  const lay = async (key: string, code: string) => {
    const { data, error } = await client.GET("/api/stack", { params: { query: { code } } });
    if (!data) {
      setWrong({ key, label: explain(error).message });
      return;
    }
    if (data.message) {
      const place = data.at ?? 0;
      setWrong({ key, label: `${code.slice(0, place)}▸${code.slice(place)} — ${data.message}` });
      return;
    }
    const [next, keys] = coded(doc, key, {}, data.plies);
    change?.(next);
    wants.current = true;
    setTyping(null);
    setAt({ key: keys.at(-1) ?? key, field: "angleDeg" });
    choose(keys);
    label(`${data.plies.length} plies laid`, true);
  };

  // then: null leaves the sheet.
  const commit = (text: string, then?: At | null): boolean => {
    if (!active) return false;
    const item = list.find((i) => i.key === active.key)!;
    if (active.field === "angleDeg" && /[/[(_±∓,]/.test(text) && item.kind === "ply") {
      void lay(active.key, text);
      return false;
    }
    const part = read(item, active.field, text, names);
    if (typeof part === "string") {
      setWrong({ key: active.key, label: part });
      return false;
    }
    if (text !== edited(item, active.field)) set(active.key, part);
    setTyping(null);
    if (then === null) wants.current = false;
    else go(then ?? active);
    return true;
  };

  const keys = (e: KeyboardEvent) => {
    if (!active || typing !== null) return;
    const did = pressed(e, doc, active, chosen, change !== undefined);
    if (!did) return;
    if (did.doc) change?.(did.doc);
    if (did.doc && !did.at) wants.current = true;
    if (did.at) go(did.at, did.extend);
    if (did.chosen) choose(did.chosen);
    if (did.undo) undo();
    if (did.redo) redo();
    // The field is there before the browser writes the letter, which then goes into it.
    if (did.letter) flushSync(() => setTyping(did.types!));
    else {
      if (did.types !== undefined) setTyping(did.types);
      e.preventDefault();
    }
    e.stopPropagation();
  };

  // A code, or a column of angles from another sheet, takes the place of the row.
  const paste = (e: ClipboardEvent) => {
    if (!change || typing !== null || !active) return;
    const text = e.clipboardData.getData("text").trim();
    if (text === "") return;
    e.preventDefault();
    const column = text.split(/\r?\n/).map((l) => l.split("\t")[0]!.trim());
    void lay(active.key, column.length > 1 ? column.join("/") : text);
  };

  // Rows that did not change are not drawn anew, so their verbs are the same
  // ones for good and do what the present render would do.
  const live = useRef<Verbs>(null);
  // Every render's verbs are the newest; nothing is set by the effect itself.
  // eslint-disable-next-line react-hooks/exhaustive-deps
  useLayoutEffect(() => {
    live.current = {
      press: (key, field, extend) => (setTyping(null), go({ key, field }, extend)),
      open: (key, field) => {
        const item = list.find((i) => i.key === key);
        if (!change || !item) return;
        setAt({ key, field });
        setTyping(edited(item, field));
      },
      type: setTyping,
      commit,
      next: (dRow, dColumn) => (active && neighbour(list, active, dRow, dColumn)) ?? undefined,
      leave: () => {
        wants.current = true;
        setTyping(null);
        setWrong(null);
      },
      grab: (key) => (chosen.includes(key) ? inOrder(list, chosen) : [key]),
      drop: (keys, on) => {
        const next = doc.stages.some((s) => s.key === on) ? begun(doc, keys, on) : dropped(doc, keys, on);
        if (next === doc) return;
        change?.(next);
        const taken = inOrder(list, keys);
        go({ key: taken[0]!, field: active?.field ?? "angleDeg" });
        choose(taken);
        label(taken.length === 1 ? `${labels.get(taken[0]!)} moved` : `${taken.length} items moved`, true);
      },
    };
  });
  const [verbs] = useState<Verbs>(() => ({
    press: (...a) => live.current?.press(...a),
    open: (...a) => live.current?.open(...a),
    type: (...a) => live.current?.type(...a),
    commit: (...a) => live.current?.commit(...a) ?? false,
    next: (...a) => live.current?.next(...a),
    leave: () => live.current?.leave(),
    grab: (...a) => live.current?.grab(...a) ?? [],
    drop: (...a) => live.current?.drop(...a),
  }));

  let end = 0;
  const gap = (to: number, key: string) =>
    to > end && (
      <tbody key={`before ${key}`} aria-hidden="true">
        <tr>
          <td colSpan={columns.length + 1} style={{ height: to - end, padding: 0, border: 0 }} />
        </tr>
      </tbody>
    );
  return (
    <div ref={scroller} style={{ maxHeight: tall, overflow: "auto" }}>
      <Grid
        ref={grid}
        role="grid"
        aria-label="Stack, ply 1 on the tool"
        aria-multiselectable="true"
        aria-rowcount={lines.length + 1}
        onKeyDown={keys}
        onPaste={paste}
        // Whoever has gone elsewhere is not called back by the next render.
        onBlur={(e) => {
          if (e.relatedTarget && !e.currentTarget.contains(e.relatedTarget)) wants.current = false;
        }}
      >
        <thead>
          <tr aria-rowindex={1}>
            <th>Item</th>
            {columns.map((c) => (
              <th key={c.field} className={c.number ? "n" : undefined} style={{ width: c.width }}>
                {labelIn(c.head)}
              </th>
            ))}
          </tr>
        </thead>
        {rows.getVirtualItems().map((at) => {
          const { stage: s, item: i } = lines[at.index]!;
          const before = gap(at.start, String(at.key));
          end = at.end;
          return (
            <Fragment key={at.key}>
              {before}
              <tbody data-index={at.index} ref={rows.measureElement}>
                {i ? (
                  <SheetRow
                    item={i}
                    index={at.index + 2}
                    label={labels.get(i.key) ?? ""}
                    materials={materials}
                    chosen={chosen.includes(i.key)}
                    marked={found.has(i.key) ? "found" : changed.has(i.key) ? "changed" : ""}
                    fault={wrong?.key === i.key ? wrong.label : faults.find((f) => f.key === i.key)?.message}
                    at={active?.key === i.key ? active.field : undefined}
                    typing={active?.key === i.key ? typing : null}
                    outlines={doc.outlines}
                    writes={change !== undefined}
                    verbs={verbs}
                  />
                ) : (
                  <StageRow stage={s} index={at.index + 2} writes={change !== undefined} verbs={verbs} />
                )}
              </tbody>
            </Fragment>
          );
        })}
        {gap(rows.getTotalSize(), "the end")}
      </Grid>
    </div>
  );
}
