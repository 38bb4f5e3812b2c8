// What must be put right before anything of the page is stored: a wrong entry
// stays where it is, and stops the save instead of being left out of it.

import { Refused } from "../contract/types";

type Hold = { label: string; message: string; show: () => void };
const holds = new Map<object, Hold>();

/** Holds every save of the page until it is let go. */
export function hold(by: object, what: Hold | null) {
  if (what) holds.set(by, what);
  else holds.delete(by);
}

/** Throws the refusal of a save while something is held, and leads to it. */
export function mayStore() {
  const first = holds.values().next().value;
  if (!first) return;
  first.show();
  throw new Refused({
    detail: `${first.label}: ${first.message}. Nothing was stored: put it right, or empty the field`,
  });
}
