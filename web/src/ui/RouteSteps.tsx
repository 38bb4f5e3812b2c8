// The operations of one build in a room, beside each other: where the page stands, what the
// others are, and what this one still waits for.
import { waitsFor } from "./format";
import { Link } from "react-router";
import styled from "styled-components";
import type { Schemas } from "../contract/types";
import { Mark } from "./parts";

type Step = Schemas["RouteStep"];

const Steps = styled.nav`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin-bottom: 8px;
  a {
    display: inline-flex;
    align-items: center;
    gap: 6px;
    min-height: 44px;
    color: var(--ink);
    border-bottom: 3px solid transparent;
    text-decoration: none;
  }
  a[aria-current="page"] {
    border-bottom-color: var(--ink);
    font-weight: 700;
  }
`;

const signs: Record<Step["state"], string> = {
  waiting: "…",
  ready: "▸",
  "in work": "◐",
  held: "✕",
  done: "✓",
  "left out": "–",
};

/** Where an operation is worked on. */
export const placeOf = (code: string, s: Step) =>
  s.single || ["finish", "release", "cut", "cure"].includes(s.room)
    ? s.kind === "release"
      ? `/release/${code}`
      : !s.single && (s.room === "cut" || s.room === "cure")
        ? `/${s.room}`
        : `/finish/${code}?operation=${encodeURIComponent(s.operation)}`
    : `/${s.room}/${code}?operation=${encodeURIComponent(s.operation)}`;

export function RouteSteps({
  code,
  at,
  others,
  waits,
}: {
  code: string;
  at: Step;
  others?: Step[] | undefined;
  waits?: string[] | undefined;
}) {
  return (
    <>
      <Steps aria-label="Operations of this build here">
        {others?.map((s) => (
          <Link
            key={s.operation}
            to={placeOf(code, s)}
            replace
            aria-current={s.operation === at.operation ? "page" : undefined}
          >
            <span aria-hidden="true">{signs[s.state]}</span>
            {s.number} {s.label}
            <small>{s.state}</small>
          </Link>
        ))}
        <Link to={`/finish/${code}?operation=${encodeURIComponent(at.operation)}`}>Route of this build</Link>
      </Steps>
      {at.single && at.state === "in work" && ["kits", "layup", "bag"].includes(at.room) && (
        <p style={{ margin: "0 0 8px", fontSize: 18 }}>
          <Mark tone="attend">It is not over yet:</Mark>{" "}
          <Link to={placeOf(code, at)}>sign what this operation records</Link>
        </p>
      )}
      {waits && waits.length > 0 && (
        <p style={{ margin: "0 0 8px" }}>
          <Mark tone="attend">Not yet: {waitsFor(waits)}.</Mark>
        </p>
      )}
      {at.state === "held" && (
        <p style={{ margin: "0 0 8px" }}>
          <Mark tone="stop">It is held. Resume it on the route of this build.</Mark>
        </p>
      )}
    </>
  );
}
