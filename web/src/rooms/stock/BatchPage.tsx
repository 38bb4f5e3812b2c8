// One batch: how it came, its acceptance tests, and what is decided of it.
import { useState, type FormEvent } from "react";
import { Link, useParams } from "react-router";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { date, fieldTime, moment, signature, told } from "../../ui/format";
import {
  Big,
  Button,
  Heading,
  Loading,
  Mark,
  NumberField,
  Refusal,
  Row,
  Rule,
  Stack,
  Table,
  TextField,
} from "../../ui/parts";
import { Seam, type Difference, type Pair } from "../../ui/Seam";
import { Sign } from "../../ui/Sign";
import { FreezerTabs } from "./tabs";
import { said } from "../../ui/units";
import { Choices } from "../../ui/Choices";

type Batch = Schemas["BatchView"];
type Test = Schemas["AcceptanceLine"];

/** Whether a batch may be cut. */
export function BatchMark({ b }: { b: Batch }) {
  if (b.overrideAt) return <Mark tone="attend">may be cut by override</Mark>;
  if (b.quarantine) return <Mark tone="stop">quarantine</Mark>;
  if (b.state === "passed") return <Mark tone="met">accepted</Mark>;
  if (b.state === "failed") return <Mark tone="stop">rejected</Mark>;
  return <Mark tone="attend">waits for acceptance</Mark>;
}

const limits = (t: Test) =>
  t.least !== undefined && t.most !== undefined
    ? `${t.least} to ${t.most} ${t.unit}`
    : t.least !== undefined
      ? `at least ${t.least} ${t.unit}`
      : `at most ${t.most} ${t.unit}`;

export function BatchPage() {
  const { code = "" } = useParams();
  const batch = api.useQuery("get", "/api/batches/{code}", { params: { path: { code } } }, { refetchInterval: 20_000 });
  const { may } = useSession();
  const test = useChange("/api/batches/{code}/test");
  const b = batch.data;
  useTitle(b ? `Batch ${b.lot}` : "Batch");
  if (!b) return <Loading error={batch.error} />;
  const open = b.state === "pending";
  const pairs: Pair[] = [
    {
      key: "cold",
      planned: (
        <>
          <span>Temperature on arrival</span>
          <b>{b.storageMax ? `at most ${told.degrees(b.storageMax, 0)}` : "no limit given"}</b>
        </>
      ),
      built: <b>{b.arrivalTemp !== undefined ? `${told.degrees(b.arrivalTemp, 1)}` : "not measured"}</b>,
      difference: b.tooWarm ? { label: `+${told.rise(b.tooWarm)}`, tone: "stop" } : undefined,
    },
    ...b.tests.map((t): Pair => ({
      key: String(t.id),
      planned: (
        <>
          <span>{t.what[0]?.toUpperCase() + t.what.slice(1)}</span>
          <b>{limits(t)}</b>
        </>
      ),
      built: (
        <Found
          t={t}
          open={open && may("record acceptance tests")}
          keep={(value) => test.mutate({ code, body: { test: t.id, value } })}
        />
      ),
      difference: outside(t),
    })),
  ];
  return (
    <>
      <FreezerTabs />
      <Seam
        left="minmax(0, 0.9fr)"
        names={["Requirements", "Results"]}
        planned={
          <>
            <Heading>
              Batch of {b.material}
              {b.version > 1 && `, version ${b.version}`}
            </Heading>
            <Big>{b.lot}</Big>
          </>
        }
        built={
          <>
            <Heading>
              As received {date(b.receivedAt)} by {b.receivedBy || "nobody known"}
            </Heading>
            <p style={{ fontSize: 24 }}>
              <BatchMark b={b} />
            </p>
            <Refusal error={test.error} />
          </>
        }
        pairs={pairs}
        below={{
          planned: <HowItCame b={b} />,
          built: <BatchState b={b} may={may} />,
        }}
      />
    </>
  );
}

const outside = (t: Test): Difference | undefined =>
  t.off
    ? { label: `${t.off > 0 ? "+" : "−"}${Number(Math.abs(t.off).toPrecision(3))} ${t.unit}`, tone: "stop" }
    : undefined;

function Found({ t, open, keep }: { t: Test; open: boolean; keep: (value: number) => void }) {
  const [value, setValue] = useState(t.value ?? NaN);
  if (!open)
    return t.value === undefined ? (
      <span>not tested</span>
    ) : (
      <>
        <b>
          {t.value} {t.unit}
        </b>
        <Mark tone={t.met ? "met" : "stop"}>{t.met ? "met" : "not met"}</Mark> <small>{t.person}</small>
      </>
    );
  return (
    <Row $gap={8} style={{ alignItems: "flex-end" }}>
      <div style={{ width: 100 }}>
        <NumberField label={`Found, ${t.unit}`} value={value} onChange={setValue} />
      </div>
      <Button
        $quiet
        why={Number.isNaN(value) ? "Enter the result." : value === t.value ? "is written down" : ""}
        onPress={() => keep(value)}
        aria-label={`Write down ${t.what}`}
      >
        Write down
      </Button>
      {t.met !== undefined && (
        <span>
          <Mark tone={t.met ? "met" : "stop"}>{t.met ? "met" : "not met"}</Mark> <small>{t.person}</small>
        </span>
      )}
    </Row>
  );
}

