// The way of a part: its operations as a drawing or as a table, one of them in full, and
// templates that lay a whole route at once.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { client } from "../../app/api";
import { Refused, type Schemas } from "../../contract/types";
import { spell } from "../../ui/format";
import { Button, Heading, Key, LinkButton, Loading, Mark, Row, Stack, Table } from "../../ui/parts";
import { said } from "../../ui/units";
import type { Master } from "../master/edits";
import { LastBuilds } from "./LastBuilds";
import { OperationForm, OperationVerbs } from "./OperationForm";
import { addedAfter, changed, remade, takenOut, waiting } from "./operations";
import { RouteDrawing, takes } from "./RouteDrawing";
import { SettingsForm } from "./SettingsForm";
import { RouteTemplates } from "./RouteTemplates";

type Reply = Schemas["RouteReply"];

/** What the core makes of the route as it stands on the page. */
function useRoute(code: string, letter: string, doc: Master) {
  const key = JSON.stringify([doc.format, doc.route ?? [], doc.stages.map((s) => [s.key, s.name, s.kind])]);
  return useQuery({
    queryKey: ["route", code, letter, key],
    placeholderData: keepPreviousData,
    queryFn: async (): Promise<Reply> => {
      const { data, error } = await client.POST("/api/parts/{code}/route", {
        params: { path: { code } },
        body: { document: doc, letter },
      });
      if (!data) throw new Refused(error);
      return data;
    },
  });
}

export function RoutePage({
  code,
  letter,
  doc,
  process,
  change,
}: {
  code: string;
  letter: string;
  doc: Master;
  /** Of the revision, as kept. */
  process: Schemas["Process"];
  /** Missing: the route is read only. */
  change?: (m: Master) => void;
}) {
  const asked = useRoute(code, letter, doc);
  const [picked, choose] = useState<string>();
  const [table, setTable] = useState(false);
  const waits = useRef<HTMLFieldSetElement>(null);
  const r = asked.data;
  if (!r) return <Loading error={asked.error} />;
  const all = doc.route && doc.route.length > 0 ? doc.route : r.planned;
  // While an answer is awaited the drawing shows the last one, of operations still there.
  const placed = r.operations.filter((p) => all.some((o) => o.key === p.key));
  const chosen = all.some((o) => o.key === picked) ? picked : placed[0]?.key;
  const one = all.find((o) => o.key === chosen);
  const found = new Set(r.findings.map((f) => f.key));
  const verbs = change && {
    add: (after: string) => {
      const [next, key] = addedAfter(doc, all, after, all.find((o) => o.key === after)?.kind ?? "trim");
      change(next);
      choose(key);
    },
    takeOut: (key: string) => {
      const at = placed.findIndex((p) => p.key === key);
      choose((placed[at + 1] ?? placed[at - 1])?.key);
      change(takenOut(doc, all, key));
    },
  };
  return (
    <Stack $gap={16}>
      <Row $between>
        <RouteSum all={all} r={r} />
        <RouteVerbs code={code} letter={letter} setTable={setTable} table={table} />
      </Row>
      {r.onePass && (
        <p>
          <Mark tone="plain">No route planned: one layup, one bag, one cure.</Mark>
          {change && " The first change makes it the part’s own; a template makes a whole route at once."}
        </p>
      )}
      {r.faults.map((f) => (
        <FaultLine key={f.key + f.field + f.message} f={f} all={all} choose={choose} />
      ))}
      {table || (r.operations.length === 0 && all.length > 0) ? (
        <RouteTable all={all} reply={r} chosen={chosen} choose={choose} found={found} />
      ) : (
        <RouteDrawing
          operations={all}
          placed={placed}
          stages={doc.stages}
          chosen={chosen}
          choose={choose}
          found={found}
          toWaits={() => waits.current?.querySelector("input")?.focus()}
          {...(verbs ?? {})}
        />
      )}
      <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 3fr) minmax(0, 2fr)", gap: 32 }}>
        <Stack $gap={10}>
          {one && (
            <>
              <OperationForm
                key={one.key}
                o={one}
                placed={numbered(all, r)}
                stages={doc.stages}
                places={r.places ?? []}
                change={change && ((part) => change(changed(doc, all, one.key, part)))}
                wait={change && ((on, is) => change(waiting(doc, all, one.key, on, is)))}
                waits={waits}
              />
              <SettingsForm
                key={`${one.key} settings`}
                o={one}
                process={process}
                change={change && ((part) => change(changed(doc, all, one.key, part)))}
                code={code}
                letter={letter}
                doc={doc}
                stacks={r.stacks}
              />
              {verbs && <OperationVerbs add={() => verbs.add(one.key)} takeOut={() => verbs.takeOut(one.key)} />}
            </>
          )}
          {!table && placed.length > 0 && <DrawingKeys change={change} />}
        </Stack>
        <Stack $gap={10}>
          {one && <LastBuilds code={code} o={one} />}
          <Heading>To check</Heading>
          {r.findings.length === 0 && r.faults.length === 0 && <Mark tone="met">No problems found</Mark>}
          {r.findings.map((f) => (
            <RouteFault key={f.rule + f.key} f={f} all={all} choose={choose} />
          ))}
          <Templates code={code} letter={letter} doc={doc} r={r} change={change} />
        </Stack>
      </div>
    </Stack>
  );
}

