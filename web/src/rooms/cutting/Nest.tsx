// One nest: the best found so far drawn while it is searched, then cut files
// and the cut itself.
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { useChange } from "../../app/api";
import { useKeys } from "../../app/keys";
import { Offer } from "../../app/Offer";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { Fuse } from "../../ui/Fuse";
import { moment, percent, told } from "../../ui/format";
import {
  Big,
  Button,
  Caution,
  Heading,
  Key,
  LinkButton,
  Loading,
  Mark,
  Page,
  Refusal,
  Row,
  SelectField,
  Table,
  Spoken,
} from "../../ui/parts";
import { NestDrawing } from "../../ui/NestDrawing";
import { said } from "../../ui/units";
import { ByHand } from "./ByHand";
import { HandCuts } from "./HandCuts";
import { Knife, type Order, useKnifeWay } from "./Knife";
import { MarkFlaw, type Zone } from "./MarkFlaw";
import { OnTable } from "./OnTable";
import { Report } from "./Report";
import { handled, useHand } from "./useHand";
import { isCutting, useNest } from "./useNest";
import type { Schemas } from "../../contract/types";

export function Nest() {
  const { code = "" } = useParams();
  const navigate = useNavigate();
  const cuts = useSession().may("nest and cut");
  const { nest: n, error, searching, gone } = useNest(code);
  const stop = useChange("/api/nests/{code}/stop");
  const cut = useChange("/api/nests/{code}/cut");
  const [order, setOrder] = useState<Order>("shortest");
  const [shown, setShown] = useState(false);
  const [look, setLook] = useState("");
  const way = useKnifeWay(code, (n?.placed.length ?? 0) > 0 && !searching, order);
  const again = useChange("/api/nests", (line) => void navigate(`/cut/${line.code}`));
  const hand = useHand(n);
  const [zone, setZone] = useState<Zone | undefined>();
  const byHand = hand.on && !zone && n?.state === "done" && !isCutting(n);
  const missing = n?.placed.filter((p) => p.missing) ?? [];
  useTitle(`Nest ${code}`);
  useKeys({
    s: { label: "stop and keep the best", run: () => stop.mutate({ code }), off: !searching || !cuts },
    w: {
      label: "show the knife’s path",
      run: () => setShown((before) => !before),
      off: !n?.placed.length || searching,
    },
    Enter: {
      label: "count the first kit",
      run: () => n && void navigate(`/kits/${n.builds[0]?.code}`),
      off: n?.state !== "cut",
    },
  });
  if (!n) return <Loading error={error} />;
  return (
    <Page>
      <NestHead n={n} searching={searching} gone={gone} />
      {n.state !== "failed" && (
        <div style={{ margin: "8px 0 4px" }}>
          <NestDrawing
            nest={byHand ? { ...n, placed: hand.placed } : n}
            width={1232}
            way={shown && !byHand ? way.data : undefined}
            hand={byHand ? handled(hand) : undefined}
            zone={zone}
            onZone={zone && setZone}
            look={byHand || zone ? undefined : look}
            onLook={byHand || zone ? undefined : (id) => setLook((before) => (before === id ? "" : id))}
          />
        </div>
      )}
      {n.state === "done" && !isCutting(n) && (
        // One row of tools, so that what is done next stays in sight; what is opened has the page's width.
        <div
          style={
            hand.on || zone || n.stale
              ? undefined
              : { display: "flex", flexWrap: "wrap", alignItems: "center", gap: "0 12px" }
          }
        >
          {!hand.on && <MarkFlaw nest={n} zone={zone} onZone={setZone} />}
          {!zone && <ByHand nest={n} hand={hand} may={cuts} />}
        </div>
      )}
      {n.placed.length > 0 && !byHand && !zone && (
        <Row style={{ marginBottom: 8 }}>
          <SelectField label="Look at" value={look} onChange={(e) => setLook(e.target.value)}>
            <option value="">the whole sheet</option>
            {n.placed.map((p) => (
              <option key={p.id} value={p.id}>
                {p.label}
              </option>
            ))}
          </SelectField>
        </Row>
      )}
      <Row $top $gap={40}>
        <section aria-label="As planned" style={{ flex: "1 1 460px" }}>
          <Heading>As planned</Heading>
          <NestClocks n={n} />
          {n.rest && n.rest.width > 0 && (
            <p>
              Largest rectangle left within this length: {told.size(n.rest.width, 0)} along,{" "}
              {told.size(n.rest.height, 0)} across, from {told.run(n.rest.x)}.
            </p>
          )}
          {n.placed.length > 0 && !searching && (
            <>
              <Knife
                code={code}
                way={way}
                order={order}
                onOrder={setOrder}
                kits={n.builds.length}
                shown={shown}
                onShown={setShown}
              />
              {n.state === "done" && <HandCuts code={code} />}
            </>
          )}
          {n.others.map((o) => (
            <p key={o.roll}>
              {o.plies} {o.plies === 1 ? "ply" : "plies"} on {told.run(o.length)} of{" "}
              {o.nest ? (
                <>
                  {o.roll}: <Link to={`/cut/${o.nest}`}>nest {o.nest}</Link>
                </>
              ) : (
                <>{o.roll}: a nest of its own when the search has ended</>
              )}
              .
            </p>
          ))}
          {n.left.length > 0 && (
            <p>
              <Mark tone="stop">Left out</Mark>, for the cloth does not hold them: {n.left.join(", ")}. They wait to be
              cut.
            </p>
          )}
          {n.flaws.map((f) => (
            <p key={`${f.from} ${f.low ?? 0}`}>
              Flaw on the roll at {told.run(f.from)} to {told.run(f.to)}
              {f.high ? `, ${told.size(f.low ?? 0, 0)} to ${told.size(f.high, 0)} across,` : ""} is left out.
            </p>
          ))}
        </section>
        <section aria-label="As cut" style={{ flex: "1 1 420px" }}>
          <Heading>As cut</Heading>
          {n.message && n.state !== "failed" && <Mark tone="stop">{n.message}</Mark>}
          {n.cutAt ? (
            <p style={{ fontSize: 18, margin: "8px 0" }}>
              <Mark tone="met">Cut {moment(n.cutAt)}</Mark>: {n.placed.length - missing.length} plies carry the clock of{" "}
              {n.roll}.
            </p>
          ) : (
            !n.job && (
              <p style={{ margin: "8px 0" }}>
                Nothing cut yet.{n.state !== "failed" && " The nest is checked once more before it is recorded."}
              </p>
            )
          )}
          {missing.length > 0 && (
            <>
              <ul style={{ margin: "0 0 8px", paddingLeft: 20 }}>
                {missing.map((p) => (
                  <li key={p.id}>
                    <Mark tone="stop">
                      {p.label}: {p.missing}
                    </Mark>
                    , to be cut again
                  </li>
                ))}
              </ul>
              <Offer act="nest and cut">
                <Button
                  onPress={() =>
                    again.mutate({ body: { roll: n.roll, builds: [...new Set(missing.map((p) => p.build))] } })
                  }
                  isDisabled={again.isPending}
                >
                  Nest what is missing again on {n.roll}
                </Button>
              </Offer>
            </>
          )}
          <Refusal error={stop.error ?? cut.error ?? again.error} />
          {n.state === "done" && n.table && !byHand && <OnTable nest={n} order={order} may={cuts} />}
          {n.state === "released" && (
            <p style={{ margin: "8px 0" }}>
              Released. If it was cut all the same, say so: its plies are then there twice.
            </p>
          )}
          {(n.state === "done" || n.state === "released") && !isCutting(n) && !byHand && (
            <Report
              key={n.job?.state ?? "by hand"}
              nest={n}
              may={cuts}
              busy={cut.isPending}
              go={(body) => cut.mutate({ code, body })}
            />
          )}
          <Row style={{ marginTop: 10 }}>
            {searching && (
              <Offer act="nest and cut">
                <Button $bench onPress={() => stop.mutate({ code })} isDisabled={stop.isPending}>
                  Stop and keep
                </Button>
              </Offer>
            )}
            {n.state === "cut" && (
              <>
                <Link to={`/kits/${n.builds[0]?.code}`}>
                  <b style={{ fontSize: 20 }}>Count the kits</b>
                </Link>
                <LinkButton href={`/api/nests/${code}/labels.pdf`}>Labels, sheets of 24</LinkButton>
                <LinkButton href={`/api/nests/${code}/label.pdf`}>Labels, one by one</LinkButton>
              </>
            )}
          </Row>
          <Caution style={{ marginTop: 14 }}>
            Gloves on: resin sensitises skin. Keep hands off the knife while it is powered, as the cutter’s maker and
            your local rules say.
            {n.state === "done" && cuts && (
              <>
                {" "}
                <Key>K</Key> records the cut.
              </>
            )}
          </Caution>
        </section>
      </Row>
    </Page>
  );
}

