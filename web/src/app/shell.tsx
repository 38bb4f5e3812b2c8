// The frame round every page: the route across the top, keys and scans, and
// finding anything.
import { Suspense, useCallback, useEffect, useState } from "react";
import { Dialog, Modal, ModalOverlay } from "react-aria-components";
import { Link, NavLink, Outlet, useNavigate } from "react-router";
import styled from "styled-components";
import { Button, Heading, Loading, Mark, Page, TextField } from "../ui/parts";
import { moment } from "../ui/format";
import { api } from "./api";
import { Catching } from "./PageFailed";
import { fetchRooms } from "./page";
import type { Schemas } from "../contract/types";
import { Keys, rooms } from "./keys";
import { useSession } from "./session";

const names: Record<(typeof rooms)[number], string> = {
  freezer: "Freezer",
  parts: "Parts",
  cut: "Cut",
  kits: "Kits",
  layup: "Layup",
  bag: "Bag",
  cure: "Cure",
  finish: "Finish",
  release: "Release",
  thread: "Thread",
};

const Frame = styled.div`
  min-height: 100%;
  display: flex;
  flex-direction: column;
`;

const Rooms = styled.nav`
  display: flex;
  border-bottom: 3px solid var(--ink);
  position: sticky;
  top: 0;
  background: var(--paper);
  z-index: 10;
  a {
    flex: 1 1 0;
    min-width: 0;
    padding: 8px 4px 7px 12px;
    border-left: 1px solid var(--g4);
    color: var(--ink);
    text-decoration: none;
    line-height: 1.15;
    min-height: 56px;
  }
  a b {
    display: block;
    font-size: 17px;
  }
  a small {
    font-size: 13px;
    white-space: nowrap;
    color: var(--g1);
  }
  a.active {
    background: var(--chosen);
    color: var(--on-chosen);
  }
  a.active small {
    color: inherit;
  }
  @media (max-width: 900px) {
    display: grid;
    grid-template-columns: repeat(6, 1fr);
    > div {
      grid-column: span 2;
    }
  }
`;

const Wordmark = styled(NavLink)`
  && {
    flex: 0 0 104px;
    border-left: 0;
    padding: 15px 0 0 24px;
    font-weight: 800;
    font-size: 20px;
    letter-spacing: -0.02em;
    position: relative;
  }
  &::after {
    content: "";
    position: absolute;
    left: 50px;
    top: 10px;
    bottom: 10px;
    width: 2px;
    background: var(--blue);
  }
`;

const Who = styled.div`
  flex: 0 0 132px;
  border-left: 1px solid var(--g4);
  padding: 0 14px;
  text-align: right;
  font-size: 14px;
  line-height: 1.25;
  && a {
    display: grid;
    align-items: center;
    padding: 0;
    border: 0;
    min-height: 32px;
  }
  && b {
    font-size: 15px;
  }
  button {
    font: inherit;
    background: none;
    border: 0;
    padding: 0;
    min-height: 32px;
    color: var(--blue);
    text-decoration: underline;
    text-underline-offset: 3px;
    cursor: pointer;
  }
`;

const Overlay = styled(ModalOverlay)`
  position: fixed;
  inset: 0;
  background: #17191bb3;
  display: grid;
  justify-items: center;
  align-items: start;
  padding-top: 9vh;
  z-index: 50;
`;

const Sheet = styled(Modal)`
  background: var(--paper);
  border: 3px solid var(--ink);
  width: min(720px, 94vw);
  max-height: 80vh;
  overflow: auto;
  padding: 20px 24px;
  ul {
    list-style: none;
    margin: 12px 0 0;
    padding: 0;
  }
  li a {
    display: grid;
    grid-template-columns: 90px 110px 1fr;
    padding: 9px 4px;
    border-bottom: 1px solid var(--g4);
    color: var(--ink);
    text-decoration: none;
  }
  li a:hover,
  li a:focus-visible {
    background: var(--wash);
  }
`;

/** Seen when the keyboard comes to it: past the route, to the page. */
const Skip = styled.a`
  position: absolute;
  left: 8px;
  top: -60px;
  z-index: 50;
  background: var(--ink);
  color: var(--paper);
  padding: 12px 18px;
  font-weight: 700;
  &:focus {
    top: 8px;
  }
`;

