// A route as a drawing: operations in lanes by stage, time from left to right, and as
// lines what waits for what. One box has the focus; arrows walk from box to box.
import { useLayoutEffect, useRef, useState, type KeyboardEvent } from "react";
import styled from "styled-components";
import { spell } from "../../ui/format";
import { beside, drawn, type Box, type Operation, type Placed } from "./lanes";
import type { Stage } from "../master/edits";

const high = 62;
const rowHigh = 78;
const gap = 22;
const label = 104;

const Lane = styled.div`
  position: absolute;
  left: 0;
  right: 0;
  border-bottom: 1px solid var(--g4);
  color: var(--g1);
  padding-top: 10px;
  font-size: 14.5px;
  line-height: 1.2;
  span {
    display: inline-block;
    width: ${label - 10}px;
    position: sticky;
    left: 0;
    background: var(--paper);
    overflow-wrap: anywhere;
  }
`;

const Operation_ = styled.button<{ $self: boolean }>`
  position: absolute;
  height: ${high}px;
  padding: 3px 7px;
  text-align: left;
  font: inherit;
  line-height: 1.25;
  color: var(--ink);
  border: 1.5px solid var(--ink);
  cursor: pointer;
  background: ${(p) => (p.$self ? "repeating-linear-gradient(115deg, var(--paper) 0 5px, var(--wash) 5px 8px)" : "var(--paper)")};
  b {
    display: -webkit-box;
    -webkit-box-orient: vertical;
    -webkit-line-clamp: 2;
    overflow: hidden;
    font-size: 14.5px;
  }
  small {
    display: block;
    overflow: hidden;
    white-space: nowrap;
    text-overflow: ellipsis;
    font-size: 12.5px;
    color: inherit;
  }
  &[aria-pressed="true"] {
    background: var(--ink);
    color: var(--paper);
  }
  &:focus-visible {
    outline: 3px solid var(--blue);
    outline-offset: 2px;
  }
`;

/** What an operation takes, and where: the second line of its box. */
export const takes = (o: Operation) =>
  [spell((o.setUp ?? 0) + (o.attended ?? 0) + (o.unattended ?? 0)), o.place].filter(Boolean).join(", ");

