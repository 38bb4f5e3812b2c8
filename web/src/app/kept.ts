// What somebody typed and nobody has stored yet stays on this device, by person
// and page, until it is stored or given up: leaving a page, a scan, somebody
// else's badge or a screen that locks itself loses nothing.
import { useCallback, useState } from "react";

let owner = 0;
/** Whose entries are kept from now on. */
export const keepFor = (person: number) => void (owner = person);

const place = (name: string) => `juxta kept ${owner} ${name}`;

type Held<T> = { at: string; value: T };

function read<T>(name: string): Held<T> | null {
  try {
    const text = localStorage.getItem(place(name));
    return text ? (JSON.parse(text, (_, v: unknown) => (v === "NaN" ? NaN : v)) as Held<T>) : null;
  } catch {
    return null; // written by another version, or no storage here
  }
}

export function put<T>(name: string, value: T | undefined) {
  try {
    if (value === undefined) localStorage.removeItem(place(name));
    else {
      const held: Held<T> = { at: new Date().toISOString(), value };
      localStorage.setItem(
        place(name),
        JSON.stringify(held, (_, v: unknown) => (Number.isNaN(v) ? "NaN" : v)),
      );
    }
  } catch {
    // A full or forbidden storage keeps nothing: the page works on without it.
  }
}

export const kept = <T>(name: string) => read<T>(name);

/**
 * State that outlives its page until it is stored: the value, its setter, and
 * since when it is here from an earlier visit; done forgets it.
 */
export function useKept<T>(name: string, initial: T | (() => T)) {
  const fresh = () => (typeof initial === "function" ? (initial as () => T)() : initial);
  const [state, setState] = useState(() => {
    const before = read<T>(name);
    return { name, value: before ? before.value : fresh(), since: before?.at };
  });
  const set = useCallback(
    (next: T | ((v: T) => T)) =>
      setState((s) => {
        const value = typeof next === "function" ? (next as (v: T) => T)(s.value) : next;
        put(name, value);
        return { ...s, value };
      }),
    [name],
  );
  const done = () => {
    put(name, undefined);
    setState({ name, value: fresh(), since: undefined });
  };
  /** Of what is stored now: a page that is drawn anew meanwhile does not give it back. */
  const forget = () => put(name, undefined);
  return { value: state.value, set, since: state.since, done, forget };
}