export function Shell() {
  const { person, signOut, switchTo } = useSession();
  const waiting = api.useQuery("get", "/api/rooms", undefined, { refetchInterval: 10_000 });
  const alarms = api.useQuery("get", "/api/alarms", undefined, { refetchInterval: 20_000 });
  const [finding, setFinding] = useState(false);
  const find = useCallback(() => setFinding(true), []);
  useEffect(() => {
    const later = setTimeout(() => void fetchRooms(), 3000);
    return () => clearTimeout(later);
  }, []);
  return (
    <Keys find={find} switchTo={switchTo}>
      <Frame>
        <Skip href="#page">To the page</Skip>
        <Rooms aria-label="Rooms">
          <Wordmark to="/today" aria-label="Juxta, to the day">
            juxta
          </Wordmark>
          {rooms.map((s) => {
            const at = waiting.data?.find((c) => c.room === s);
            return (
              <NavLink key={s} to={`/${s}`}>
                <b>{names[s]}</b>
                <small>{at?.summary ?? "…"}</small>
              </NavLink>
            );
          })}
          <Who>
            <Link to="/shop" aria-label={`${person.name}: people, log and your own secret`}>
              <b>{person.name}</b>
            </Link>
            <button type="button" onClick={signOut}>
              change person
            </button>
          </Who>
        </Rooms>
        {/* The page waits for the alarms, or it would jump under somebody's finger. */}
        {(alarms.data ?? alarms.error) && (
          <>
            <Alarms alarms={alarms.data ?? []} />
            <Catching>
              <Suspense
                fallback={
                  <Page>
                    <Loading />
                  </Page>
                }
              >
                <Outlet />
              </Suspense>
            </Catching>
          </>
        )}
      </Frame>
      {finding && <Find close={() => setFinding(false)} />}
    </Keys>
  );
}

const Bell = styled.div`
  background: var(--brick);
  padding: 8px 24px;
  font-weight: 700;
  font-size: 18px;
  a {
    color: var(--paper);
  }
`;

/** A freezer that is too warm is told on every page until a person has seen it. */
function Alarms({ alarms }: { alarms: Schemas["AlarmView"][] }) {
  const unseen = alarms.filter((a) => !a.seenAt);
  const first = unseen[0];
  if (!first) return null;
  return (
    <Bell role="alert">
      <Link to="/freezer/climate">
        ✕ {first.kind === "silent" ? `${first.sensor} is silent` : `${first.freezer} was too warm`} since{" "}
        {moment(first.raisedAt)}
        {first.endedAt ? `, over at ${moment(first.endedAt)}` : ", still"}
        {unseen.length > 1 && `, and ${unseen.length - 1} more`}: look and acknowledge
      </Link>
    </Bell>
  );
}

function Find({ close }: { close: () => void }) {
  const [q, setQ] = useState("");
  const navigate = useNavigate();
  const hits = api.useQuery("get", "/api/find", { params: { query: { q } } }, { enabled: q.trim() !== "" });
  const first = hits.data?.[0];
  return (
    <Overlay isOpen isDismissable onOpenChange={(open) => !open && close()}>
      <Sheet>
        <Dialog aria-label="Find anything" data-dialog>
          <form
            onSubmit={(e) => {
              e.preventDefault();
              if (first) {
                close();
                void navigate(first.path);
              }
            }}
          >
            <TextField label="Find by id, number, name, serial or batch" value={q} onChange={setQ} autoFocus />
          </form>
          <ul>
            {hits.data?.map((h) => (
              <li key={h.id}>
                <Link to={h.path} onClick={close}>
                  <Heading as="span">{h.kind}</Heading>
                  <b>{h.id}</b>
                  <span>{h.label}</span>
                </Link>
              </li>
            ))}
          </ul>
          {hits.data?.length === 0 && q.trim() !== "" && <Mark tone="attend">No match for “{q}”.</Mark>}
          <p style={{ marginTop: 14 }}>
            <Button $quiet onPress={close}>
              Close
            </Button>
          </p>
        </Dialog>
      </Sheet>
    </Overlay>
  );
}

/** Names the page for the window and for screen readers. */
export function useTitle(title: string) {
  useEffect(() => {
    document.title = `${title} · Juxta`;
  }, [title]);
}