function Decide({ b }: { b: Batch }) {
  const decide = useChange("/api/batches/{code}/decide", () => setReason(""));
  const retest = useChange("/api/batches/{code}/retest", () => setRetesting(false));
  const [reason, setReason] = useState("");
  const [what, setWhat] = useState<Schemas["BatchDecision"]["do"]>(
    b.quarantine ? "lift" : b.state === "pending" ? "accept" : "quarantine",
  );
  const [retesting, setRetesting] = useState(false);
  const [until, setUntil] = useState("");
  const [more, setMore] = useState(NaN);
  const words: Record<typeof what, string> = {
    accept: "Accept the batch",
    reject: "Reject the batch",
    quarantine: "Put it into quarantine",
    lift: "Lift the quarantine",
    override: "Release for cutting by override",
  };
  const offered = (Object.keys(words) as (typeof what)[]).filter(
    (w) =>
      (w !== "lift" || b.quarantine) && (w !== "accept" || b.state !== "passed") && (w !== "override" || b.blocked),
  );
  return (
    <Stack $gap={10}>
      <DecisionKinds
        retesting={retesting}
        what={what}
        setRetesting={setRetesting}
        setWhat={setWhat}
        offered={offered}
        words={words}
        b={b}
      />
      <TextField
        label={retesting ? "Number of the test report" : what === "accept" ? "Remark" : "Reason"}
        value={reason}
        onChange={setReason}
      />
      {retesting && (
        <Row $gap={10}>
          <TextField label="Shelf life now until" type="date" value={until} onChange={setUntil} />
          <div style={{ width: 160 }}>
            <NumberField label="More out-life, h" value={more} onChange={setMore} min={0} />
          </div>
        </Row>
      )}
      <Refusal error={decide.error ?? retest.error} />
      {retesting ? (
        <Sign
          action="Sign the re-test"
          why={
            reason.trim() === ""
              ? "Enter the reason."
              : until === "" && !(more > 0)
                ? "Enter the new end or the added out-life."
                : ""
          }
          busy={retest.isPending}
          sign={(pin) =>
            retest.mutate({
              code: b.code,
              body: {
                evidence: reason,
                pin,
                ...(until ? { until: new Date(until).toISOString() } : {}),
                ...(more > 0 ? { more: more * 3600 } : {}),
              },
            })
          }
        />
      ) : (
        <Sign
          action={`Sign: ${words[what].toLowerCase()}`}
          why={what !== "accept" && reason.trim() === "" ? "Enter the reason." : ""}
          busy={decide.isPending}
          sign={(pin) => decide.mutate({ code: b.code, body: { do: what, pin, ...(reason ? { reason } : {}) } })}
        />
      )}
    </Stack>
  );
}

/** What was entered wrongly when it came, put right with a reason. */
function CorrectReceipt({ b }: { b: Batch }) {
  const [open, setOpen] = useState(false);
  const correct = useChange("/api/batches/{code}/correct", () => setOpen(false));
  const day = (t?: string) => (t ? fieldTime(t).slice(0, 10) : "");
  const [lot, setLot] = useState(b.lot);
  const [made, setMade] = useState(day(b.madeOn));
  const [shelf, setShelf] = useState(day(b.shelfEnd));
  const [cold, setCold] = useState(b.arrivalTemp ?? NaN);
  const [reason, setReason] = useState("");
  if (!open)
    return (
      <div>
        <Button $quiet $small onPress={() => setOpen(true)}>
          Correct the receipt …
        </Button>
      </div>
    );
  const submit = (e: FormEvent) => {
    e.preventDefault();
    correct.mutate({
      code: b.code,
      body: {
        reason,
        ...(lot !== b.lot ? { lot } : {}),
        ...(made !== day(b.madeOn) && made ? { madeOn: new Date(made).toISOString() } : {}),
        ...(shelf !== day(b.shelfEnd) && shelf ? { shelfEnd: new Date(shelf).toISOString() } : {}),
        ...(Number.isNaN(cold) || cold === b.arrivalTemp ? {} : { arrivalTemp: cold }),
      },
    });
  };
  return (
    <form onSubmit={submit}>
      <Stack $gap={10}>
        <Heading>Corrected delivery: lengths are corrected in the ledgers of the rolls</Heading>
        <Row $gap={10} style={{ alignItems: "flex-end" }}>
          <TextField label="Lot" value={lot} onChange={setLot} />
          <TextField label="Made on" type="date" value={made} onChange={setMade} />
          <TextField label="Shelf life until" type="date" value={shelf} onChange={setShelf} />
          <div style={{ width: 160 }}>
            <NumberField kelvin label="Warmest on arrival, °C" value={cold} onChange={setCold} />
          </div>
        </Row>
        <TextField label="What was wrong" value={reason} onChange={setReason} isRequired />
        <Refusal error={correct.error} />
        <Row>
          <Button type="submit" why={reason.trim() === "" ? "Enter the reason." : ""} isDisabled={correct.isPending}>
            Correct it
          </Button>
          <Button $quiet onPress={() => setOpen(false)}>
            Cancel
          </Button>
        </Row>
      </Stack>
    </form>
  );
}

