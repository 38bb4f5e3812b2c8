// The bench. One step at a time on the left, what was laid on the
// right. Readable from a metre away, worked with gloves, keys or a scanner.
import { useEffect, useRef, useState } from "react";
import styled from "styled-components";
import { api, client, useChange } from "../../app/api";
import { explain, type Schemas } from "../../contract/types";
import { asLabel, useKeys, useScan } from "../../app/keys";
import { useSay } from "../../ui/say";
import { Offer } from "../../app/Offer";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { ofOperation, still, useWork } from "../../app/useWork";
import { BenchNotes } from "./BenchNotes";
import { Bench, Foot, ToDebulk, ToLay, ToMeet, ToSign, Whole } from "./LayupStep";
import { Fuse } from "../../ui/Fuse";
import { angle, clock, plies as list, told, waitsFor } from "../../ui/format";
import { Button, Heading, Key, LinkButton, Loading, Mark, Refusal, Row, Stack, Table, TextField } from "../../ui/parts";
import { RouteSteps } from "../../ui/RouteSteps";
import { Seam, type Difference } from "../../ui/Seam";
import { said } from "../../ui/units";

type Layup = Schemas["LayupView"];
type Ply = Schemas["PlyView"];

/** What is pressed at the bench stays in reach, however much is to be read. */
const Hands = styled(Stack)`
  gap: 10px;
  position: sticky;
  bottom: 0;
  background: var(--paper);
  padding: 10px 0;
  @media (max-width: 900px) {
    border-top: 2px solid var(--ink);
  }
`;

/** Seconds that a signature can be called back before it is written. */
const grace = 2;

type Pending = { ply: number; cutPly: string; how: "scanned" | "chosen"; filmsOff: number; left: number };