/** All operations with their numbers; of a faulty route, which has no order, as they stand. */
const numbered = (all: Schemas["Operation"][], r: Reply): Schemas["OperationView"][] =>
  r.operations.length > 0
    ? r.operations
    : all.map((o, k) => ({
        key: o.key,
        number: k + 1,
        label: r.labels[o.key] ?? o.kind,
        short: r.labels[o.key] ?? o.kind,
        room: "layup",
        waits: [],
        start: 0,
        end: 0,
        longest: false,
      }));

function RouteTable({
  all,
  reply,
  chosen,
  choose,
  found,
}: {
  all: Schemas["Operation"][];
  reply: Reply;
  chosen: string | undefined;
  choose: (key: string) => void;
  found: Set<string>;
}) {
  return (
    <Table>
      <thead>
        <tr>
          <th className="n">No.</th>
          <th>Operation</th>
          <th>Room</th>
          <th>Waits for</th>
          <th>Duration, place</th>
          <th>Records</th>
        </tr>
      </thead>
      <tbody>
        {numbered(all, reply).map((p) => {
          const o = all.find((o) => o.key === p.key);
          return (
            o && (
              <tr key={p.key} className={p.key === chosen ? "on" : undefined}>
                <td className="n">{p.number}</td>
                <td>
                  <Button $quiet $small onPress={() => choose(p.key)} aria-pressed={p.key === chosen}>
                    {found.has(p.key) && "✕ "}
                    {p.label}
                  </Button>
                </td>
                <td>{reply.operations.length > 0 && p.room}</td>
                <td>{(o.after ?? []).map((a) => reply.operations.find((x) => x.key === a)?.number ?? a).join(", ")}</td>
                <td>
                  {takes(o)}
                  {p.longest && <small> · critical path</small>}
                </td>
                <td>{(o.fields ?? []).map((f) => f.name).join(", ")}</td>
              </tr>
            )
          );
        })}
      </tbody>
    </Table>
  );
}

/** How many operations there are and how long they take. */
function RouteSum({ all, r }: { all: Schemas["Operation"][]; r: Schemas["RouteReply"] }) {
  return (
    <p style={{ fontSize: 22 }}>
      <b>
        {all.length} {all.length === 1 ? "operation" : "operations"}
      </b>
      {r.operations.length > 0 && (
        <>
          , critical path <b>{spell(r.longest)}</b> of work and waiting, <b>{spell(r.work)}</b> of work in all
        </>
      )}
    </p>
  );
}

/** A fault of the route, with a way to it. */
function RouteFault({
  f,
  all,
  choose,
}: {
  f: Schemas["RouteFinding"];
  all: Schemas["Operation"][];
  choose: (value: undefined | string | ((prevState: undefined | string) => undefined | string)) => void;
}) {
  return (
    <Row $gap={8}>
      <span style={{ flex: 1 }}>
        <Mark tone="stop">{f.message}</Mark>
      </span>
      {all.some((o) => o.key === f.key) && (
        <Button $quiet $small onPress={() => choose(f.key)} aria-label={`Show: ${said(f.message)}`}>
          Show
        </Button>
      )}
    </Row>
  );
}

/** The keys of the drawing. */
function DrawingKeys({ change }: { change: undefined | ((m: Schemas["Document"]) => void) }) {
  return (
    <p style={{ color: "var(--g1)", fontSize: 15 }}>
      In the drawing: arrows walk · <Key>W</Key> to what it waits for{" "}
      {change && (
        <>
          · <Key>N</Key> new operation after it · <Key>Del</Key> removes it
        </>
      )}
      . The thick line is the critical path; hatched runs unattended.
    </p>
  );
}

/** A fault of the document, with a way to it. */
function FaultLine({
  f,
  all,
  choose,
}: {
  f: Schemas["Fault"];
  all: Schemas["Operation"][];
  choose: (value: undefined | string | ((prevState: undefined | string) => undefined | string)) => void;
}) {
  return (
    <p role="alert">
      <Mark tone="stop">{f.message}</Mark>{" "}
      {all.some((o) => o.key === f.key) && (
        <Button $quiet $small onPress={() => choose(f.key)}>
          Show
        </Button>
      )}
    </p>
  );
}

/** The route as a file, and as a table. */
function RouteVerbs({
  code,
  letter,
  setTable,
  table,
}: {
  code: string;
  letter: string;
  setTable: (value: boolean | ((prevState: boolean) => boolean)) => void;
  table: boolean;
}) {
  return (
    <Row $gap={8}>
      <LinkButton href={`/api/parts/${code}/operations.csv?letter=${letter}`}>Operations (CSV)</LinkButton>
      <LinkButton href={`/api/parts/${code}/operations.xlsx?letter=${letter}`}>XLSX</LinkButton>
      <Button $quiet onPress={() => setTable(!table)} aria-pressed={table}>
        {table ? "As a drawing" : "As a table"}
      </Button>
    </Row>
  );
}

/** The usual routes. */
function Templates({
  code,
  letter,
  doc,
  r,
  change,
}: {
  code: string;
  letter: string;
  doc: Schemas["Document"];
  r: Schemas["RouteReply"];
  change: undefined | ((m: Schemas["Document"]) => void);
}) {
  return (
    <RouteTemplates
      code={code}
      letter={letter}
      doc={doc}
      templates={r.templates}
      replaces={!r.onePass}
      {...(change ? { lay: (made) => change(remade(doc, made)) } : {})}
    />
  );
}
