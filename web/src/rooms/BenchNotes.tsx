// What the master says at a ply besides the ply: what is placed before it,
// cautions, hold points, who must hold which qualification, pictures.
import type { Schemas } from "../app/api";
import { Mark } from "../ui/parts";

const noteWords = {
  first: "First place",
  note: "Note",
  caution: "Caution",
  hold: "Hold: stop until",
  second: "Two people:",
  picture: "Picture of",
} as const;

/** What the master says at this ply besides the ply. */
export function BenchNotes({ v, at }: { v: Schemas["LayupView"]; at?: number }) {
  const mine = v.notes.filter((n) => n.ply === at && n.kind !== "picture");
  const pictures = v.notes.filter((n) => n.ply === at && n.picture);
  const demands = at === 1 ? (v.process.qualifications ?? []) : [];
  if (mine.length + pictures.length + demands.length === 0) return null;
  return (
    <ul aria-label="Before and with this ply" style={{ listStyle: "none", margin: "6px 0", padding: 0, fontSize: 20 }}>
      {demands.length > 0 && (
        <li>
          <Mark tone="attend">Whoever lays or bags this part must hold: {demands.join(", ")}</Mark>
        </li>
      )}
      {mine.map((n) => (
        <li key={n.kind + n.says}>
          <Mark tone={n.kind === "note" || n.kind === "first" ? "plain" : "attend"}>
            {noteWords[n.kind]} {n.says}
          </Mark>
        </li>
      ))}
      {pictures.map((n) => (
        <li key={n.picture}>
          <img
            src={`/api/files/${n.picture}`}
            alt={`Of ${/^\d/.test(n.says) ? `ply ${n.says}` : n.says}`}
            style={{ maxWidth: "100%", maxHeight: 200 }}
          />
        </li>
      ))}
    </ul>
  );
}
