// A person's day: what is ready for them, in the order of what presses; what runs by itself
// and when it wants somebody; what is about to be too late; what the shift before left.
import { type FormEvent } from "react";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { api, useChange } from "../../app/api";
import { Offer } from "../../app/Offer";
import { useKeys } from "../../app/keys";
import { useKept } from "../../app/kept";
import { useTitle } from "../../app/shell";
import type { Schemas } from "../../contract/types";
import { Fuse } from "../../ui/Fuse";
import { clock, moment, spell, waitsFor } from "../../ui/format";
import { Big, Button, Empty, Heading, Key, Loading, Mark, Refusal, Row, Stack, Table, TextField } from "../../ui/parts";
import { placeOf } from "../../ui/RouteSteps";
import { ShopDay } from "./ShopDay";
import { Seam, type Difference } from "../../ui/Seam";
import { said } from "../../ui/units";

type Job = Schemas["Job"];

const Jobs = styled.ol`
  list-style: none;
  margin: 10px 0 0;
  padding: 0;
  border-top: 2px solid var(--ink);
  li {
    display: grid;
    grid-template-columns: 92px minmax(0, 1fr) auto;
    gap: 4px 16px;
    align-items: start;
    padding: 10px 0;
    border-bottom: 1px solid var(--g4);
  }
  .when {
    font-size: 24px;
    font-weight: 700;
    line-height: 1.2;
  }
  @media (max-width: 900px) {
    li {
      grid-template-columns: 80px minmax(0, 1fr);
    }
    li > :last-child {
      grid-column: 2;
    }
  }
`;

/** Where a job is done. */
const pathOf = (j: Job) =>
  j.step.operation !== ""
    ? placeOf(j.code, j.step)
    : ["cut", "cure"].includes(j.step.room)
      ? `/${j.step.room}`
      : `/${j.step.room}/${j.code}`;

/** When a job can be done: now, late, or at an hour or a day. */
export function whenOf(j: Job, now: string) {
  if (j.sent) return j.late ? "late" : "out";
  if (!j.waits) return j.late ? "late" : "now";
  const hours = (new Date(j.from).getTime() - new Date(now).getTime()) / 3600e3;
  if (hours <= 0) return "next";
  return hours < 20 ? clock(j.from) : new Date(j.from).toLocaleDateString("en-GB", { weekday: "short" });
}

/** By when it must begin; of a build of one pass its cure. */
export const pressesAt = (j: Job) =>
  j.latest &&
  (j.step.operation === ""
    ? `cure by ${moment(j.latest)}`
    : j.step.state !== "in work" && `start by ${moment(j.latest)}`);

/** What a job says besides its name. */
const detailOf = (j: Job) =>
  [
    j.waits && said(waitsFor(j.waits)),
    j.held && `held: ${j.held}`,
    j.sent && `out at ${j.sent}${j.due ? `, due back ${moment(j.due)}` : ""}`,
    j.step.place && j.step.place,
    j.step.takes > 0 && `takes ${spell(j.step.takes)}`,
    pressesAt(j),
    j.step.state === "in work" && j.step.by && `in work, ${j.step.by}`,
  ]
    .filter(Boolean)
    .join(" · ");

const verbOf = (j: Job) => (j.step.state === "in work" ? "Go on" : j.step.state === "held" ? "Look at it" : "Start");

/** What of the day needs somebody's eye. */
function lateOf(d: Schemas["Day"]) {
  const differences: Difference[] = [];
  const past = d.late.filter((l) => l.past).length;
  if (past > 0) differences.push({ label: `${past} late`, tone: "stop" });
  if (d.late.length > past) differences.push({ label: `${d.late.length - past} at risk`, tone: "attend" });
  return differences;
}

export function Today() {
  useTitle("Today");
  const day = api.useQuery("get", "/api/today", undefined, { refetchInterval: 15_000 });
  const places = api.useQuery("get", "/api/today/places", undefined, { refetchInterval: 60_000 });
  const navigate = useNavigate();
  const start = useChange("/api/finish/{code}/start");
  const d = day.data;
  const can = d?.jobs.filter((j) => !j.waits) ?? [];
  const go = (j: Job) => {
    // What is signed for itself is taken up by the one press; what goes out asks first.
    if (j.step.single && j.step.state === "ready" && j.step.kind !== "outside")
      start.mutate(
        { code: j.code, body: { operation: j.step.operation } },
        { onSuccess: () => void navigate(pathOf(j)) },
      );
    else void navigate(pathOf(j));
  };
  const first = can.find((j) => j.step.state !== "held" && !j.sent);
  useKeys({
    Enter: {
      label: first ? `start: ${first.step.label}` : "start the first",
      run: () => first && go(first),
      off: !first,
    },
  });
  if (!d) return <Loading error={day.error} />;
  return (
    <Seam
      names={["Ready for you", "As it happens"]}
      left="minmax(0, 1.55fr)"
      differences={lateOf(d)}
      planned={
        <Stack $gap={10}>
          <DayHead d={d} first={first} />
          <Refusal error={start.error} />
          {d.jobs.length === 0 && <Empty>Work is listed here as soon as a build waits for what you may do.</Empty>}
          <Jobs>
            {d.jobs.map((j) => (
              <JobRow
                key={j.code + j.step.operation}
                j={j}
                now={d.now}
                first={j === first}
                go={go}
                busy={start.isPending}
              />
            ))}
          </Jobs>
          {d.asks.length > 0 && <AskedFor d={d} />}
          <DayKeys first={first} d={d} />
        </Stack>
      }
      built={
        <Stack $gap={14}>
          <div>
            <Heading>Running unattended</Heading>
            <UnattendedTable all={d.itself} />
          </div>
          <div>
            <Heading>At risk</Heading>
            <AtRiskTable all={d.late} />
          </div>
          <Notes notes={d.notes} />
          {places.data && places.data.places.length > 0 && (
            <div>
              <Heading>The shop today</Heading>
              <ShopDay of={places.data} />
            </div>
          )}
        </Stack>
      }
    />
  );
}

