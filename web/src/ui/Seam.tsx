// The seam: left as planned, right as built, and on the line itself what
// differs between the two. Pairs are rows that line up across it.
import type { ReactNode } from "react";
import styled from "styled-components";
import { arrived } from "./arrival";

const Sheet = styled.main.attrs({ tabIndex: -1, ref: arrived })<{ $left: string; $rows: string }>`
  outline: none;
  display: grid;
  grid-template-columns: ${(p) => p.$left} 76px minmax(0, 1fr);
  grid-template-rows: ${(p) => p.$rows};
  flex: 1;
  min-height: 0;
  > section {
    padding: 16px 20px 28px 24px;
    min-width: 0;
  }
  > section.built {
    padding: 16px 24px 28px 6px;
  }
  > section.before-pairs {
    padding-bottom: 8px;
  }
  @media (max-width: 900px) {
    grid-template-columns: minmax(0, 1fr) 76px minmax(0, 1fr);
    grid-template-rows: none;
    align-content: start;
    > section,
    > section.built,
    > div {
      grid-column: 1 / -1;
    }
    > section,
    > section.built {
      padding: 14px 16px;
    }
  }
`;

const Line = styled.div`
  position: relative;
  &::before {
    content: "";
    position: absolute;
    left: 37px;
    top: 0;
    bottom: 0;
    border-left: 2px solid var(--ink);
  }
  @media (max-width: 900px) {
    border-top: 2px solid var(--ink);
    &::before {
      display: none;
    }
  }
`;

const Notes = styled.ul`
  list-style: none;
  margin: 0;
  padding: 150px 0 0;
  display: flex;
  flex-direction: column;
  gap: 26px;
  align-items: center;
  position: relative;
  @media (max-width: 900px) {
    flex-direction: row;
    padding: 6px 16px;
    gap: 10px;
  }
`;

const colours = { met: "--green", attend: "--ochre", stop: "--brick", plain: "--ink" } as const;

const Tag = styled.li<{ $colour: string }>`
  background: var(--paper);
  border: 2px solid var(${(p) => p.$colour});
  color: var(${(p) => p.$colour});
  font-size: 13px;
  font-weight: 700;
  line-height: 1.2;
  text-align: center;
  padding: 2px 3px;
  width: 68px;
  overflow-wrap: anywhere;
`;

/** The rows of a table that lie in the grid of the sheet. */
const Contents = styled.div`
  display: contents;
`;

const Cell = styled.div`
  padding: 8px 20px 8px 0;
  margin-left: 24px;
  border-bottom: 1px solid var(--g4);
  min-width: 0;
  align-self: stretch;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 4px 18px;
  &.built {
    margin: 0 24px 0 6px;
    padding-right: 0;
    justify-content: flex-start;
  }
  @media (max-width: 900px) {
    margin-left: 16px;
    padding-right: 10px;
    &.built {
      margin-right: 16px;
    }
  }
`;

const Knot = styled(Line)`
  display: grid;
  place-items: center;
  > span {
    position: relative;
    width: 76px;
    padding: 2px 0;
    font-size: 12.5px;
    white-space: nowrap;
  }
  @media (max-width: 900px) {
    border-top: 0;
    &::before {
      display: block;
    }
  }
`;

export type Difference = { label: string; tone: keyof typeof colours };

/** One thing as planned beside the same thing as built. */
export type Pair = { key: string; planned: ReactNode; built: ReactNode; difference?: Difference };

export function Seam({
  planned,
  built,
  differences = [],
  pairs = [],
  below,
  left = "minmax(0, 1fr)",
  names = ["As planned", "As built"],
}: {
  planned: ReactNode;
  built: ReactNode;
  differences?: Difference[];
  pairs?: Pair[];
  /** What stands under the pairs. */
  below?: { planned: ReactNode; built: ReactNode };
  left?: string;
  names?: [string, string];
}) {
  const above = pairs.length > 0 ? "before-pairs" : "";
  return (
    <Sheet $left={left} $rows={pairs.length > 0 || below ? `repeat(${pairs.length + 1}, auto) 1fr` : "1fr"}>
      <section aria-label={names[0]} className={above}>
        {planned}
      </section>
      <Line>
        {differences.length > 0 && (
          <Notes aria-label="Where the two differ">
            {differences.map((d) => (
              <Tag key={d.label} $colour={colours[d.tone]}>
                {d.label}
              </Tag>
            ))}
          </Notes>
        )}
      </Line>
      <section aria-label={names[1]} className={`built ${above}`}>
        {built}
      </section>
      {pairs.length > 0 && (
        <Contents role="table" aria-label={`${names[0]}, the difference, ${names[1].toLowerCase()}`}>
          {pairs.map((p) => (
            <Contents role="row" key={p.key}>
              <Cell role="rowheader">{p.planned}</Cell>
              <Knot role="cell">
                {p.difference && (
                  <Tag as="span" $colour={colours[p.difference.tone]}>
                    {p.difference.label}
                  </Tag>
                )}
              </Knot>
              <Cell role="cell" className="built">
                {p.built}
              </Cell>
            </Contents>
          ))}
        </Contents>
      )}
      {pairs.length > 0 && !below && <Line style={{ gridColumn: 2 }} />}
      {below && (
        <>
          <section aria-label={`${names[0]}, more`}>{below.planned}</section>
          <Line />
          <section aria-label={`${names[1]}, more`} className="built">
            {below.built}
          </section>
        </>
      )}
    </Sheet>
  );
}