/** What nest it is and where it stands. */
function NestHead({ n, searching, gone }: { n: Schemas["NestView"]; searching: boolean; gone: boolean }) {
  return (
    <Row $between>
      <div>
        <Heading>
          Nest {n.code} · {n.material} · roll {n.roll}, {told.size(n.width, 0)} wide, {told.run(n.rollLeft)} before the
          cut
        </Heading>
        <Big>
          {n.state === "failed" ? "No nest" : n.length ? `${told.run(n.length)} of roll` : "Searching"} for{" "}
          {n.builds.length} {n.builds.length === 1 ? "kit" : "kits"}
        </Big>
        {n.state === "failed" && (
          <div
            role="alert"
            style={{ border: "2px solid var(--brick)", padding: "10px 14px", marginTop: 10, fontSize: 18 }}
          >
            <Mark tone="stop">{n.message}</Mark>
            <p style={{ margin: "6px 0 0" }}>{said(n.advice)}</p>
            {n.wide.length > 0 && (
              <Row $gap={10} style={{ margin: "8px 0" }}>
                {n.wide.map((w) => (
                  <LinkButton key={`${w.part} ${w.ply} ${w.serial}`} href={`/parts/${w.part}?item=${w.item}`}>
                    Splice ply {w.ply} of {w.number} along the fibre
                  </LinkButton>
                ))}
              </Row>
            )}
            <Link to="/cut">
              <b>Back to what waits to be cut</b>
            </Link>
          </div>
        )}
      </div>
      <div style={{ textAlign: "right" }}>
        <Spoken>
          {searching ? "Searching" : `The search has ended: yield ${n.yield ? percent(n.yield, 1) : "–"} %`}
        </Spoken>
        Yield <b style={{ fontSize: 30 }}>{n.yield ? percent(n.yield, 1) : "–"} %</b> of at most {percent(n.atMost, 1)}{" "}
        %
        <br />
        {searching ? (
          <>
            {n.steps ? `${n.step} of ${n.steps} places sought` : `${n.step} places sought`}, {n.seconds.toFixed(0)}
            {n.limit ? ` of ${n.limit.toFixed(0)}` : ""} s {gone && "· connection lost, trying again"}
          </>
        ) : (
          <>
            {n.step} places sought in {n.seconds.toFixed(0)} s
          </>
        )}
      </div>
    </Row>
  );
}

/** The clock of each kit, if it is cut now. */
function NestClocks({ n }: { n: Schemas["NestView"] }) {
  return (
    <Table>
      <thead>
        <tr>
          <th>Kit</th>
          <th className="n">Plies</th>
          <th>{n.cutAt ? "Clock of the kit" : "Clock if cut now"}</th>
        </tr>
      </thead>
      <tbody>
        {n.builds.map((b) => (
          <tr key={b.code}>
            <td>
              <b>
                {b.number} · {b.serial}
              </b>{" "}
              <small>{b.code}</small>
            </td>
            <td className="n">{n.placed.filter((p) => p.build === b.code).length}</td>
            <td style={{ width: 260 }}>
              <Fuse fuse={b.outTime ?? n.rollOutTime} ended={b.run !== undefined} />
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
