// Changes of a route: pure functions from one document to the next. A document without a
// route gets one, the one pass that it was read as, with its first change.
import type { Master } from "../master/edits";
import type { Operation } from "./lanes";

const withRoute = (m: Master, route: Operation[]): Master => ({ ...m, format: "juxta master 2", route });

/** A key that no operation has. */
function freshKey(all: Operation[], kind: string) {
  for (let n = 1; ; n++) {
    const key = n === 1 ? kind : `${kind} ${n}`;
    if (!all.some((o) => o.key === key)) return key;
  }
}

/** The document with one operation changed. */
export const changed = (m: Master, all: Operation[], key: string, part: Partial<Operation>): Master =>
  withRoute(
    m,
    all.map((o) => (o.key === key ? { ...o, ...part } : o)),
  );

/** The document with its route made another way. */
export const remade = (m: Master, made: Operation[]): Master => withRoute(m, made);

/** A new operation after another: what waited for that one waits for it instead. */
export function addedAfter(
  m: Master,
  all: Operation[],
  after: string | undefined,
  kind: Operation["kind"],
): [Master, string] {
  const key = freshKey(all, kind);
  const at = all.findIndex((o) => o.key === after);
  const fresh: Operation = { key, kind, ...(at >= 0 ? { after: [all[at]!.key] } : {}) };
  const moved = all.map((o) =>
    at >= 0 && o.after?.includes(all[at]!.key)
      ? { ...o, after: o.after.map((a) => (a === all[at]!.key ? key : a)) }
      : o,
  );
  const to = at >= 0 ? at + 1 : all.length;
  return [withRoute(m, [...moved.slice(0, to), fresh, ...moved.slice(to)]), key];
}

/** Takes an operation out: what waited for it waits for what it waited for. */
export function takenOut(m: Master, all: Operation[], key: string): Master {
  const gone = all.find((o) => o.key === key);
  return withRoute(
    m,
    all
      .filter((o) => o.key !== key)
      .map((o) =>
        o.after?.includes(key)
          ? { ...o, after: [...new Set(o.after.flatMap((a) => (a === key ? (gone?.after ?? []) : [a])))] }
          : o,
      ),
  );
}

/** Lets an operation wait for another, or not any more. */
export function waiting(m: Master, all: Operation[], key: string, on: string, waits: boolean): Master {
  return withRoute(
    m,
    all.map((o) =>
      o.key !== key ? o : { ...o, after: waits ? [...(o.after ?? []), on] : (o.after ?? []).filter((a) => a !== on) },
    ),
  );
}
