// A page of a room comes with its room when one of its pages is entered, or
// when nothing else is to be done: a tablet that loses its network later has
// every page.
import { lazy, type ComponentType } from "react";

const loads: (() => Promise<unknown>)[] = [];

export function page<P extends object>(load: () => Promise<ComponentType<P>>) {
  loads.push(load);
  return lazy(async () => ({ default: await load() }));
}

/** Fetches, one after the other, what no page has asked for yet. */
export async function fetchRooms() {
  for (const load of loads) await load().catch(() => undefined);
}
