// The list of builds at one room: what waits here, and what has passed.
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { api } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useKeys } from "../../app/keys";
import { useTitle } from "../../app/shell";
import { Fuse } from "../../ui/Fuse";
import { moment } from "../../ui/format";
import { placeOf } from "../../ui/RouteSteps";
import { Big, Button, Empty, Heading, Key, Loading, Page, Row, Rule } from "../../ui/parts";

type Room = "kits" | "layup" | "bag" | "release";

const words: Record<Room, { title: string; waits: string; empty: string; passed: string }> = {
  kits: {
    title: "Kits",
    waits: "To count",
    empty: "No kit waits to be counted. A kit comes here when all plies of its build are cut.",
    passed: "Counted kits",
  },
  layup: {
    title: "Layup",
    waits: "On the benches",
    empty: "No bench waits. A build comes here when its kit is counted.",
    passed: "Laid",
  },
  bag: {
    title: "Bag",
    waits: "To bag",
    empty: "Nothing waits for a bag. A build comes here when its last ply is laid and debulked.",
    passed: "Bagged",
  },
  release: {
    title: "Release",
    waits: "To inspect",
    empty: "Nothing waits for inspection. A build comes here when its cure run is finished.",
    passed: "Signed off",
  },
};

const Item = styled(Link)<{ $big?: boolean }>`
  display: grid;
  grid-template-columns: 250px 210px minmax(200px, 420px) 1fr;
  gap: 20px;
  align-items: center;
  padding: 12px 8px;
  min-height: 64px;
  border-bottom: 1px solid var(--g4);
  color: var(--ink);
  text-decoration: none;
  &:hover,
  &:focus-visible {
    background: var(--wash);
  }
  b {
    font-size: ${(p) => (p.$big ? 26 : 18)}px;
    line-height: 1.15;
  }
  @media (max-width: 900px) {
    grid-template-columns: 1fr;
    gap: 4px;
  }
`;

export function BuildList({ room }: { room: Room }) {
  const w = words[room];
  useTitle(w.title);
  const builds = api.useQuery("get", "/api/builds", { params: { query: { room } } }, { refetchInterval: 15_000 });
  const navigate = useNavigate();
  const here = builds.data?.builds ?? [];
  useKeys({
    Enter: {
      label: "open the first that waits",
      run: () => here[0] && void navigate(stepsOf(here[0], room)[0]?.to ?? `/${room}/${here[0].code}`),
      off: here.length === 0,
    },
  });
  if (!builds.data) return <Loading error={builds.error} />;
  return (
    <Page>
      <Heading>{w.title}</Heading>
      <Big>{w.waits}</Big>
      <div style={{ borderTop: "1px solid var(--ink)", marginTop: 10 }}>
        {here.map((b) => (
          <Line key={b.code} b={b} room={room} big />
        ))}
      </div>
      {here.length === 0 ? (
        <Empty style={{ marginTop: 14 }}>{w.empty}</Empty>
      ) : (
        <p style={{ marginTop: 8 }}>
          <Key>Enter</Key> opens the first. Scanning a build opens it anywhere.
        </p>
      )}
      <Passed room={room} title={w.passed} />
    </Page>
  );
}

/** What has passed here, a page at a time. */
function Passed({ room, title }: { room: Room; title: string }) {
  const [before, setBefore] = useState<number[]>([]);
  const at = before.at(-1);
  const page = api.useQuery("get", "/api/builds", {
    params: { query: { room, passed: true, limit: 20, ...(at ? { before: at } : {}) } },
  });
  const next = page.data?.next;
  if (!page.data || (page.data.builds.length === 0 && !at)) return null;
  return (
    <>
      <Rule style={{ marginTop: 28 }} />
      <Heading>{title}</Heading>
      {page.data.builds.map((b) => (
        <Line key={b.code} b={b} room={room} />
      ))}
      <Row style={{ marginTop: 10 }}>
        {at && (
          <Button $quiet $small onPress={() => setBefore(before.slice(0, -1))}>
            Newer
          </Button>
        )}
        {next && (
          <Button $quiet $small onPress={() => setBefore([...before, next])}>
            Older
          </Button>
        )}
      </Row>
    </>
  );
}

/** The operations of a build on a route that somebody can go on with in a room; of one pass itself. */
const stepsOf = (b: Schemas["BuildLine"], room: Room) => {
  const steps = (b.open ?? []).filter((s) => s.room === room);
  return steps.map((s) => ({ ...s, to: placeOf(b.code, s) }));
};

function Line({ b, room, big }: { b: Schemas["BuildLine"]; room: Room; big?: boolean }) {
  const steps = stepsOf(b, room);
  if (steps.length > 0)
    return steps.map((s) => <OneLine key={s.operation} b={b} to={s.to} count={`${s.label}: ${s.state}`} big={big} />);
  const count =
    room === "kits"
      ? `${b.counted} of ${b.plies} counted`
      : room === "layup"
        ? `${b.laid} of ${b.plies} plies laid`
        : b.room === "finished"
          ? `signed ${b.outcome}`
          : b.room === "ended"
            ? `ended: ${b.ended}`
            : `waits at ${b.room}`;
  return <OneLine b={b} to={`/${room}/${b.code}`} count={count} big={big} />;
}

function OneLine({ b, to, count, big }: { b: Schemas["BuildLine"]; to: string; count: string; big?: boolean }) {
  return (
    <Item to={to} $big={big}>
      <span>
        <b>
          {b.number} · {b.serial}
        </b>
        <br />
        <small>
          {b.name}, revision {b.letter}
        </small>
      </span>
      <span>
        {count}
        <br />
        <small>{b.code}</small>
      </span>
      <span>{b.outTime && <Fuse fuse={b.outTime} ended={b.run !== undefined} />}</span>
      <span>{b.room === "finished" || b.room === "ended" || b.run ? "" : <>cure planned {moment(b.cureAt)}</>}</span>
    </Item>
  );
}
