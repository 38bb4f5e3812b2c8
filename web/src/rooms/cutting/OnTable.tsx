// The nest on the cutting table: what the knife is at, what is cut, and what to do when it stops.
import { useState } from "react";
import { Link } from "react-router";
import { useChange } from "../../app/api";
import { useKeys } from "../../app/keys";
import { Offer } from "../../app/Offer";
import type { Schemas } from "../../contract/types";
import { spell } from "../../ui/format";
import { Button, Mark, NumberField, Refusal, Row, Spoken } from "../../ui/parts";
import type { Order } from "./Knife";
import { isCutting } from "./useNest";

/** What is still to go of a program, in words. */
export function leftOf(job: Schemas["CutJobView"]) {
  const left = job.toGo;
  return left < 90 ? `about ${Math.ceil(left / 5) * 5} s` : `about ${spell(left)}`;
}

export function OnTable({ nest: n, order, may }: { nest: Schemas["NestView"]; order: Order; may: boolean }) {
  const { code, job } = n;
  const hand = useChange("/api/nests/{code}/table");
  const stop = useChange("/api/nests/{code}/table/stop");
  const arrange = useChange("/api/nests/{code}/arrange");
  const [ends, setEnds] = useState(NaN);
  const cutting = isCutting(n);
  const go = (skip: string[]) => hand.mutate({ code, body: { byKit: order === "by kit", skip } });
  useKeys({
    t: { label: "cut on the table", run: () => go([]), off: !may || job !== undefined || hand.isPending },
    s: { label: "stop the knife", run: () => stop.mutate({ code }), off: !may || !cutting },
  });
  const total = n.placed.length;
  return (
    <section aria-label="Table">
      {job && <TableState cutting={cutting} job={job} total={total} code={code} />}
      <Spoken>{job && `${job.freed.length} of ${total} plies are cut free`}</Spoken>
      {job && n.again && !cutting && job.left.length > 0 && (
        <p style={{ margin: "6px 0" }}>
          <Mark tone="attend">Strike out what the pen has marked on plies that were moved</Mark>, before the knife goes
          on: the new marks are drawn beside them.
        </p>
      )}
      <Refusal error={hand.error ?? stop.error ?? arrange.error} />
      <Offer act="nest and cut">
        <Row style={{ margin: "8px 0" }}>
          {!job && (
            <Button $bench onPress={() => go([])} isDisabled={hand.isPending}>
              Cut on the table
            </Button>
          )}
          {cutting && (
            <Button $bench onPress={() => stop.mutate({ code })} isDisabled={stop.isPending}>
              Stop the knife
            </Button>
          )}
          {(job?.state === "fault" || job?.state === "stopped") && job.left.length > 0 && (
            <>
              {job.piece && job.left.length > 1 && (
                <Button $bench onPress={() => go([job.piece!])} isDisabled={hand.isPending}>
                  Go on without {job.label}
                </Button>
              )}
              <Button onPress={() => go([])} isDisabled={hand.isPending}>
                Go on with all {job.left.length} that are left
              </Button>
            </>
          )}
        </Row>
        {(job?.state === "fault" || job?.state === "stopped") && job.left.length > 0 && (
          <Row $gap={10} style={{ margin: "8px 0", alignItems: "end" }}>
            <div style={{ width: 220 }}>
              <NumberField label="Cloth is spoiled from, m" value={ends} onChange={setEnds} min={0} />
            </div>
            <Button
              $quiet
              isDisabled={arrange.isPending}
              onPress={() =>
                arrange.mutate({
                  code,
                  body: { spoiled: job.piece ? [job.piece] : [], ...(ends > 0 ? { endsAt: ends } : {}) },
                })
              }
            >
              Nest the rest anew round what is cut
            </Button>
          </Row>
        )}
      </Offer>
    </section>
  );
}

/** What the table does. */
function TableState({
  cutting,
  job,
  total,
  code,
}: {
  cutting: boolean;
  job: Schemas["CutJobView"];
  total: number;
  code: string;
}) {
  return (
    <p style={{ fontSize: 18, margin: "8px 0" }}>
      {cutting ? (
        <Mark tone="attend">{job.label ? `Knife at ${job.label}` : "On the table"}</Mark>
      ) : job.state === "done" ? (
        <Mark tone="met">The knife is through</Mark>
      ) : (
        <Mark tone="stop">
          {job.state === "stopped" ? "Stopped" : "The table stopped"}
          {job.label && ` at ${job.label}`}
          {job.message && `: ${job.message}`}
        </Mark>
      )}
      <br />
      {job.freed.length} of {total} plies are cut free{cutting && `, ${leftOf(job)} left`}.{" "}
      <Link to={`/cut/${code}/table`}>Large display</Link>
    </p>
  );
}