/** A job in the list, with what begins it. */
function JobRow({
  j,
  now,
  first,
  go,
  busy,
}: {
  j: Job;
  now: string;
  first: boolean;
  go: (j: Job) => void;
  busy: boolean;
}) {
  const when = whenOf(j, now);
  return (
    <li>
      <span className="when">{when === "late" ? <Mark tone="attend">late</Mark> : when}</span>
      <JobLine j={j} />
      <span>
        {!j.waits && (
          <Button
            $quiet={!first}
            onPress={() => go(j)}
            isDisabled={busy}
            aria-label={`${verbOf(j)}: ${j.step.label}, ${j.number} ${j.serial}`}
          >
            {verbOf(j)}
          </Button>
        )}
      </span>
    </li>
  );
}

const capital = (s: string) => (s[0]?.toUpperCase() ?? "") + s.slice(1);

export function UnattendedTable({ all, still }: { all: Schemas["RunningUnattended"][]; still?: boolean }) {
  if (all.length === 0) return <p>Nothing runs now.</p>;
  return (
    <Table>
      <tbody>
        {all.map((x) => (
          <tr key={x.label}>
            <td>{still ? x.label : <Link to={x.path}>{x.label}</Link>}</td>
            <td>
              <b>{x.until ? moment(x.until) : "begins"}</b>
              <br />
              <small>{x.then}</small>
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

export function AtRiskTable({ all, still }: { all: Schemas["AtRisk"][]; still?: boolean }) {
  if (all.length === 0) return <p>Nothing at risk.</p>;
  return (
    <Table>
      <tbody>
        {all.map((l) => (
          <tr key={l.what + l.label}>
            <td>
              <Mark tone={l.past ? "stop" : "attend"}>{l.what}</Mark>
            </td>
            <td>
              {still ? said(l.label) : <Link to={l.path}>{said(l.label)}</Link>}
              <br />
              <small>
                {l.past ? "since" : "at"} {moment(l.at)}
              </small>
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

function Notes({ notes }: { notes: Schemas["Handover"][] }) {
  const typed = useKept("handover", "");
  const leave = useChange("/api/today/notes", typed.done);
  const submit = (e: FormEvent) => {
    e.preventDefault();
    leave.mutate({ body: { text: typed.value } });
  };
  return (
    <Stack $gap={8}>
      <Heading>From the shift before</Heading>
      {notes.length === 0 && <p>No note of the last two days.</p>}
      {notes.map((n) => (
        <div key={n.at + n.text}>
          <small>
            {n.person}, {moment(n.at)}
          </small>
          <p style={{ margin: 0, fontSize: 18 }}>{n.text}</p>
        </div>
      ))}
      <Offer act="leave a note to the next shift">
        <form onSubmit={submit}>
          <Row $gap={10} style={{ alignItems: "flex-end" }}>
            <div style={{ flex: "1 1 260px" }}>
              <TextField label="For the next shift" value={typed.value} onChange={(v) => typed.set(() => v)} />
            </div>
            <Button
              type="submit"
              $quiet
              why={typed.value.trim() === "" ? "Write the note first." : ""}
              isDisabled={leave.isPending}
            >
              Leave the note
            </Button>
          </Row>
        </form>
      </Offer>
      <Refusal error={leave.error} />
    </Stack>
  );
}

/** A job, and where it is done. */
function JobLine({ j }: { j: Schemas["Job"] }) {
  return (
    <div>
      <div style={{ fontSize: 19 }}>
        <Link to={pathOf(j)} style={{ color: "inherit" }}>
          <b>{capital(j.step.label)}</b>
        </Link>{" "}
        · {j.number} {j.name} · {j.serial}
      </div>
      <small>{detailOf(j)}</small>
      {j.tight?.map((t) => (
        <div key={t}>
          <Mark tone="attend">{said(t)}</Mark>
        </div>
      ))}
      {!j.waits && j.outTime && ["cut", "kits", "layup", "bag", "cure"].includes(j.step.room) && (
        <Fuse fuse={j.outTime} />
      )}
    </div>
  );
}

/** What somebody is asked for. */
function AskedFor({ d }: { d: Schemas["Day"] }) {
  return (
    <>
      <Heading>Also</Heading>
      <ul style={{ margin: 0, paddingLeft: 18 }}>
        {d.asks.map((a) => (
          <li key={a.label} style={{ minHeight: 32 }}>
            <Link to={a.path}>{a.label}</Link>
          </li>
        ))}
      </ul>
    </>
  );
}

/** The day, and how much waits. */
function DayHead({ d, first }: { d: Schemas["Day"]; first: undefined | Schemas["Job"] }) {
  return (
    <div>
      <Heading>
        {new Date(d.now).toLocaleDateString("en-GB", { weekday: "long", day: "numeric", month: "long" })} · ready for
        you, most urgent first
      </Heading>
      <Big>{first ? `${capital(first.step.label)}: ${first.number} · ${first.serial}` : "Nothing waits for you"}</Big>
    </div>
  );
}

/** The keys of the page. */
function DayKeys({ first, d }: { first: undefined | Schemas["Job"]; d: Schemas["Day"] }) {
  return (
    <p>
      {first && (
        <>
          <Key>Enter</Key> starts the first ·{" "}
        </>
      )}
      <Key>0</Key> comes back here · <Link to="/wall">the whole shop, for the wall</Link>
      {d.others > 0 && ` · ${d.others} more for others`}
    </p>
  );
}
