// What the master says at a ply besides the ply: what is placed before it,
// cautions, hold points, who must hold which qualification, pictures.
import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../contract/types";
import { Mark, Row } from "../../ui/parts";
import { said } from "../../ui/units";

const noteWords = {
  first: "First place",
  note: "Note:",
  caution: "Caution:",
  hold: "Hold: stop until",
  second: "Two people:",
  picture: "",
} as const;

/** A picture beside the notes, large while it is looked at. */
const Picture = styled.button`
  padding: 0;
  border: 1px solid var(--g3);
  background: none;
  cursor: pointer;
  img {
    display: block;
    max-width: 100%;
    max-height: 104px;
  }
  &[aria-expanded="true"] {
    flex-basis: 100%;
  }
  &[aria-expanded="true"] img {
    max-height: 70vh;
  }
`;

/**
 * What the master says at this ply besides the ply. Where no ply comes next (0), what stands
 * after the last, or all that it says of a stage without any.
 */
export function BenchNotes({ v, at }: { v: Schemas["LayupView"]; at?: number | undefined | "" }) {
  const [large, setLarge] = useState<number | null>(null);
  const last = v.plies.at(-1)?.number ?? -1;
  const here = (n: number) => (at === 0 ? n > last : n === at);
  const mine = v.notes.filter((n) => here(n.ply) && n.kind !== "picture");
  const pictures = v.notes.filter((n) => here(n.ply) && n.picture);
  const demands = v.process.qualifications ?? [];
  if (mine.length + pictures.length + demands.length === 0) return null;
  return (
    <Row $gap={16} $top $between>
      <ul
        aria-label="Before and with this ply"
        style={{ listStyle: "none", margin: "6px 0", padding: 0, fontSize: 20, flex: 1 }}
      >
        {demands.length > 0 && (
          <li style={at === 1 ? undefined : { fontSize: 16 }}>
            <Mark tone={at === 1 ? "attend" : "plain"}>
              Qualifications to lay or bag this part: {demands.join(", ")}
            </Mark>
          </li>
        )}
        {mine.map((n) => (
          <li key={n.kind + n.text}>
            <Mark tone={n.kind === "note" || n.kind === "first" ? "plain" : "attend"}>
              {noteWords[n.kind]} {said(n.text)}
            </Mark>
          </li>
        ))}
      </ul>
      {pictures.map((n) => (
        <Picture
          key={n.picture}
          aria-expanded={large === n.picture}
          onClick={() => setLarge(large === n.picture ? null : (n.picture ?? null))}
        >
          <img src={`/api/files/${n.picture}`} alt={`Of ${/^\d/.test(n.text) ? `ply ${n.text}` : n.text}`} />
        </Picture>
      ))}
    </Row>
  );
}
