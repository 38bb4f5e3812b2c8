// The fuse: spent out-time solid, what the plan will still use hatched, what
// is left blank, and the moment it runs out as a clock time. It breaks when
// the plan passes the end.
import styled from "styled-components";
import type { Schemas } from "../contract/types";
import { moment, spell } from "./format";

const Bar = styled.div<{ $tall?: boolean }>`
  height: ${(p) => (p.$tall ? 26 : 15)}px;
  border: 1.5px solid var(--ink);
  display: flex;
  i {
    display: block;
    height: 100%;
    flex: none;
  }
  .spent {
    background: var(--ink);
  }
  .planned {
    background: repeating-linear-gradient(115deg, var(--g1) 0 1.5px, transparent 1.5px 6px);
  }
  &.broken {
    border-right: 0;
  }
`;

const Broken = styled.div`
  display: flex;
  align-items: stretch;
  > div:first-child {
    flex: 1;
    min-width: 0;
  }
  svg {
    flex: none;
    stroke: var(--brick);
    fill: none;
    stroke-width: 2.5;
  }
`;

const Words = styled.div<{ $tall?: boolean }>`
  display: flex;
  justify-content: space-between;
  gap: 10px;
  font-size: ${(p) => (p.$tall ? 16 : 13.5)}px;
  color: var(--g1);
  b {
    color: var(--ink);
  }
  .over {
    color: var(--brick);
    font-weight: 700;
  }
`;

export function Fuse({
  fuse,
  tall,
  ended,
  of = "Kit out-time",
}: {
  fuse: Schemas["OutTimeStatus"];
  tall?: boolean;
  ended?: boolean;
  /** What the tall fuse is called. */
  of?: string;
}) {
  if (!fuse.ages) return <small>does not age</small>;
  const over = fuse.left < 0;
  const total = Math.max(fuse.life, 1);
  const spent = Math.min(fuse.spent / total, 1);
  const planned = Math.max(0, Math.min(fuse.planned / total, 1 - spent));
  const until = ended
    ? "clock stopped at cure"
    : fuse.ended
      ? `ran out ${moment(fuse.runsOut)}`
      : fuse.out
        ? `runs out ${moment(fuse.runsOut)}`
        : `if taken out now, ${moment(fuse.runsOut)}`;
  const words = `${spell(fuse.spent)} spent of ${spell(fuse.life)}, ${spell(fuse.planned)} planned, ${
    over ? `over by ${spell(fuse.left)}` : `${spell(fuse.left)} left`
  }, ${until}`;
  const bar = (
    <Bar $tall={tall} className={over ? "broken" : undefined} role="img" aria-label={`Out-time: ${words}`}>
      <i className="spent" style={{ width: `${spent * 100}%` }} />
      <i className="planned" style={{ width: `${planned * 100}%` }} />
    </Bar>
  );
  return (
    <div>
      {tall && (
        <Words $tall>
          <span>{of}</span>
          <b>{until}</b>
        </Words>
      )}
      {over ? (
        <Broken>
          <div>{bar}</div>
          <svg width="16" height={tall ? 26 : 15} viewBox="0 0 16 15" preserveAspectRatio="none" aria-hidden="true">
            <path d="M2 0 L7 5 L2 9 L7 15 M9 0 L14 5 L9 9 L14 15" />
          </svg>
        </Broken>
      ) : (
        bar
      )}
      <Words $tall={tall}>
        <span>{spell(fuse.spent)} spent</span>
        {fuse.planned > 0 && <span>{spell(fuse.planned)} to cure start</span>}
        {over ? <span className="over">over by {spell(fuse.left)}</span> : <span>{spell(fuse.left)} left</span>}
      </Words>
      {!tall && (
        <Words>
          <b>{until}</b>
        </Words>
      )}
    </div>
  );
}
