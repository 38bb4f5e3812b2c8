// The document of a draft while somebody writes it: every change is worked out
// by the server as it stands, kept by itself after a moment without a change,
// and can be undone without limit as long as the page is open.
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useEffectEvent, useMemo, useReducer, useRef, useState } from "react";
import { client } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { kept, put } from "../../app/kept";
import { useSay } from "../../ui/say";
import type { Master } from "./edits";
import { begin, step } from "./history";

/** A line across the plan that is cut along: from x and y to x and y, in metres. */
export type Line = [number, number, number, number];

export type Reply = Schemas["Reply"];
export type Revision = Schemas["RevisionView"];
/** What is asked besides the document itself. */
export type Asked = Omit<Schemas["Question"], "document" | "letter" | "before">;

export type Drawing = Schemas["Drawing"];

/** What an answer is about. */
type State = { doc: Master; question: string; beside: string };
const same = (a: State, b: State) => a.doc === b.doc && a.question === b.question && a.beside === b.beside;

/** Waits until nothing changed for a moment. */
const quiet = 700;

/** What is kept on this device of a draft that could not be kept by the shop yet. */
type Unkept = { doc: Master; base: Master; version: number };

/** line is that of the section, m; the master is drawn only while it is looked at. */
export function useMaster(code: string, v: Revision, writes: boolean, asked: Asked, draws: boolean, line?: Line) {
  const cache = useQueryClient();
  const place = `master ${code} ${v.letter}`;
  // What an earlier visit could not keep is here again, made from what it was made from.
  const [returned, setReturned] = useState(() => (writes ? kept<Unkept>(place) : null));
  const [history, move] = useReducer(step, begin(v.document, returned?.value.doc));
  const doc = history.now;
  const [reply, setReply] = useState<Reply | null>(null);
  const [working, setWorking] = useState(true);
  const [keeping, setKeeping] = useState<"kept" | "waiting" | "keeping" | "refused">(returned ? "waiting" : "kept");
  const [error, setError] = useState<unknown>(null);
  // The document that the kept one was made from by this page.
  const base = useRef(returned?.value.base ?? v.document);
  const version = useRef(returned?.value.version ?? v.version);
  const latest = useRef(doc);
  const before = useRef<Schemas["AnalysisView"]>(undefined);
  // The last document that could be worked out, and its drawing.
  const [sound, setSound] = useState<Master | null>(null);
  const [drawing, setDrawing] = useState<Drawing | null>(null);
  const [drawError, setDrawError] = useState<unknown>(null);
  useEffect(() => {
    latest.current = doc;
  }, [doc]);
  // It stays on this device until the shop has it, whatever leads away from the page.
  useEffect(() => {
    if (!writes) return;
    if (keeping === "kept") {
      put(place, undefined);
      setReturned(null);
    } else put<Unkept>(place, { doc, base: base.current, version: version.current });
  }, [writes, place, doc, keeping]);

  // Somebody else's change arrives with the page's own reading: it is taken
  // over while nothing of one's own waits.
  useEffect(() => {
    if (v.version <= version.current || keeping !== "kept") return;
    version.current = v.version;
    base.current = v.document;
    move({ take: v.document });
  }, [v, keeping]);

  const question = JSON.stringify(asked);
  // What is kept beside the document changes the answer as well: waivers, the process.
  const beside = JSON.stringify([v.waivers, v.process, writes ? 0 : v.version]);
  const state = useMemo(() => ({ doc, question, beside }), [doc, question, beside]);
  const newest = useRef(state);
  const asking = useRef(false);
  const [turn, askAgain] = useReducer((n: number) => n + 1, 0);
  const ask = useCallback(
    (what: State) => {
      // One question at a time: while a key is held down, the next is about the state
      // that there is when this one is answered.
      if (asking.current) return;
      asking.current = true;
      const body = {
        ...(JSON.parse(what.question) as Asked),
        letter: v.letter,
        // What came before is frozen: once is enough.
        before: before.current === undefined,
        ...(writes ? { document: what.doc } : {}),
      };
      void client
        .POST("/api/parts/{code}/ask", { params: { path: { code } }, body })
        .catch((e: unknown) => ({ data: undefined, error: e }))
        .then(({ data, error: fault }) => {
          asking.current = false;
          if (same(newest.current, what)) setWorking(false);
          else askAgain();
          if (!data) {
            setError(fault);
            return;
          }
          before.current ??= data.before;
          const mine = { ...data, ...(before.current ? { before: before.current } : {}) };
          // While a fault stands, the last state that could be worked out stays in sight.
          setReply((last) => (data.faults.length > 0 && last?.analysis ? { ...mine, worked: last.analysis } : mine));
          if (data.faults.length === 0) setSound(what.doc);
        });
    },
    [code, v.letter, writes],
  );
  useEffect(() => {
    newest.current = state;
    ask(state);
  }, [ask, state, turn]);

  // Drawn after the findings: they do not wait for a drawing.
  useEffect(() => {
    if (!sound || !draws) return;
    const stop = new AbortController();
    const body = { letter: v.letter, ...(line ? { line } : {}), ...(writes ? { document: sound } : {}) };
    void client
      .POST("/api/parts/{code}/drawing", { params: { path: { code } }, body, signal: stop.signal })
      .then(({ data, error: fault }) => {
        if (stop.signal.aborted) return;
        setDrawError(fault ?? null);
        if (data) setDrawing(data);
      })
      .catch(() => undefined);
    return () => stop.abort();
  }, [code, sound, draws, line, v.letter, writes]);

  const faults = reply?.faults ?? [];
  const keep = useCallback(async () => {
    const sent = latest.current;
    setKeeping("keeping");
    const { data, error: fault } = await client
      .POST("/api/parts/{code}/draft", {
        params: { path: { code } },
        body: { version: version.current, base: base.current, document: sent },
      })
      .catch((e: unknown) => ({ data: undefined, error: e }));
    if (!data) {
      setError(fault);
      setKeeping("refused");
      return;
    }
    setError(null);
    version.current = data.version;
    if (latest.current === sent) {
      put(place, undefined); // also when the page is left already
      base.current = data.document;
      if (JSON.stringify(data.document) !== JSON.stringify(sent)) move({ take: data.document });
      setKeeping("kept");
    } else {
      base.current = sent;
      setKeeping("waiting");
    }
    await cache.invalidateQueries();
  }, [cache, code, place]);

  // Keeps by itself: when it is whole, and the server has looked at this state.
  const whole = writes && !working && reply !== null && faults.length === 0;
  useEffect(() => {
    if (keeping !== "waiting" || !whole) return;
    const timer = setTimeout(() => void keep(), quiet);
    return () => clearTimeout(timer);
  }, [keeping, whole, keep, doc]);

  // Who leaves within the moment keeps what is whole; what is not stays on the device.
  const say = useSay();
  const leaving = useEffectEvent(() => {
    if (!writes || keeping === "kept") return;
    if (faults.length > 0 || keeping === "refused")
      say(
        `Your changes of revision ${v.letter} are not kept by the shop yet: they stay on this device until you come back.`,
      );
    else void keep();
  });
  useEffect(() => () => leaving(), []);

  const change = useCallback(
    (next: Master | ((m: Master) => Master)) => {
      const to = typeof next === "function" ? next(latest.current) : next;
      if (to === latest.current) return; // nothing to ask or to keep
      latest.current = to;
      // Asked before the page is drawn anew: both take as long as the longer one.
      newest.current = { ...newest.current, doc: to };
      ask(newest.current);
      move({ to });
      setKeeping("waiting");
      setWorking(true);
    },
    [ask],
  );
  const undo = useCallback(() => (move("undo"), setKeeping("waiting"), setWorking(true)), []);
  const redo = useCallback(() => (move("redo"), setKeeping("waiting"), setWorking(true)), []);
  /** Gives one's own up for what is kept. */
  const takeTheirs = useCallback(async () => {
    await cache.invalidateQueries();
    const { data } = await client.GET("/api/parts/{code}", { params: { path: { code }, query: { only: "written" } } });
    if (!data) return;
    version.current = data.version;
    base.current = data.document;
    move({ to: data.document });
    setError(null);
    setKeeping("kept");
  }, [cache, code]);

  return {
    doc,
    change,
    undo,
    redo,
    undone: history.future.length,
    done: history.past.length,
    reply,
    drawing,
    drawError,
    working,
    faults,
    keeping,
    error,
    returned: returned?.at,
    takeTheirs,
    retry: keep,
  };
}

export type Writing = ReturnType<typeof useMaster>;
