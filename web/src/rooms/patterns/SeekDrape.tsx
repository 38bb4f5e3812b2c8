// Searches of how a ply is laid: queued work with progress, that can be stopped, with the best so
// far drawn while it goes on.
import { useState } from "react";
import { api, useChange } from "../../app/api";
import { Button, Mark, Refusal, Row, Stack } from "../../ui/parts";
import { plain, said } from "../../ui/units";
import type { Item, Master } from "../master/edits";
import type { Schemas } from "../../contract/types";

type Search = Schemas["DrapeSearchView"];
type Laid = NonNullable<Item["laid"]>;

/** A search for one ply of a stage; best is how it would be laid by what was found so far. */
export function useSeek(code: string, letter: string, stage: string) {
  const [of, setOf] = useState<{ id: number; ply: string }>();
  const start = useChange("/api/parts/{code}/drapes");
  const halt = useChange("/api/drapes/{id}/stop");
  const asked = api.useQuery(
    "get",
    "/api/drapes/{id}",
    { params: { path: { id: of?.id ?? 0 } } },
    {
      enabled: of !== undefined,
      refetchInterval: (q) => (q.state.data?.state === "done" || q.state.data?.state === "failed" ? false : 400),
    },
  );
  const search: Search | undefined = of && asked.data?.id === of.id ? asked.data : undefined;
  return {
    search,
    ply: of?.ply,
    error: start.error ?? halt.error ?? (of ? asked.error : undefined),
    pending: start.isPending,
    start: (doc: Master, ply: string, what: Search["what"]) => {
      setOf(undefined);
      start.mutate(
        { code, body: { document: doc, letter, stage, ply, what } },
        { onSuccess: (s) => setOf({ id: s.id, ply }) },
      );
    },
    stop: () => of && halt.mutate({ id: of.id }),
    leave: () => setOf(undefined),
  };
}

export type Seek = ReturnType<typeof useSeek>;

/** How the ply would be laid by what a search found so far. */
export function laidBy(search: Search | undefined, laid: Laid | undefined): Laid | undefined {
  if (!search?.best.found) return undefined;
  return search.what === "start"
    ? { ...laid, x: search.best.x, y: search.best.y }
    : { ...laid, cuts: search.best.cuts ?? [] };
}

export function SeekDrape({
  seek,
  doc,
  ply,
  laid,
  locks,
  take,
}: {
  seek: Seek;
  doc: Master;
  ply: string;
  laid: Laid | undefined;
  /** It locks as it is laid now. */
  locks: boolean;
  take: (laid: Laid) => void;
}) {
  const s = seek.search;
  const going = s?.state === "queued" || s?.state === "running";
  const best = laidBy(s, laid);
  const begin = (what: Search["what"]) => seek.start(doc, ply, what);
  return (
    <Stack $gap={8}>
      {!s && (
        <Row $gap={8}>
          <Button $quiet why={seek.pending ? "Search requested." : ""} onPress={() => begin("start")}>
            Search the best start
          </Button>
          {locks && !laid?.strip && (
            <Button why={seek.pending ? "Search requested." : ""} onPress={() => begin("cuts")}>
              Propose cuts
            </Button>
          )}
        </Row>
      )}
      <Refusal error={seek.error} />
      {s && (
        <Stack $gap={8} role="group" aria-label="Search">
          <p role="status" style={{ margin: 0, fontSize: 17 }}>
            {s.state === "queued" && "Queued."}
            {s.state === "running" && `Searching: ${progress(s)}`}
            {s.state === "done" &&
              (s.best.found ? `Found: ${progress(s)}` : `Nothing better was found: ${progress(s)}`)}
            {s.state === "failed" && <Mark tone="stop">{said(s.message)}</Mark>}
          </p>
          {going && (
            <progress
              aria-label="Search"
              style={{ width: "100%" }}
              {...(s.best.of > 0 ? { value: s.best.tried, max: s.best.of } : {})}
            />
          )}
          {best && <p style={{ margin: 0 }}>The drawing shows it so. Nothing is changed until you take it.</p>}
          <Row $gap={8}>
            {going && (
              <Button $quiet onPress={seek.stop}>
                Stop, keep the best
              </Button>
            )}
            {best && !going && (
              <Button
                onPress={() => {
                  take(best);
                  seek.leave();
                }}
              >
                {s.what === "start" ? "Take this start" : "Take these cuts"}
              </Button>
            )}
            {!going && (
              <Button $quiet onPress={seek.leave}>
                Discard the proposal
              </Button>
            )}
          </Row>
        </Stack>
      )}
    </Stack>
  );
}

function progress(s: Search) {
  const { tried, of, found, peakDeg, radius, cuts } = s.best;
  const count = of > 0 ? `${tried} of ${of} starts` : `${tried} ways of cutting`;
  if (!found) return `${count}.`;
  if (s.what === "start" && radius) return `${count}, steered along ${plain(radius, 2)} m at the tightest.`;
  const n = cuts?.length ?? 0;
  const cut = s.what === "cuts" ? `, ${n} ${n === 1 ? "cut" : "cuts"}` : "";
  return `${count}${cut}, peak shear ${plain(peakDeg, 0)}°.`;
}
