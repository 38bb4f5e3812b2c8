// The server's contract: types generated from Go, one client, and two ways to
// call it: reading, and a change that may be sent again safely.
import { QueryClient, useMutation, useQueryClient } from "@tanstack/react-query";
import createFetch from "openapi-fetch";
import createQueries from "openapi-react-query";
import type { PathsWithMethod } from "openapi-typescript-helpers";
import { useCallback, useEffect, useRef, useState } from "react";
import { Refused, type Problem } from "../contract/types";
import { mayStore } from "../ui/holds";
import type { paths } from "../contract/schema";

/** When somebody last touched the screen, a key or a scanner. */
let touched = Date.now();
for (const what of ["pointerdown", "keydown", "wheel"])
  window.addEventListener(what, () => (touched = Date.now()), { passive: true });
export const untouched = () => (Date.now() - touched) / 1000;
const somebodyThere = () => untouched() < 60;

/** A request that changes something keeps one key over all its tries. */
async function send(request: Request): Promise<Response> {
  if (request.method !== "GET" && !request.headers.has("Idempotency-Key")) {
    request.headers.set("Idempotency-Key", crypto.randomUUID());
  }
  // A page that only looks for news does not keep its session alive.
  if (somebodyThere()) request.headers.set("Juxta-Present", "yes");
  for (let left = 3; ; left--) {
    try {
      const answer = await fetch(request.clone());
      // The database broke off or starts again: the same key is stored once, whatever happened.
      if (answer.status !== 503 || left === 0) return answer;
    } catch (fault) {
      if (left === 0 || request.signal.aborted) throw fault;
    }
    await new Promise((done) => setTimeout(done, 700));
  }
}

export const client = createFetch<paths>({ baseUrl: "/", fetch: send });
export const api = createQueries(client);
export const queries = new QueryClient({
  defaultOptions: {
    // Without a network it is said at once that there is none: nothing waits in secret to be sent later.
    queries: { retry: 1, refetchOnWindowFocus: true, staleTime: 2000, networkMode: "always" },
    mutations: { networkMode: "always" },
  },
});

type PostPath = PathsWithMethod<paths, "post">;
type Body<P extends PostPath> = paths[P] extends { post: { requestBody: { content: { "application/json": infer B } } } }
  ? B
  : undefined;
type Answer<P extends PostPath> = paths[P] extends {
  post: { responses: { 200: { content: { "application/json": infer A } } } };
}
  ? A
  : never;

/** operation: of the route of the build, for what belongs to one. */
type Change<B> = { code?: string; operation?: string; id?: number; body?: B };

/** Counts the changes that went through: a refusal from before the last one is stale. */
let through = 0;

/**
 * A change. Everything that was read is read again afterwards, and then done is
 * told; stored is told before, in the moment in which the answer is there.
 */
export function useChange<P extends PostPath>(path: P, done?: (answer: Answer<P>) => void, stored?: () => void) {
  const cache = useQueryClient();
  const refusedAt = useRef(0);
  const onItsWay = useRef(new Set<string>());
  const mutation = useMutation<Answer<P>, unknown, Change<Body<P>>>({
    onSettled: (_answer, _error, what) => void onItsWay.current.delete(JSON.stringify(what)),
    mutationFn: async ({ code, operation, id, body }) => {
      mayStore();
      const call = client.POST as unknown as (
        p: string,
        init: unknown,
      ) => Promise<{ data?: Answer<P>; error?: unknown }>;
      const { data, error } = await call(path, {
        params: { path: { code, id }, query: operation ? { operation } : {} },
        body,
      });
      if (error !== undefined) throw new Refused(error as Problem);
      return data as Answer<P>;
    },
    onSuccess: async (answer) => {
      through++;
      stored?.();
      await cache.invalidateQueries();
      done?.(answer);
    },
    onError: () => {
      refusedAt.current = through;
      void cache.invalidateQueries();
    },
  });
  // A button pressed twice asks once: the same change is not sent again while it is on its way.
  const { mutate: send } = mutation;
  const mutate = useCallback<typeof send>(
    (what, then) => {
      const same = JSON.stringify(what);
      if (onItsWay.current.has(same)) return;
      onItsWay.current.add(same);
      send(what, then);
    },
    [send],
  );
  return { ...mutation, mutate, error: refusedAt.current === through ? mutation.error : null };
}

/** Reads a chosen file as base64, which is how files travel. */
export async function base64(file: File) {
  const url = await new Promise<string>((done, failed) => {
    const reader = new FileReader();
    reader.onload = () => done(reader.result as string);
    reader.onerror = () => failed(new Error("the file cannot be read"));
    reader.readAsDataURL(file);
  });
  return url.slice(url.indexOf(",") + 1);
}

/** Follows an event stream; hear is called with each event's data. */
export function useEvents<T>(url: string | undefined, hear: (data: T) => void) {
  const [gone, setGone] = useState(false);
  useEffect(() => {
    if (!url) return;
    const source = new EventSource(url);
    source.onmessage = (e) => hear(JSON.parse((e as MessageEvent<string>).data) as T);
    for (const name of ["nest", "run"])
      source.addEventListener(name, (e) => hear(JSON.parse((e as MessageEvent<string>).data) as T));
    source.onopen = () => setGone(false);
    source.onerror = () => setGone(true);
    return () => source.close();
    // hear is made anew on every render; the stream is not.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [url]);
  return gone;
}
