// Changes of a stack as a sheet knows them: pure functions from one document
// to the next.
import type { Schemas } from "../../contract/types";

export type Master = Schemas["Document"];
export type Item = Schemas["Item"];
export type Stage = Schemas["Stage"];

/** A key that no item or stage of the document has. */
export function freshKey(m: Master) {
  const taken = new Set(m.stages.flatMap((s) => [s.key, ...s.items.map((i) => i.key)]));
  for (;;) {
    const key = Math.random().toString(36).slice(2, 10);
    if (!taken.has(key)) return key;
  }
}

export const items = (m: Master) => m.stages.flatMap((s) => s.items);

/** The document with one item changed. */
export function withItem(m: Master, key: string, part: Partial<Item>): Master {
  return {
    ...m,
    stages: m.stages.map((s) =>
      s.items.some((i) => i.key === key)
        ? { ...s, items: s.items.map((i) => (i.key === key ? { ...i, ...part } : i)) }
        : s,
    ),
  };
}

/** The document with several items changed alike. */
export const withItems = (m: Master, keys: string[], part: Partial<Item>): Master =>
  keys.reduce((all, key) => withItem(all, key, part), m);

type Rows = { stage: number; item: Item }[];

const rows = (m: Master): Rows => m.stages.flatMap((s, stage) => s.items.map((item) => ({ stage, item })));

function rebuilt(m: Master, list: Rows): Master {
  return {
    ...m,
    stages: m.stages.map((s, k) => ({ ...s, items: list.filter((r) => r.stage === k).map((r) => r.item) })),
  };
}

/** Copies of items with keys of their own. */
function copies(m: Master, list: Item[]): Item[] {
  const out: Item[] = [];
  let all = m;
  for (const i of list) {
    const copy = { ...i, key: freshKey(all) };
    all = { ...all, stages: [...all.stages, { key: "", name: "", kind: "skin", items: [copy] }] };
    out.push(copy);
  }
  return out;
}

/** Takes items out. */
export const without = (m: Master, keys: string[]) =>
  rebuilt(
    m,
    rows(m).filter((r) => !keys.includes(r.item.key)),
  );

/** Puts copies of items after the last of them; gives the document and their keys. */
export function repeated(m: Master, keys: string[]): [Master, string[]] {
  const list = rows(m);
  const chosen = list.filter((r) => keys.includes(r.item.key));
  const last = chosen.at(-1);
  if (!last) return [m, []];
  const added = copies(
    m,
    chosen.map((r) => r.item),
  );
  const at = list.indexOf(last) + 1;
  const next = [...list.slice(0, at), ...added.map((item) => ({ stage: last.stage, item })), ...list.slice(at)];
  return [rebuilt(m, next), added.map((i) => i.key)];
}

/** Puts the mirror image of items after the last of them: the order turned round, every face turned over. */
export function mirrored(m: Master, keys: string[]): [Master, string[]] {
  const list = rows(m);
  const chosen = list.filter((r) => keys.includes(r.item.key));
  const last = chosen.at(-1);
  if (!last) return [m, []];
  const added = copies(m, chosen.map((r) => ({ ...r.item, faceUp: !r.item.faceUp })).reverse());
  const at = list.indexOf(last) + 1;
  const next = [...list.slice(0, at), ...added.map((item) => ({ stage: last.stage, item })), ...list.slice(at)];
  return [rebuilt(m, next), added.map((i) => i.key)];
}

/** Moves items by one row; over the end of a stage into the next. */
export function moved(m: Master, keys: string[], by: 1 | -1): Master {
  const stages = m.stages.map((s) => ({ ...s, items: [...s.items] }));
  const chosen = rows(m)
    .filter((r) => keys.includes(r.item.key))
    .map((r) => r.item.key);
  for (const key of by < 0 ? chosen : chosen.reverse()) {
    const k = stages.findIndex((s) => s.items.some((i) => i.key === key));
    const from = stages[k]!.items.findIndex((i) => i.key === key);
    const to = from + by;
    const item = stages[k]!.items[from]!;
    if (to < 0 || to >= stages[k]!.items.length) {
      const next = stages[k + by];
      if (!next) return m;
      stages[k]!.items.splice(from, 1);
      if (by < 0) next.items.push(item);
      else next.items.unshift(item);
      continue;
    }
    stages[k]!.items.splice(from, 1);
    stages[k]!.items.splice(to, 0, item);
  }
  return { ...m, stages };
}

/** Moves items to the place of another: before it from below, after it from above. */
export function dropped(m: Master, keys: string[], on: string): Master {
  const list = rows(m).map((r) => r.item.key);
  if (keys.includes(on) || !list.some((k) => keys.includes(k))) return m;
  const down = list.findIndex((k) => keys.includes(k)) < list.indexOf(on);
  return put(
    m,
    keys,
    m.stages.find((s) => s.items.some((i) => i.key === on))?.key,
    (kept) => kept.indexOf(on) + (down ? 1 : 0),
  );
}

