// Where an operation stands, in a word with its sign.
import type { Schemas } from "../../contract/types";
import { moment, waitsFor } from "../../ui/format";
import { Mark } from "../../ui/parts";

type Stands = Schemas["RouteStep"] &
  Partial<Pick<Schemas["WorkStep"], "second" | "reason" | "waits" | "again" | "notGood">>;

export function OperationStatus({ o }: { o: Stands }) {
  const who = [o.by, o.since && moment(o.since)].filter(Boolean).join(", ");
  switch (o.state) {
    case "done":
      return (
        <Mark tone="met">
          done{who && `, ${who}`}
          {o.second && `, second ${o.second}`}
        </Mark>
      );
    case "left out":
      return (
        <Mark tone="attend">
          left out{who && `, ${who}`}
          {o.reason && `: ${o.reason}`}
        </Mark>
      );
    case "held":
      return (
        <Mark tone="stop">
          {o.notGood ? "not good" : "held"}, {who}: {o.reason}
        </Mark>
      );
    case "in work":
      return <Mark tone="attend">in work{who && `, ${who}`}</Mark>;
    case "ready":
      return <Mark tone="plain">ready</Mark>;
    default:
      return (
        <span style={{ color: "var(--g1)" }}>
          {o.waits && o.waits.length > 0 ? waitsFor(o.waits) : "not done yet"}
          {o.again && (
            <>
              {" "}
              <Mark tone="stop">signed, but an operation it depends on was taken back</Mark>
            </>
          )}
        </span>
      );
  }
}
