// The seam: left as planned, right as built, and on the line itself what
// differs between the two.
import type { ReactNode } from "react";
import styled from "styled-components";

const Sheet = styled.main<{ $left: string }>`
  display: grid;
  grid-template-columns: ${(p) => p.$left} 76px minmax(0, 1fr);
  flex: 1;
  min-height: 0;
  > section {
    padding: 16px 20px 28px 24px;
    min-width: 0;
  }
  > section:last-child {
    padding: 16px 24px 28px 6px;
  }
  @media (max-width: 900px) {
    grid-template-columns: minmax(0, 1fr);
    > section,
    > section:last-child {
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
    min-height: 44px;
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

export type Difference = { says: string; tone: keyof typeof colours };

export function Seam({
  planned,
  built,
  differences,
  left = "minmax(0, 1fr)",
  names = ["As planned", "As built"],
}: {
  planned: ReactNode;
  built: ReactNode;
  differences: Difference[];
  left?: string;
  names?: [string, string];
}) {
  return (
    <Sheet $left={left}>
      <section aria-label={names[0]}>{planned}</section>
      <Line>
        <Notes aria-label="Where the two differ">
          {differences.map((d) => (
            <Tag key={d.says} $colour={colours[d.tone]}>
              {d.says}
            </Tag>
          ))}
        </Notes>
      </Line>
      <section aria-label={names[1]}>{built}</section>
    </Sheet>
  );
}
