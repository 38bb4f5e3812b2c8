// The single keys of the pages. Somebody may give one another place, or switch
// all of them off: who dictates, or rests a hand on the keyboard, would press them.

/** Every single key that a page hears, and what it does there. */
export const usual: Record<string, string> = {
  a: "receive a delivery",
  d: "start the debulk",
  f: "a film is not off",
  k: "it is done: the kit, the bag, the cut, the hold point, the debulk",
  o: "open a bag; stop and refer; stop a run",
  s: "start, or stop and keep the best",
  t: "take out",
  u: "put back, or set aside",
  v: "ask what if",
  "/": "find anything",
  "?": "show the keys of the page",
};

type Preferences = { off?: boolean; moved?: Record<string, string> };
let preferences: Preferences = {};
/** Said before any page of a person is drawn. */
export const pressBy = (w: Preferences) => void (preferences = w);

/** The usual key that a pressed one stands for; undefined: none for this person. */
export function meantBy(pressed: string): string | undefined {
  const key = pressed.length === 1 ? pressed.toLowerCase() : pressed;
  if (key.length > 1) return key; // Enter, Escape and the like are no letters
  if (preferences.off) return undefined;
  const moved = Object.entries(preferences.moved ?? {});
  const from = moved.find(([, to]) => to.toLowerCase() === key)?.[0];
  if (from !== undefined) return from;
  return moved.some(([usual]) => usual === key) ? undefined : key;
}

/** How the key is shown to this person; empty: there is none. */
export function keyShown(usual: string): string {
  if (usual.length > 1) return usual;
  return preferences.off ? "" : (preferences.moved?.[usual.toLowerCase()] ?? usual).toUpperCase();
}
