// The log: every change, who made it and why; and whether its chain holds.
import { useState } from "react";
import { api } from "../../app/api";
import { useTitle } from "../../app/shell";
import { clock, date } from "../../ui/format";
import { Big, Button, Heading, Loading, Mark, Page, Refusal, Row, SelectField, Table, TextField } from "../../ui/parts";
import { ShopTabs } from "./tabs";
import { said } from "../../ui/units";
import type { Schemas } from "../../contract/types";

export function Log() {
  useTitle("Log");
  const people = api.useQuery("get", "/api/people/files");
  const [person, setPerson] = useState(0);
  const [what, setWhat] = useState("");
  const [subject, setSubject] = useState("");
  const [from, setFrom] = useState("");
  const [to, setTo] = useState("");
  const [before, setBefore] = useState<number[]>([]);
  const [checking, setChecking] = useState(false);
  const [open, setOpen] = useState<number | null>(null);
  const filter = {
    ...(person ? { person } : {}),
    ...(what ? { what } : {}),
    ...(subject ? { subject } : {}),
    ...(from ? { from: new Date(from).toISOString() } : {}),
    ...(to ? { to: new Date(new Date(to).getTime() + 86400e3).toISOString() } : {}),
  };
  const log = api.useQuery(
    "get",
    "/api/log",
    { params: { query: { ...filter, ...(before.length ? { before: before.at(-1) } : {}) } } },
    { placeholderData: (b) => b },
  );
  const check = api.useQuery("get", "/api/log/check", undefined, { enabled: checking, staleTime: Infinity });
  if (!log.data) return <Loading error={log.error} />;
  const set = (f: (v: string) => void) => (v: string) => {
    f(v);
    setBefore([]);
  };
  const csv = new URLSearchParams(Object.entries(filter).map(([k, v]) => [k, String(v)]));
  return (
    <>
      <ShopTabs />
      <Page>
        <Row $between>
          <div>
            <Heading>Append-only; each entry carries the hash of the one before</Heading>
            <Big>Log</Big>
          </div>
          <Row>
            <ChainCheck found={check.data} busy={checking && check.isFetching} start={() => setChecking(true)} />
            <a href={`/api/log/entries.csv?${csv}`}>These entries as CSV</a>
          </Row>
        </Row>
        <Refusal error={check.error} />
        <Row $gap={12} style={{ alignItems: "flex-end", marginTop: 8 }}>
          <WhoField people={people.data ?? []} person={person} set={(id) => (setPerson(id), setBefore([]))} />
          <TextField label="What" value={what} onChange={set(setWhat)} />
          <TextField label="About (id or name)" value={subject} onChange={set(setSubject)} />
          <TextField label="From" type="date" value={from} onChange={set(setFrom)} />
          <TextField label="To" type="date" value={to} onChange={set(setTo)} />
        </Row>
        <Table style={{ marginTop: 12 }}>
          <LogHead />
          <tbody>
            {log.data.flatMap((e) => [
              <LogRow key={e.seq} e={e} setOpen={setOpen} open={open} />,
              open === e.seq && <LogDetail key={`${e.seq} full`} e={e} />,
            ])}
          </tbody>
        </Table>
        <Row style={{ marginTop: 12 }}>
          <Button $quiet isDisabled={before.length === 0} onPress={() => setBefore(before.slice(0, -1))}>
            Newer
          </Button>
          <Button
            $quiet
            isDisabled={log.data.length < 100}
            onPress={() => setBefore([...before, log.data.at(-1)!.seq])}
          >
            Older
          </Button>
        </Row>
      </Page>
    </>
  );
}

/** The head of the log. */
function LogHead() {
  return (
    <thead>
      <tr>
        <th className="n">Entry</th>
        <th>When</th>
        <th>Who</th>
        <th>What</th>
        <th>About</th>
        <th>Why</th>
        <th />
      </tr>
    </thead>
  );
}

/** An entry of the log. */
function LogRow({
  e,
  setOpen,
  open,
}: {
  e: Schemas["LogEntry"];
  setOpen: (value: null | number | ((prevState: null | number) => null | number)) => void;
  open: null | number;
}) {
  return (
    <tr>
      <td className="n">{e.seq}</td>
      <td style={{ whiteSpace: "nowrap" }}>
        {date(e.at)} {clock(e.at)}
      </td>
      <td>{e.person}</td>
      <td>
        <b>{e.what}</b>
      </td>
      <td>{e.subject}</td>
      <td>{said(e.why)}</td>
      <td>
        <Button
          $quiet
          $small
          onPress={() => setOpen(open === e.seq ? null : e.seq)}
          aria-label={`${open === e.seq ? "Less" : "More"} of entry ${e.seq}`}
        >
          {open === e.seq ? "Less" : "More"}
        </Button>
      </td>
    </tr>
  );
}

/** All of an entry, as it was hashed. */
function LogDetail({ e }: { e: Schemas["LogEntry"] }) {
  return (
    <tr className="on">
      <td />
      <td colSpan={6} style={{ overflowWrap: "anywhere", fontSize: 14 }}>
        {e.detail}
        <br />
        <small>hash {e.hash}</small>
      </td>
    </tr>
  );
}

/** Whether the chain of the log holds, or a way to look. */
function ChainCheck({
  found,
  busy,
  start,
}: {
  found: Schemas["LogState"] | undefined;
  busy: boolean;
  start: () => void;
}) {
  if (!found)
    return (
      <Button $quiet isDisabled={busy} onPress={start}>
        {busy ? "Checking the chain …" : "Check the chain"}
      </Button>
    );
  return found.holds ? (
    <Mark tone="met">the chain of {found.entries} entries is intact</Mark>
  ) : (
    <Mark tone="stop">the chain is broken at entry {found.broken}</Mark>
  );
}

/** Whose entries are looked at. */
function WhoField({
  people,
  person,
  set,
}: {
  people: { id: number; name: string }[];
  person: number;
  set: (id: number) => void;
}) {
  return (
    <SelectField label="Who" value={person} onChange={(e) => set(Number(e.target.value))}>
      <option value={0}>anybody</option>
      {people.map((p) => (
        <option key={p.id} value={p.id}>
          {p.name}
        </option>
      ))}
    </SelectField>
  );
}
