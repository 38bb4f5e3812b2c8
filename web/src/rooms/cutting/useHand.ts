// Plies put by hand on a nest: which is chosen, which were moved, which are locked. Where a ply may lie the server
// says, while it is dragged as well.
import { useRef, useState } from "react";
import { client } from "../../app/api";
import type { Schemas } from "../../contract/types";

import type { Handled } from "../../ui/nestHand";

type Piece = Schemas["PieceView"];
type Put = Schemas["HandPlacement"];
type Placement = Schemas["Placement"];

/** How far a ply that is let go is drawn against its neighbours, m. */
const reach = 0.015;

/** Asks where a ply comes to lie that is put somewhere, within a reach in m. */
const askFor = (code: string, piece: Placement, others: Placement[], by: number, about?: Placement["turn"]) =>
  client
    .POST("/api/nests/{code}/put", {
      params: { path: { code } },
      body: { piece, others, reach: by, ...(about === undefined ? {} : { about }) },
    })
    .catch((e: unknown) => ({ data: undefined, error: e }));

/** Plies that were put by hand, as they lie. */
const placementsOf = (moved: Record<string, Put>) =>
  Object.values(moved).map((m): Placement => ({ id: m.id, sheet: 0, x: m.x, y: m.y, turn: m.turn }));

export function useHand(nest: Schemas["NestView"] | undefined) {
  const [on, setOn] = useState(false);
  const [chosen, setChosen] = useState("");
  const [moved, setMoved] = useState<Record<string, Put>>({});
  const [locked, setLocked] = useState<string[]>([]);
  const [drag, setDrag] = useState<{ id: string; dx: number; dy: number; over: string[] } | undefined>();
  const [error, setError] = useState<unknown>();
  const asking = useRef(false);

  const fixed = (id: string) => locked.includes(id) || (nest?.job?.freed.includes(id) ?? false);
  const at = (p: Piece): Placement => {
    const put = moved[p.id];
    return put
      ? { id: p.id, sheet: 0, x: put.x, y: put.y, turn: put.turn }
      : { id: p.id, sheet: 0, x: p.x, y: p.y, turn: p.turn as Placement["turn"] };
  };
  const others = (id: string) => placementsOf(moved).filter((m) => m.id !== id);

  const ask = (piece: Placement, by: number, about?: Placement["turn"]) =>
    askFor(nest?.code ?? "", piece, others(piece.id), by, about);
  const put = async (piece: Placement, by: number, about?: Placement["turn"]) => {
    const { data, error: wrong } = await ask(piece, by, about);
    if (data) setMoved((before) => ({ ...before, [data.id]: data }));
    setError(wrong);
  };
  /** Moves a ply by a way on the sheet, m. */
  const shift = (p: Piece, dx: number, dy: number, by = reach) => {
    if (fixed(p.id)) return Promise.resolve();
    const from = at(p);
    return put({ ...from, x: from.x + dx, y: from.y + dy }, by);
  };
  return {
    on,
    setOn,
    chosen,
    choose: setChosen,
    moved,
    drag,
    error,
    fixed,
    lock: (id: string) =>
      setLocked((before) => (before.includes(id) ? before.filter((other) => other !== id) : [...before, id])),
    locked,
    shift,
    /** The other way round, about its middle. */
    turn: (p: Piece) => {
      const from = at(p);
      const next = p.may[(p.may.indexOf(from.turn) + 1) % p.may.length] ?? 0;
      if (fixed(p.id) || next === from.turn) return Promise.resolve();
      return put(from, reach, next as Placement["turn"]);
    },
    /** While a ply is dragged: one question at a time, the last answer stands. */
    dragged: (p: Piece, dx: number, dy: number) => {
      if (fixed(p.id)) return;
      setDrag((before) => ({ id: p.id, dx, dy, over: before?.id === p.id ? before.over : [] }));
      if (asking.current) return;
      asking.current = true;
      const from = at(p);
      void ask({ ...from, x: from.x + dx, y: from.y + dy }, 0).then(({ data }) => {
        asking.current = false;
        const clear = data && Math.hypot(data.x - from.x - dx, data.y - from.y - dy) < 1e-5;
        setDrag((before) => before && { ...before, over: clear ? [] : ["another ply, a flaw or the edge"] });
      });
    },
    dropped: (p: Piece, dx: number, dy: number) => {
      void shift(p, dx, dy).finally(() => setDrag(undefined));
    },
    forget: () => {
      setMoved({});
      setLocked([]);
      setChosen("");
      setError(undefined);
    },
    /** Pieces as they are placed now. */
    placed: nest?.placed.map((p) => (moved[p.id] ? { ...p, outline: moved[p.id]!.outline } : p)) ?? [],
    placements: () => placementsOf(moved),
  };
}

export type Hand = ReturnType<typeof useHand>;

/** A hand as the drawing asks it. */
export function handled(hand: Hand): Handled {
  return {
    chosen: hand.chosen,
    drag: hand.drag,
    fixed: hand.fixed,
    overlaps: (id) => (hand.moved[id]?.over.length ?? 0) > 0,
    choose: hand.choose,
    dragged: hand.dragged,
    dropped: hand.dropped,
    key: (p, key, fine) => {
      const by = fine ? 0.001 : 0.01;
      const ways: Record<string, [number, number]> = {
        ArrowLeft: [-by, 0],
        ArrowRight: [by, 0],
        ArrowUp: [0, by],
        ArrowDown: [0, -by],
      };
      const way = ways[key];
      if (way) void hand.shift(p, way[0], way[1], 0);
      else if (key === "r" || key === "R") void hand.turn(p);
      else if (key === "l" || key === "L") hand.lock(p.id);
      else return false;
      return true;
    },
  };
}
