// Keys and scans for the whole application. A keyboard-wedge scanner types an
// id and presses Enter; a person may type one as well. The first letter of an
// id (R, P, B, C, N, H, M, W or J) starts reading it, anywhere but in a text field, so
// no page uses those letters for anything else.
import {
  createContext,
  useCallback,
  useContext,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type ReactNode,
} from "react";
import { useNavigate } from "react-router";
import styled from "styled-components";
import { client } from "./api";
import { explain } from "../contract/types";
import { Say } from "../ui/say";
import { keyShown, meantBy } from "../ui/shortcuts";

export const rooms = [
  "freezer",
  "parts",
  "cut",
  "kits",
  "layup",
  "bag",
  "cure",
  "finish",
  "release",
  "thread",
] as const;

type Action = { label: string; run: () => void; hold?: boolean; off?: boolean };
type Actions = Record<string, Action>;
/** Takes an id; true when the page knew what to do with it. */
type Scanner = (id: string) => boolean;

const Register = createContext<{
  keys: (a: Actions) => () => void;
  scan: (s: Scanner) => () => void;
} | null>(null);

const Bar = styled.div<{ $stop?: boolean }>`
  position: fixed;
  left: 24px;
  bottom: 20px;
  z-index: 30;
  background: var(--ink);
  color: var(--paper);
  padding: 10px 18px;
  font-size: 20px;
  max-width: calc(100vw - 48px);
  border-left: 8px solid ${(p) => (p.$stop ? "var(--brick)" : "var(--blue)")};
`;

const Sheet = styled.div`
  position: fixed;
  inset: auto 24px 24px auto;
  z-index: 40;
  background: var(--paper);
  border: 3px solid var(--ink);
  padding: 16px 22px;
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 4px 18px;
    margin: 0;
  }
  dt {
    font-weight: 700;
  }
  dd {
    margin: 0;
  }
`;

const idStart = /^[rpbcnhmwj]$/i;
// A tick or a choice takes no letters: after one, the keys of the page go on working.
const writes = (t: EventTarget | null) =>
  t instanceof HTMLElement &&
  (t.matches("input:not([type=checkbox]):not([type=radio]):not([type=file]), textarea, select") || t.isContentEditable);
const presses = (t: EventTarget | null) =>
  t instanceof HTMLElement && t.closest("button, a, [role=button], summary") !== null;

