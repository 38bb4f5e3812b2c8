// The table, to be read from two metres: what the knife is at, what comes next, how long it takes.
import { Link, useParams } from "react-router";
import { useChange } from "../../app/api";
import { useKeys } from "../../app/keys";
import { Offer } from "../../app/Offer";
import { useTitle } from "../../app/shell";
import { NestDrawing } from "../../ui/NestDrawing";
import { Button, Heading, Loading, Mark, Page, Refusal, Row, Spoken } from "../../ui/parts";
import { leftOf } from "./OnTable";
import { isCutting, useNest } from "./useNest";

export function Table() {
  const { code = "" } = useParams();
  const { nest: n, error, gone } = useNest(code);
  const stop = useChange("/api/nests/{code}/table/stop");
  useTitle(`Table ${code}`);
  useKeys({ s: { label: "stop the knife", run: () => stop.mutate({ code }), off: !isCutting(n) } });
  if (!n) return <Loading error={error} />;
  const job = n.job;
  const cutting = isCutting(n);
  return (
    <Page>
      <Row $between $top>
        <div>
          <Heading>
            Nest {n.code} · {n.material} · roll {n.roll}
          </Heading>
          <div style={{ fontSize: 64, fontWeight: 700, lineHeight: 1.1 }}>
            {!job && "Not on the table"}
            {cutting && (job?.label ?? "Begins")}
            {job?.state === "done" && "The knife is through"}
            {(job?.state === "fault" || job?.state === "stopped") && (
              <Mark tone="stop">{job.message ? job.message : "Stopped"}</Mark>
            )}
          </div>
        </div>
        {job && (
          <div style={{ textAlign: "right", fontSize: 40, fontWeight: 700, lineHeight: 1.15, whiteSpace: "nowrap" }}>
            {job.freed.length} of {n.placed.length} cut
            {cutting && (
              <>
                <br />
                {leftOf(job)}
              </>
            )}
          </div>
        )}
      </Row>
      <Spoken>{job && `${job.freed.length} of ${n.placed.length} plies are cut free`}</Spoken>
      <div style={{ margin: "16px 0" }}>
        <NestDrawing nest={n} width={1232} />
      </div>
      <Refusal error={stop.error} />
      <Row>
        {cutting && (
          <Offer act="nest and cut">
            <Button $bench onPress={() => stop.mutate({ code })} isDisabled={stop.isPending}>
              Stop the knife
            </Button>
          </Offer>
        )}
        <Link to={`/cut/${code}`}>
          <b style={{ fontSize: 20 }}>Back to the nest</b>
        </Link>
        {gone && <Mark tone="attend">connection lost, trying again: the table goes on by itself</Mark>}
      </Row>
    </Page>
  );
}
