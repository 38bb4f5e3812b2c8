// A part's revision: the stack as it is written on the left, what is worked out
// from it on the right. A draft is written in place; everything else is read.
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { api } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useKeys } from "../../app/keys";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { Big, Loading, Mark, Page, Row, Tabs } from "../../ui/parts";
import { DifferencePage } from "./Difference";
import { Family } from "./Family";
import { Laminate } from "./Laminate";
import { Outlines } from "./Outlines";
import { Patterns } from "../patterns/Patterns";
import { ProcessForm } from "../process/ProcessForm";
import { RoutePage } from "../route/RoutePage";
import { useMaster, type Asked, type Writing, type Line } from "../master/useMaster";
import { marks, StackSeam } from "./StackSeam";

type Revision = Schemas["RevisionView"];

export function PartPage() {
  const { code = "" } = useParams();
  const [query] = useSearchParams();
  const letter = query.get("revision") ?? undefined;
  const part = api.useQuery("get", "/api/parts/{code}", {
    params: { path: { code }, query: { letter, only: "written" } },
  });
  const v = part.data;
  useTitle(v ? `${v.part.number} ${v.letter}` : "Part");
  if (!v) return <Loading error={part.error} />;
  return <Master key={v.part.code + v.letter + v.state} v={v} code={code} />;
}

const views = ["stack", "outlines", "patterns", "laminate", "route", "process", "difference", "family"] as const;
type View = (typeof views)[number];
/** What a view asks besides. */
const besides: Partial<Record<View, Asked>> = {
  outlines: { outlines: true },
  patterns: { outlines: true },
};

function Master({ v, code }: { v: Revision; code: string }) {
  const [query, setQuery] = useSearchParams();
  const { may } = useSession();
  const view = (views as readonly string[]).includes(query.get("view") ?? "") ? (query.get("view") as View) : "stack";
  const open = v.state === "draft" || v.state === "checked";
  const writes = open && v.letters[0]?.letter === v.letter && may("edit the master");
  const [asked, ask] = useState<Asked>({});
  const [line, setLine] = useState<Line>();
  const w = useMaster(code, v, writes, view === "laminate" ? asked : (besides[view] ?? {}), view === "stack", line);
  // An address may name an item of the stack.
  const [chosen, choose] = useState<string[]>(() => query.getAll("item"));
  const [processOpen, setProcessOpen] = useState(false);
  const go = (next: View) =>
    setQuery({
      ...(query.get("revision") ? { revision: query.get("revision")! } : {}),
      ...(next === "stack" ? {} : { view: next }),
    });
  useKeys({
    Escape: { label: "choose nothing", run: () => choose([]), off: chosen.length === 0 },
  });
  return (
    <>
      <Tabs aria-label="Views of the master">
        <Link to="/parts">‹ Parts</Link>
        {views.map((x) => (
          <ViewTab key={x} x={x} view={view} go={go} />
        ))}
        <span style={{ marginLeft: "auto", alignSelf: "center" }}>
          {writes && (processOpen ? <Mark tone="attend">Process changed, not kept yet</Mark> : <Keeping w={w} />)}
        </span>
      </Tabs>
      {view === "stack" ? (
        <StackSeam
          v={v}
          code={code}
          w={w}
          writes={writes}
          given={line}
          setLine={setLine}
          chosen={chosen}
          choose={choose}
        />
      ) : view === "patterns" ? (
        <Patterns
          v={v}
          code={code}
          doc={w.doc}
          drawn={new Map((w.reply?.outlines ?? []).map((o) => [o.name, o.outline]))}
          {...(writes ? { change: w.change } : {})}
        />
      ) : (
        <Page>
          <Row $between>
            <Big>
              {v.part.number} {v.letter}, {v.part.name}
            </Big>
            <Mark tone={marks[v.state]}>{v.state}</Mark>
          </Row>
          <div style={{ marginTop: 12 }}>
            <OneView
              view={view}
              v={v}
              code={code}
              w={w}
              writes={writes}
              asked={asked}
              ask={ask}
              open={setProcessOpen}
            />
          </div>
        </Page>
      )}
    </>
  );
}

/** A view of the master that has the page for itself. */
function OneView({
  view,
  v,
  code,
  w,
  writes,
  asked,
  ask,
  open,
}: {
  view: View;
  v: Revision;
  code: string;
  w: Writing;
  writes: boolean;
  asked: Asked;
  ask: (a: Asked) => void;
  open: (open: boolean) => void;
}) {
  return (
    <>
      {view === "outlines" && (
        <Outlines
          doc={w.doc}
          code={code}
          faults={w.faults}
          drawn={new Map((w.reply?.outlines ?? []).map((o) => [o.name, o.outline]))}
          {...(writes ? { change: w.change } : {})}
        />
      )}
      {view === "laminate" && (
        <Laminate doc={w.doc} {...(writes ? { change: w.change } : {})} reply={w.reply} asked={asked} ask={ask} />
      )}
      {view === "route" && (
        <RoutePage
          code={code}
          letter={v.letter}
          doc={w.doc}
          process={v.process}
          {...(writes ? { change: w.change } : {})}
        />
      )}
      {view === "process" && <ProcessForm v={v} writes={writes} open={open} />}
      {view === "difference" && <DifferencePage v={v} />}
      {view === "family" && (
        <Family
          v={v}
          doc={w.doc}
          faults={w.faults}
          kept={w.keeping === "kept"}
          {...(writes ? { change: w.change } : {})}
        />
      )}
    </>
  );
}

/** Whether what stands on the page is kept. */
function Keeping({ w }: { w: Writing }) {
  const label = {
    kept: "Kept",
    waiting: w.faults.length > 0 ? "Not kept: correct the faults first" : "Keeping …",
    keeping: "Keeping …",
    refused: "Not kept",
  }[w.keeping];
  return (
    <span role="status">
      <Mark tone={w.keeping === "kept" ? "met" : w.keeping === "refused" || w.faults.length > 0 ? "stop" : "plain"}>
        {label}
      </Mark>
    </span>
  );
}

/** A view of the master. */
function ViewTab({
  x,
  view,
  go,
}: {
  x: "outlines" | "difference" | "route" | "process" | "stack" | "family" | "patterns" | "laminate";
  view: "outlines" | "difference" | "route" | "process" | "stack" | "family" | "patterns" | "laminate";
  go: (next: "outlines" | "difference" | "route" | "process" | "stack" | "family" | "patterns" | "laminate") => void;
}) {
  return (
    <a
      href={`?view=${x}`}
      aria-current={x === view ? "page" : undefined}
      className={x === view ? "active" : undefined}
      onClick={(e) => {
        e.preventDefault();
        go(x);
      }}
    >
      {x[0]!.toUpperCase() + x.slice(1)}
    </a>
  );
}