/** When a batch was made and how it came. */
function HowItCame({ b }: { b: Schemas["BatchView"] }) {
  return (
    <Stack $gap={10}>
      <p>
        {b.madeOn && <>Made on {date(b.madeOn)}. </>}
        {b.shelfEnd && (
          <>
            Shelf life in the freezer until <b>{date(b.shelfEnd)}</b>.
          </>
        )}
      </p>
      <p>
        {b.certificate ? (
          <a href={`/api/files/${b.certificate.id}`}>Certificate: {b.certificate.name}</a>
        ) : (
          <small>no certificate kept</small>
        )}
        {" · "}
        {b.transport ? (
          <a href={`/api/files/${b.transport.id}`}>Transport log: {b.transport.name}</a>
        ) : (
          <small>no transport log kept</small>
        )}
      </p>
      <Table>
        <thead>
          <tr>
            <th>Roll</th>
            <th className="n">Left</th>
            <th>Now</th>
          </tr>
        </thead>
        <tbody>
          {b.rolls.map((r) => (
            <tr key={r.code}>
              <td>
                <Link to={`/freezer/${r.code}`}>{r.code}</Link> {r.kind === "off-cut" && <small>off-cut</small>}
              </td>
              <td className="n">{told.amount(r.length, b.unit)}</td>
              <td>{r.length <= 0 ? "used up" : r.out ? "out" : "in"}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      <a href={`/api/batches/${b.code}/labels.pdf`} target="_blank" rel="noreferrer">
        Labels of all its rolls, PDF
      </a>
    </Stack>
  );
}

/** Whether a batch may be cut, and who said so. */
function BatchState({ b, may }: { b: Schemas["BatchView"]; may: (act: string) => boolean }) {
  return (
    <Stack $gap={12}>
      {b.blocked && <Mark tone="stop">Must not be cut: {b.blocked}</Mark>}
      {b.overrideAt && (
        <p>
          <Mark tone="attend">Override</Mark> by {b.overrideBy}, {moment(b.overrideAt)}: {b.overrideWhy}
        </p>
      )}
      {b.decidedAt && (
        <p>
          {b.state === "passed" ? "Accepted" : "Rejected"} by {b.decidedBy}, {moment(b.decidedAt)}
          {b.decision && `: ${b.decision}`}
        </p>
      )}
      {may("correct the ledger") && <CorrectReceipt b={b} />}
      {may("decide on batches") ? (
        <Decide b={b} />
      ) : (
        b.blocked && <p>A quality person decides: accept, reject, or override with a reason.</p>
      )}
      <Rule />
      <Table>
        <thead>
          <tr>
            <th>When</th>
            <th>What</th>
            <th>Who</th>
          </tr>
        </thead>
        <tbody>
          {b.log?.toReversed().map((l) => (
            <tr key={l.seq}>
              <td style={{ whiteSpace: "nowrap" }}>{moment(l.at)}</td>
              <td>
                {l.what} {signature(l) && <small>{signature(l)} </small>}
                {l.why && <small>{said(l.why)}</small>}
              </td>
              <td>{l.person}</td>
            </tr>
          ))}
        </tbody>
      </Table>
    </Stack>
  );
}

/** What can be decided of a batch. */
function DecisionKinds({
  retesting,
  what,
  setRetesting,
  setWhat,
  offered,
  words,
  b,
}: {
  retesting: boolean;
  what: "quarantine" | "accept" | "reject" | "lift" | "override";
  setRetesting: (value: boolean | ((prevState: boolean) => boolean)) => void;
  setWhat: (
    value:
      | "quarantine"
      | "accept"
      | "reject"
      | "lift"
      | "override"
      | ((
          prevState: "quarantine" | "accept" | "reject" | "lift" | "override",
        ) => "quarantine" | "accept" | "reject" | "lift" | "override"),
  ) => void;
  offered: ("quarantine" | "accept" | "reject" | "lift" | "override")[];
  words: { quarantine: string; accept: string; reject: string; lift: string; override: string };
  b: Schemas["BatchView"];
}) {
  return (
    <Choices
      label="Decision"
      value={retesting ? "retest" : what}
      onChange={(w) => {
        setRetesting(w === "retest");
        if (w !== "retest") setWhat(w);
      }}
      of={[
        ...offered.map((w) => ({ value: w, label: words[w] })),
        ...(b.rolls.some((r) => r.length > 0) ? [{ value: "retest" as const, label: "Re-tested" }] : []),
      ]}
    />
  );
}