export function Keys({
  children,
  find,
  switchTo,
}: {
  children: ReactNode;
  find: () => void;
  /** Somebody scanned a badge: they take over the screen. */
  switchTo: (badge: string) => void;
}) {
  const actions = useRef<Actions[]>([]);
  const scanners = useRef<Scanner[]>([]);
  const navigate = useNavigate();
  const [reading, setReading] = useState("");
  const [said, setSaid] = useState({ text: "", good: false });
  const say = useCallback((text: string, good = false) => setSaid({ text, good }), []);
  const [help, setHelp] = useState<Actions | null>(null);
  const buffer = useRef("");
  const holding = useRef<number | undefined>(undefined);

  const open = useCallback(
    async (id: string) => {
      for (const scanner of scanners.current.toReversed()) if (scanner(id)) return;
      const { data, error } = await client.GET("/api/scan/{code}", { params: { path: { code: id } } });
      if (data?.kind === "badge") switchTo(data.id);
      else if (data) void navigate(data.path);
      else say(explain(error).message);
    },
    [navigate, say, switchTo],
  );

  useEffect(() => {
    if (!said.text) return;
    const t = setTimeout(() => say(""), 8000);
    return () => clearTimeout(t);
  }, [said, say]);

  // They listen in the moment in which the page is seen, not a moment later.
  useLayoutEffect(() => {
    let idle: number | undefined;
    const read = (text: string) => {
      buffer.current = text;
      setReading(text);
      clearTimeout(idle);
      // A letter pressed by mistake is forgotten.
      if (text) idle = window.setTimeout(() => read(""), 6000);
    };
    const down = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey || writes(e.target) || document.querySelector("[data-dialog]")) return;
      if (buffer.current) {
        if (e.key === "Enter") {
          const id = buffer.current;
          read("");
          void open(id);
        } else if (e.key === "Escape") read("");
        else if (e.key === "Backspace") read(buffer.current.slice(0, -1));
        else if (/^[0-9a-z-]$/i.test(e.key)) read((buffer.current + e.key.toUpperCase()).slice(0, 16));
        else return;
        e.preventDefault();
        return;
      }
      const all = actions.current.reduce<Actions>((all, some) => ({ ...all, ...some }), {});
      const key = meantBy(e.key) ?? "";
      const action = all[key];
      if (key === "?") setHelp(all);
      else if (key === "/") find();
      else if (key === "0") void navigate("/today");
      else if (/^[1-9]$/.test(key)) void navigate(`/${rooms[Number(key) - 1]}`);
      else if (action && !action.off && !(e.key === "Enter" && presses(e.target))) {
        if (action.hold) {
          if (!e.repeat) holding.current = window.setTimeout(action.run, 800);
        } else if (!e.repeat) action.run();
      } else if (idStart.test(e.key)) read(e.key.toUpperCase());
      else return;
      e.preventDefault();
    };
    const up = (e: KeyboardEvent) => {
      clearTimeout(holding.current);
      if (meantBy(e.key) === "?" || e.key === "Shift") setHelp(null);
    };
    const away = () => setHelp(null);
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    window.addEventListener("blur", away);
    return () => {
      clearTimeout(idle);
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
      window.removeEventListener("blur", away);
    };
  }, [find, navigate, open]);

  const register = useMemo(() => {
    const into =
      <T,>(list: { current: T[] }) =>
      (item: T) => {
        list.current.push(item);
        return () => void (list.current = list.current.filter((x) => x !== item));
      };
    return { keys: into(actions), scan: into(scanners) };
  }, []);

  return (
    <Register.Provider value={register}>
      <Say.Provider value={say}>
        {children}
        <div role="status" aria-live="polite">
          {reading ? (
            <Bar>
              Reading id <b>{reading}</b> · Enter opens, Esc forgets
            </Bar>
          ) : (
            said.text && <Bar $stop={!said.good}>{said.text}</Bar>
          )}
        </div>
        {help && (
          <Sheet>
            <dl>
              {Object.entries(help)
                .filter(([key, a]) => !a.off && keyShown(key) !== "")
                .map(([key, a]) => (
                  <div key={key} style={{ display: "contents" }}>
                    <dt>{a.hold ? `hold ${keyShown(key)}` : keyShown(key)}</dt>
                    <dd>{a.label}</dd>
                  </div>
                ))}
              <dt>0</dt>
              <dd>your day</dd>
              <dt>1 – 9</dt>
              <dd>go to a room</dd>
              <dt>/</dt>
              <dd>find anything</dd>
              <dt>scan</dt>
              <dd>open it, or do the step that expects it</dd>
            </dl>
          </Sheet>
        )}
      </Say.Provider>
    </Register.Provider>
  );
}

/**
 * The keys of a page or of a part of it. They are there in the moment in which
 * the page is seen, not a moment later.
 */
export function useKeys(actions: Actions) {
  const register = useContext(Register);
  const latest = useRef(actions);
  useLayoutEffect(() => {
    latest.current = actions;
  });
  const shape = Object.entries(actions)
    .map(([k, a]) => `${k}:${a.label}:${a.off ?? false}:${a.hold ?? false}`)
    .join("|");
  useLayoutEffect(() => {
    const wrapped = Object.fromEntries(
      Object.entries(latest.current).map(([k, a]) => [k, { ...a, run: () => latest.current[k]?.run() }]),
    );
    return register?.keys(wrapped);
  }, [register, shape]);
}

/** What a page does with a scanned id. */
export function useScan(scanner: Scanner) {
  const register = useContext(Register);
  const latest = useRef(scanner);
  useLayoutEffect(() => {
    latest.current = scanner;
  });
  useLayoutEffect(() => register?.scan((id) => latest.current(id)), [register]);
}

/** Brings a typed or scanned id into its written form, as far as that goes without the server. */
export const asLabel = (id: string) => (id.includes("-") ? id : `${id.slice(0, 1)}-${id.slice(1)}`);