export function Layup() {
  const [given, setGiven] = useState("");
  const { code, operation, params } = useWork(given);
  const { person, may, mayNot } = useSession();
  const mayLay = may("lay and debulk");
  const say = useSay();
  const layup = api.useQuery("get", "/api/layup/{code}", { params }, { refetchInterval: 15_000, ...still });
  const sign = useChange("/api/layup/{code}/sign");
  const takeBack = useChange("/api/layup/{code}/take-back", () => setAsking(null));
  const film = useChange("/api/layup/{code}/film");
  const refer = useChange("/api/layup/{code}/refer", () => setAsking(null));
  // The label that was scanned, and that the server knows as the next ply's.
  const [scanned, setScanned] = useState("");
  // Why the last scan was refused: until another is taken, or this is put aside, nothing is signed.
  const [refused, setRefused] = useState("");
  const [short, setShort] = useState(0);
  const [asking, setAsking] = useState<"back" | "refer" | null>(null);
  const [pending, setPending] = useState<Pending | null>(null);
  const v = ofOperation(layup.data, operation);
  if (v?.at && v.at.operation !== given) setGiven(v.at.operation);
  const next = v?.next;
  // What is not ready yet is looked at, and not signed.
  const waits = (v?.waits ?? []).length > 0 || v?.at?.state === "held";
  const lays = mayLay && !waits;
  const ply = next && !next.debulk && !next.demand ? v.plies.find((p) => p.number === next.ply) : undefined;
  useTitle(v ? `Layup ${v.build.number} ${v.build.serial}` : "Layup");

  const send = useRef((p: Pending) => {
    void p;
  });
  useEffect(() => {
    send.current = (p) => {
      setPending(null);
      const { ply, cutPly, how, filmsOff } = p;
      sign.mutate({ code, body: { ply, cutPly, how, filmsOff } }, { onSuccess: () => (setScanned(""), setShort(0)) });
    };
  });
  useEffect(() => {
    if (!pending) return;
    const t = setTimeout(
      () => (pending.left <= 1 ? send.current(pending) : setPending({ ...pending, left: pending.left - 1 })),
      1000,
    );
    return () => clearTimeout(t);
  }, [pending]);
  // Who leaves within the two seconds has signed: it is written, and said.
  const waiting = useRef<Pending | null>(null);
  useEffect(() => {
    waiting.current = pending;
  }, [pending]);
  useEffect(() => {
    const flush = () => {
      const p = waiting.current;
      waiting.current = null;
      if (!p) return;
      const { ply, cutPly, how, filmsOff } = p;
      void client
        .POST("/api/layup/{code}/sign", {
          params: { path: { code } },
          body: { ply, cutPly, how, filmsOff },
          keepalive: true,
        })
        .then(({ error }) =>
          say(error ? `Ply ${ply} is not signed: ${explain(error).message}` : `Ply ${ply} is signed.`, !error),
        );
    };
    window.addEventListener("pagehide", flush);
    return () => {
      window.removeEventListener("pagehide", flush);
      flush();
    };
  }, [code, say]);

  // Somebody else was first: there is nothing left to write.
  if (pending && v && pending.ply !== ply?.number) setPending(null);

  const label = scanned || (v?.nextCut ?? "");
  const press = () => {
    if (!ply || sign.isPending) return;
    if (pending) return send.current(pending);
    setPending({
      ply: ply.number,
      cutPly: label,
      how: scanned ? "scanned" : "chosen",
      filmsOff: ply.films - short,
      left: grace,
    });
  };
  useScan((id) => {
    if (!id.startsWith("C")) return false;
    if (!mayLay) return (say(mayNot("lay and debulk")), true);
    if (waits) return (say(`Not yet: ${v?.waits ? waitsFor(v.waits) : "it is held"}.`), true);
    sign.reset();
    const refuse = (why: string) => {
      setScanned("");
      setPending(null);
      setRefused(why);
    };
    // The server knows whose label that is: it is asked, and nothing is signed yet.
    void client
      .GET("/api/layup/{code}/expecting", { params: { path: { code }, query: { label: asLabel(id) } } })
      .then(({ data, error }) => {
        if (!data || !data.fits) return refuse(data ? data.message : explain(error).message);
        setRefused("");
        setScanned(data.cutPly);
        const films = v?.plies.find((p) => p.number === data.ply)?.films ?? 0;
        setPending({ ply: data.ply, cutPly: data.cutPly, how: "scanned", filmsOff: films - short, left: grace });
      })
      .catch((fault: unknown) => refuse(explain(fault).message));
    return true;
  });
  const last = v?.laid.at(-1);
  useKeys({
    Enter: {
      label: ply ? `sign ply ${ply.number}` : "sign",
      run: press,
      off: !ply || !lays || asking !== null || refused !== "",
    },
    f: {
      label: "one film is not off",
      run: () => setShort((s) => (s + 1) % ((ply?.films ?? 0) + 1)),
      off: !ply || !lays,
    },
    o: { label: "stop, refer", run: () => setAsking("refer"), off: !v || !may("refer a part") },
    Backspace: { label: "take back the last ply", run: () => setAsking("back"), hold: true, off: !last || !lays },
    Escape: { label: "call back", run: () => (setPending(null), setAsking(null), setScanned(""), setRefused("")) },
  });
  if (!v) return <Loading error={layup.error} />;

  const b = v.build;
  const differences: Difference[] = v.laid
    .filter((l) => l.filmsOff < l.films)
    .map((l) => ({ label: `ply ${l.ply}: ${l.films - l.filmsOff} film short`, tone: "stop" }));
  for (const t of v.takenBack.slice(-3)) differences.push({ label: `ply ${t.ply} taken back`, tone: "attend" });
  // What is not laid yet does not equal anything.
  if (last) differences.push({ label: `ply ${last.ply} = ${last.ply}`, tone: "met" });

  return (
    <Seam
      names={["As planned", "As built"]}
      differences={differences}
      planned={
        <>
          <Heading as="h1">
            {b.name} {b.number} · serial {b.serial} · revision {b.letter} · as planned
          </Heading>
          {v.at && <RouteSteps code={code} at={v.at} others={v.others} waits={v.waits} />}
          {v.preforms?.map((f) => (
            <p key={f.code} style={{ fontSize: 18, margin: "0 0 8px" }}>
              Pre-form {f.name}: its label is <b style={{ fontSize: 24 }}>{f.code}</b>{" "}
              <LinkButton href={`/api/preforms/${f.code}/label.pdf`}>Label, PDF</LinkButton>
            </p>
          ))}
          <BenchNotes v={v} at={ply?.number ?? (next && v.plies.length > 0 ? next.demand && next.ply : 0)} />
          {v.at?.single && v.steps.length === 0 ? (
            <ToSign v={v} code={code} />
          ) : ply ? (
            <ToLay v={v} ply={ply} />
          ) : next?.demand ? (
            <ToMeet key={next.demand + next.key} v={v} code={code} step={next} />
          ) : next ? (
            <ToDebulk v={v} code={code} operation={operation} after={next.ply} />
          ) : (
            <Whole v={v} />
          )}
        </>
      }
      built={
        <Stack $gap={10} style={{ minHeight: "100%" }}>
          <Heading>As built</Heading>
          <Laid v={v} />
          {v.filmsShort.length > 0 && (
            <Row>
              <Mark tone="stop">{list(v.filmsShort)}: a film is unaccounted for. Find it before the next debulk.</Mark>
              {lays && (
                <Button
                  $quiet
                  onPress={() => film.mutate({ code, body: { ply: v.filmsShort[0]! } })}
                  isDisabled={film.isPending}
                >
                  Film of ply {v.filmsShort[0]} found
                </Button>
              )}
            </Row>
          )}
          {ply && (
            <Bench>
              {scanned ? "Scanned" : "Expecting"} <b style={{ fontSize: 34 }}>ply {ply.number}</b>{" "}
              <span style={{ color: "var(--g1)" }}>
                {label}
                {!scanned && ", not scanned"}
              </span>
            </Bench>
          )}
          {refused && (
            <div role="alert" style={{ fontSize: 20 }}>
              <Mark tone="stop">{refused}</Mark>{" "}
              <Button $quiet onPress={() => setRefused("")}>
                Go on without it
              </Button>
            </div>
          )}
          <Refusal error={sign.error ?? takeBack.error ?? film.error ?? refer.error} />
          {b.outTime && <Fuse fuse={b.outTime} tall ended={b.run !== undefined} />}
          {v.plies.length > 0 && (
            <Foot $between>
              <span>
                Plies since debulk <b>{v.sinceDebulk}</b> of {v.process.debulkEvery}
              </span>
              <span>
                Laid <b>{v.laid.length}</b> of {v.plies.length}
              </span>
            </Foot>
          )}
          <div style={{ flex: 1 }} />
          <Hands>
            {asking ? (
              <Why
                key={asking}
                title={
                  asking === "back"
                    ? `Take back ply ${last?.ply}: why?`
                    : "Stop and refer: what should the engineer decide?"
                }
                send={(reason) =>
                  asking === "back"
                    ? takeBack.mutate({ code, body: { ply: last!.ply, reason } })
                    : refer.mutate({ code, operation, body: { reason } })
                }
                close={() => setAsking(null)}
              />
            ) : (
              <>
                <Offer act="lay and debulk">
                  {ply && (
                    <p style={{ fontSize: 17 }}>
                      Gloves on. Peel at 45°. <Key>Enter</Key> signs · <Key>F</Key> film missing · hold <Key>⌫</Key>{" "}
                      takes back
                    </p>
                  )}
                </Offer>
                {pending && (
                  <div role="status" style={{ border: "3px solid var(--blue)", padding: "10px 14px", fontSize: 20 }}>
                    Writing in <span aria-hidden="true">{pending.left} s</span>: <b>ply {pending.ply}</b> from{" "}
                    {pending.cutPly} ({pending.how}), {pending.filmsOff} of {ply?.films} films off, laid by{" "}
                    {person.name}. <Key>Esc</Key> calls it back.
                  </div>
                )}
                {ply && lays && (
                  <Button
                    $bench
                    onPress={press}
                    why={
                      refused !== ""
                        ? "The last scan was refused: scan the right label, or press Esc."
                        : label === ""
                          ? "No cut ply of it is counted: scan its label."
                          : undefined
                    }
                    isDisabled={sign.isPending}
                  >
                    {sign.isPending
                      ? `Writing ply ${ply.number} …`
                      : pending
                        ? "Write it now"
                        : `Sign ply ${ply.number}, ${films(ply, short)}`}
                  </Button>
                )}
                <Row>
                  {ply && lays && ply.films > 0 && !pending && (
                    <Button
                      $bench
                      $quiet
                      aria-pressed={short > 0}
                      onPress={() => setShort((short + 1) % (ply.films + 1))}
                    >
                      {short > 0 ? `${short} film missing` : "Film missing?"}
                    </Button>
                  )}
                  {pending ? (
                    <Button $bench $quiet onPress={() => setPending(null)}>
                      Call back
                    </Button>
                  ) : (
                    <>
                      {last && lays && (
                        <Button $bench $quiet onPress={() => setAsking("back")}>
                          Take back
                        </Button>
                      )}
                      {may("refer a part") && (
                        <Button $bench $quiet onPress={() => setAsking("refer")}>
                          Stop, refer
                        </Button>
                      )}
                    </>
                  )}
                </Row>
              </>
            )}
          </Hands>
        </Stack>
      }
    />
  );
}