export function RouteDrawing({
  operations,
  placed,
  stages,
  chosen,
  choose,
  found,
  add,
  takeOut,
  toWaits,
}: {
  operations: Operation[];
  placed: Placed[];
  stages: Stage[];
  chosen: string | undefined;
  choose: (key: string) => void;
  /** Keys that a finding is about. */
  found: Set<string>;
  /** Missing: the route is read only. */
  add?: (after: string) => void;
  takeOut?: (key: string) => void;
  toWaits: () => void;
}) {
  const at = drawn(operations, placed, stages);
  const frame = useRef<HTMLDivElement>(null);
  const [wide, setWide] = useState(1200);
  useLayoutEffect(() => {
    const measure = () => setWide(frame.current?.clientWidth ?? 1200);
    measure();
    const watch = new ResizeObserver(measure);
    if (frame.current) watch.observe(frame.current);
    return () => watch.disconnect();
  }, []);
  const box = Math.max(92, Math.min(150, (wide - label) / Math.max(1, at.columns) - gap));
  const x = (b: Box) => label + b.column * (box + gap);
  const y = (b: Box) => b.row * rowHigh + 9;
  const of = (key: string) => at.boxes.find((b) => b.key === key);
  const wants = useRef(false);
  useLayoutEffect(() => {
    if (!wants.current) return;
    wants.current = false;
    frame.current?.querySelector<HTMLElement>(`[data-operation="${CSS.escape(chosen ?? "")}"]`)?.focus();
  });
  const keys = (e: KeyboardEvent) => {
    if (!chosen || e.ctrlKey || e.metaKey || e.altKey) return;
    const arrows: Record<string, [number, number]> = {
      ArrowRight: [1, 0],
      ArrowLeft: [-1, 0],
      ArrowDown: [0, 1],
      ArrowUp: [0, -1],
    };
    const arrow = arrows[e.key];
    const to = arrow && beside(at.boxes, chosen, ...arrow);
    if (to) choose(to);
    else if (!arrow && e.key.toLowerCase() === "n" && add) add(chosen);
    else if (!arrow && e.key.toLowerCase() === "w") return (toWaits(), e.preventDefault());
    else if (e.key === "Delete" && takeOut) takeOut(chosen);
    else if (!arrow) return;
    wants.current = true;
    e.preventDefault();
    e.stopPropagation();
  };
  const lines = operations.flatMap((o) => (o.after ?? []).map((a) => ({ from: a, to: o.key })));
  const longest = new Set(placed.filter((p) => p.longest).map((p) => p.key));
  const ends = new Map(placed.map((p) => [p.key, p]));
  /** A line on the critical path is thick: its operation begins when the other ends. */
  const presses = (l: { from: string; to: string }) =>
    longest.has(l.from) && longest.has(l.to) && ends.get(l.from)!.end === ends.get(l.to)!.start;
  return (
    <div ref={frame} style={{ overflowX: "auto", position: "relative" }}>
      <div
        role="toolbar"
        aria-orientation="horizontal"
        aria-label="Route drawing"
        style={{
          position: "relative",
          height: at.rows * rowHigh + 4,
          width: label + at.columns * (box + gap) - gap + 4,
        }}
        onKeyDown={keys}
      >
        {at.lanes.map((l) => (
          <Lane key={l.key} style={{ top: l.row * rowHigh, height: l.rows * rowHigh }}>
            <span>{l.name}</span>
          </Lane>
        ))}
        <svg width="100%" height="100%" style={{ position: "absolute", inset: 0 }} aria-hidden="true">
          {lines
            .toSorted((p, q) => Number(presses(p)) - Number(presses(q)))
            .map((l) => {
              const [a, b] = [of(l.from), of(l.to)];
              if (!a || !b) return null;
              const [x1, y1, x2, y2] = [x(a) + box, y(a) + high / 2, x(b), y(b) + high / 2];
              const between = (b.row > a.row ? b.row : a.row) * rowHigh;
              const way =
                x2 > x1
                  ? `M${x1},${y1}H${x2 - gap / 2}V${y2}H${x2}`
                  : `M${x1 - box / 2},${y(a) + high}V${between}H${x2 - gap / 2}V${y2}H${x2}`;
              return (
                <path
                  key={`${l.from}>${l.to}`}
                  d={way}
                  fill="none"
                  stroke={presses(l) ? "var(--blue)" : "var(--g1)"}
                  strokeWidth={presses(l) ? 3.5 : 1.5}
                />
              );
            })}
        </svg>
        {placed.map((p) => {
          const [b, o] = [of(p.key)!, operations.find((o) => o.key === p.key)!];
          return (
            <Operation_
              key={p.key}
              type="button"
              data-operation={p.key}
              $self={(o.unattended ?? 0) > (o.attended ?? 0)}
              aria-pressed={p.key === chosen}
              // It begins as it is seen, then says the rest.
              aria-label={[
                `${found.has(p.key) ? "✕ " : ""}${p.number} ${p.short} ${takes(o)}`,
                p.label,
                ...p.waits,
                ...(p.longest ? ["on the critical path"] : []),
                ...(found.has(p.key) ? ["to check"] : []),
              ].join(", ")}
              title={p.label}
              tabIndex={p.key === (chosen ?? placed[0]?.key) ? 0 : -1}
              style={{ left: x(b), top: y(b), width: box }}
              onClick={() => choose(p.key)}
            >
              <b>
                {found.has(p.key) && "✕ "}
                {p.number} {p.short}
              </b>{" "}
              <small>{takes(o)}</small>
            </Operation_>
          );
        })}
      </div>
    </div>
  );
}