/** Moves items to the beginning of a stage. */
export const begun = (m: Master, keys: string[], stage: string) => put(m, keys, stage, () => 0);

function put(m: Master, keys: string[], stage: string | undefined, at: (kept: string[]) => number): Master {
  const taken = items(m).filter((i) => keys.includes(i.key));
  return {
    ...m,
    stages: m.stages.map((s) => {
      const kept = s.items.filter((i) => !keys.includes(i.key));
      if (s.key !== stage) return { ...s, items: kept };
      const to = at(kept.map((i) => i.key));
      return { ...s, items: [...kept.slice(0, to), ...taken, ...kept.slice(to)] };
    }),
  };
}

/** The value of a field of the first item put into all. */
export function filledDown(m: Master, keys: string[], field: keyof Item): Master {
  const first = rows(m).find((r) => keys.includes(r.item.key))?.item;
  if (!first) return m;
  return rebuilt(
    m,
    rows(m).map((r) => (keys.includes(r.item.key) ? { ...r, item: { ...r.item, [field]: first[field] } } : r)),
  );
}

/** A new item after another, like it, or like a first ply. */
export function inserted(
  m: Master,
  after: string | null,
  like: Partial<Item>,
  kind: Item["kind"] = "ply",
): [Master, string] {
  const list = rows(m);
  const at = list.findIndex((r) => r.item.key === after);
  const beside = at >= 0 ? list[at]! : undefined;
  const key = freshKey(m);
  const base: Item = { kind, key, angleDeg: 0, x: 0, y: 0, faceUp: true, outline: m.outlines[0]?.name ?? "", ...like };
  const item: Item = { ...base, kind, key };
  const stage = beside ? beside.stage : m.stages.length - 1;
  const to = beside ? at + 1 : list.length;
  return [rebuilt(m, [...list.slice(0, to), { stage, item }, ...list.slice(to)]), key];
}

/** A stacking code laid from an item on: it takes the item's place, or follows the last. */
export function coded(
  m: Master,
  at: string | null,
  like: Partial<Item>,
  plies: { angleDeg: number; mirrored: boolean }[],
): [Master, string[]] {
  const list = rows(m);
  const from = list.findIndex((r) => r.item.key === at);
  const was = from >= 0 ? list[from]! : undefined;
  const base: Item = was?.item ?? {
    kind: "ply",
    key: "",
    angleDeg: 0,
    x: 0,
    y: 0,
    faceUp: true,
    outline: m.outlines[0]?.name ?? "",
    ...like,
  };
  const laid = copies(
    m,
    plies.map((p) => ({
      ...base,
      kind: "ply" as const,
      angleDeg: p.angleDeg,
      faceUp: p.mirrored ? !base.faceUp : base.faceUp,
    })),
  );
  if (was) laid[0]!.key = was.item.key;
  const stage = was ? was.stage : m.stages.length - 1;
  const put = laid.map((item) => ({ stage, item }));
  const next = was ? [...list.slice(0, from), ...put, ...list.slice(from + 1)] : [...list, ...put];
  return [rebuilt(m, next), laid.map((i) => i.key)];
}

/** Labels as the server gives them: plies counted through, others by kind. */
export function itemLabels(doc: Master) {
  const count: Record<string, number> = {};
  const out = new Map<string, string>();
  for (const i of items(doc)) {
    count[i.kind] = (count[i.kind] ?? 0) + 1;
    out.set(i.key, i.kind === "ply" ? String(count[i.kind]) : `${i.kind} ${count[i.kind]}`);
  }
  return out;
}

/** Expressions by name with one of them changed; none at all is nothing. */
function withExpression(all: Record<string, string> | undefined, name: string, text: string) {
  const rest = Object.fromEntries(Object.entries(all ?? {}).filter(([k]) => k !== name));
  const next = text.trim() === "" ? rest : { ...rest, [name]: text };
  return Object.keys(next).length > 0 ? next : undefined;
}

/** The document with a dimension of an outline that follows from parameters; an empty text: it does not. */
export const withOutlineExpression = (m: Master, outline: string, dim: string, text: string): Master => ({
  ...m,
  outlines: m.outlines.map((o) => (o.name === outline ? { ...o, expr: withExpression(o.expr, dim, text) } : o)),
});

/** The document with a figure of a stage's mandrel that follows from parameters; an empty text: it does not. */
export const withMandrelExpression = (m: Master, stage: string, field: string, text: string): Master => ({
  ...m,
  stages: m.stages.map((s) =>
    s.key === stage && s.rolled
      ? { ...s, rolled: { ...s.rolled, expr: withExpression(s.rolled.expr, field, text) } }
      : s,
  ),
});