function films(ply: Ply, short: number) {
  const off = ply.films - short;
  if (ply.films === 0) return "no film";
  if (off === ply.films) return ply.films === 1 ? "film off" : "both films off";
  return `${off} of ${ply.films} films off`;
}

/** The newest rows, debulks among them. */
function Laid({ v }: { v: Layup }) {
  const rows = [
    ...v.laid.map((l) => ({ at: l.at, l, d: undefined, m: undefined })),
    ...v.debulks.filter((d) => d.endedAt).map((d) => ({ at: d.endedAt!, l: undefined, d, m: undefined })),
    ...v.signedDemands.map((m) => ({ at: m.at, l: undefined, d: undefined, m })),
  ].sort((a, b) => a.at.localeCompare(b.at));
  if (rows.length === 0)
    return (
      <Table>
        <tbody>
          {Array.from({ length: 4 }, (_, i) => (
            <tr key={i}>
              <td>&nbsp;{i === 0 && "Nothing laid yet. The first signature stands here."}</td>
            </tr>
          ))}
        </tbody>
      </Table>
    );
  return (
    <Table>
      <thead>
        <tr>
          <th>Ply</th>
          <th className="n">Angle</th>
          <th>Cut ply, roll</th>
          <th>Films off</th>
          <th>Signed</th>
          <th className="n">At</th>
        </tr>
      </thead>
      <tbody>
        {rows.slice(-6).map(({ l, d, m, at }) =>
          l ? (
            <tr key={at + l.ply}>
              <td>
                <b>{l.ply}</b>
              </td>
              <td className="n">{angle(l.angleDeg)}</td>
              <td>
                {l.cutPly} <small>{[l.roll, l.how].filter(Boolean).join(", ")}</small>
              </td>
              <td>
                {l.filmsOff < l.films ? (
                  <Mark tone="stop">{`${l.filmsOff} of ${l.films}`}</Mark>
                ) : (
                  `${l.filmsOff} of ${l.films}`
                )}
              </td>
              <td>{l.person}</td>
              <td className="n">{clock(l.at)}</td>
            </tr>
          ) : m ? (
            <tr key={at + m.kind}>
              <td colSpan={4}>
                {m.kind === "hold" ? `hold point at ply ${m.ply}: ` : ""}
                {said(m.text)}{" "}
                {m.void ? <Mark tone="attend">its ply came off again</Mark> : <Mark tone="met">signed</Mark>}
              </td>
              <td>{m.person}</td>
              <td className="n">{clock(m.at)}</td>
            </tr>
          ) : (
            <tr key={at}>
              <td colSpan={4}>
                debulk after ply {d.afterPly}, {d.vacuum !== undefined && `${told.vacuum(d.vacuum, 0)}`}{" "}
                {d.counts ? <Mark tone="met">counts</Mark> : <Mark tone="attend">does not count</Mark>}
              </td>
              <td>{d.endedBy}</td>
              <td className="n">{clock(at)}</td>
            </tr>
          ),
        )}
      </tbody>
    </Table>
  );
}

function Why({ title, send, close }: { title: string; send: (reason: string) => void; close: () => void }) {
  const [reason, setReason] = useState("");
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        send(reason);
      }}
    >
      <Stack $gap={10}>
        <TextField label={title} value={reason} onChange={setReason} autoFocus isRequired />
        <Row>
          <Button $bench type="submit" why={reason.trim() === "" ? "Enter the reason." : ""}>
            Write it down
          </Button>
          <Button $bench $quiet onPress={close}>
            Cancel
          </Button>
        </Row>
      </Stack>
    </form>
  );
}
