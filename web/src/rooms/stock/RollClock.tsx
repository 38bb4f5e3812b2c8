// What is left of a roll, and how it thaws.
import type { Schemas } from "../../contract/types";
import { Fuse } from "../../ui/Fuse";
import { moment, spell } from "../../ui/format";
import { Mark, Row } from "../../ui/parts";

type Roll = Schemas["RollView"];

/** How a roll that is out and sealed is thawing, in words. */
export function Thaw({ r }: { r: Roll }) {
  if (!r.outSince || r.open) return null;
  const left = (at: string) => (new Date(at).getTime() - Date.now()) / 1000;
  if (r.dewAt && left(r.dewAt) > 0)
    return (
      <Mark tone="stop">
        sealed: keep shut until {moment(r.dewAt)}, {spell(left(r.dewAt))} more
      </Mark>
    );
  if (r.roomAt && left(r.roomAt) > 0)
    return (
      <Mark tone="attend">
        sealed, past the dew point; warm at {moment(r.roomAt)}, in {spell(left(r.roomAt))}
      </Mark>
    );
  return r.dewAt ? (
    <Mark tone="met">sealed, thawed: may be opened</Mark>
  ) : (
    <Mark tone="attend">sealed; the room is not measured</Mark>
  );
}

/** What is left of a roll, and why it is not to be used. */
export function RollClock({ r }: { r: Schemas["RollView"] }) {
  return (
    <div>
      <Fuse fuse={r.outTime} />
      {r.refusal && (
        <div>
          <Mark tone="stop">Not to be used: {r.refusal}</Mark>
        </div>
      )}
      {r.outSince ? (
        <Row $gap={10}>
          <Mark tone="attend">
            out since {moment(r.outSince)}
            {r.open && ", bag open"}
          </Mark>
          <Thaw r={r} />
        </Row>
      ) : (
        <small>
          {r.place || "no place"} · lot {r.batch}
        </small>
      )}
    </div>
  );
}
