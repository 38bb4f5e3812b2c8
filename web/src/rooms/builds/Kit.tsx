// The plies of a kit, counted by scanning or clicking.
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { api, useChange } from "../../app/api";
import { explain, type Schemas } from "../../contract/types";
import { asLabel, useKeys, useScan } from "../../app/keys";
import { useSay } from "../../ui/say";
import { Offer } from "../../app/Offer";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { ofOperation, still, useWork } from "../../app/useWork";
import { Fuse } from "../../ui/Fuse";
import { angle, clock, moment, plies } from "../../ui/format";
import { KitItems } from "./KitItems";
import { VoidPly } from "./VoidPly";
import {
  Big,
  Button,
  Caution,
  Heading,
  Key,
  Loading,
  Mark,
  Refusal,
  Row,
  Select,
  Stack,
  Table,
  TextField,
} from "../../ui/parts";
import { RouteSteps } from "../../ui/RouteSteps";
import { Seam, type Difference } from "../../ui/Seam";

type KitPly = Schemas["KitPly"];

const Tick = styled(Button)`
  min-height: 44px;
  min-width: 132px;
  font-size: 17px;
`;

export function Kit() {
  const [given, setGiven] = useState("");
  const { code, operation, params } = useWork(given);
  const navigate = useNavigate();
  const say = useSay();
  const counts = useSession().may("count a kit");
  const kit = api.useQuery("get", "/api/kits/{code}", { params }, still);
  const [last, setLast] = useState<string>("");
  const count = useChange("/api/kits/{code}/count");
  const aside = useChange("/api/kits/{code}/aside");
  const item = useChange("/api/kits/{code}/item");
  const close = useChange("/api/kits/{code}/close");
  const out = useChange("/api/kits/{code}/out");
  const back = useChange("/api/kits/{code}/in");
  const k = ofOperation(kit.data, operation);
  if (k?.at && k.at.operation !== given) setGiven(k.at.operation);
  useTitle(k ? `Kit ${k.build.number} ${k.build.serial}` : "Kit");
  const countOne = (label: string) => {
    setLast(label);
    // Refusals are said at the foot of the screen: nothing moves under the next tap.
    count.mutate({ code, body: { cutPly: label } }, { onError: (e) => say(explain(e).message) });
  };
  const uncount = (label: string) =>
    aside.mutate({ code, body: { cutPly: label } }, { onError: (e) => say(explain(e).message) });
  useScan((id) => {
    if (!id.startsWith("C")) return false;
    countOne(asLabel(id));
    return true;
  });
  const items = k?.items ?? [];
  const uncounted = items.filter((i) => !i.countedAt);
  const whole = k !== undefined && k.missing.length === 0 && k.doubled.length === 0 && uncounted.length === 0;
  const [container, setContainer] = useState("");
  const sign = () => close.mutate({ code, operation, body: container.trim() ? { container } : {} });
  const open = k !== undefined && !k.countedAt;
  const freezers = api.useQuery("get", "/api/freezers");
  const [freezer, setFreezer] = useState(0);
  const into = freezer || (freezers.data?.[0]?.id ?? 0);
  const move = k?.inFreezer ? out : back;
  const moveIt = () =>
    k?.inFreezer ? out.mutate({ code, operation }) : back.mutate({ code, operation, body: { freezerId: into } });
  useKeys({
    k: {
      label: "sign the count",
      run: () => (whole ? sign() : say("The kit is not complete yet.")),
      off: !open || !counts,
    },
    u: {
      label: k?.inFreezer ? "take the kit out" : "put the kit into the freezer",
      run: moveIt,
      off: !k || (!k.at && k.build.laid > 0) || !counts,
    },
    Enter: { label: "lay it", run: () => void navigate(`/layup/${code}`), off: open },
  });
  if (!k) return <Loading error={kit.error} />;
  const b = k.build;
  const counted = k.plies.filter((p) => !p.missing).length + items.length - uncounted.length;
  const all = k.plies.length + items.length;
  const what =
    items.length === 0
      ? `${k.plies.length} plies`
      : k.plies.length === 0
        ? `${items.length} ${items.length === 1 ? "item" : "items"}`
        : `${k.plies.length} plies and ${items.length} ${items.length === 1 ? "item" : "items"}`;
  // On a route one kit is laid while another lies in the freezer: the shop knows which.
  const movable = k.plies.some((p) => p.cut.length > 0) && (k.at !== undefined || b.laid === 0);
  const differences: Difference[] = [
    ...(open && counted > 0 ? k.missing : [])
      .slice(0, 7)
      .map((n) => ({ label: `${n} missing`, tone: "stop" as const })),
    ...k.doubled.map((n) => ({ label: `${n} doubled`, tone: "stop" as const })),
    ...(k.countedAt ? [{ label: `${all} = ${counted}`, tone: "met" as const }] : []),
  ];
  return (
    <Seam
      left="minmax(0, 0.55fr)"
      names={["The kit as planned", "The kit as counted"]}
      differences={differences}
      planned={
        <Stack $gap={14}>
          <div>
            <Heading>
              {b.number} · serial {b.serial} · revision {b.letter}
            </Heading>
            <Big>{b.name}</Big>
          </div>
          {k.at && <RouteSteps code={code} at={k.at} others={k.others} waits={k.waits} />}
          <div style={{ fontSize: 22 }}>
            Counted
            <div style={{ fontSize: 76, fontWeight: 700, lineHeight: 1, letterSpacing: "-0.03em" }}>{counted}</div>
            of {what}
          </div>
          {b.outTime && <Fuse fuse={b.outTime} tall ended={b.run !== undefined} />}
          <Row>
            {counts && movable && (
              <Button $quiet onPress={moveIt} isDisabled={move.isPending}>
                {k.inFreezer ? "Take the kit out" : "Put the kit into"}
              </Button>
            )}
            {counts && !k.inFreezer && movable && (
              <Select aria-label="Which freezer" value={into} onChange={(e) => setFreezer(Number(e.target.value))}>
                {freezers.data?.map((f) => (
                  <option key={f.id} value={f.id}>
                    {f.name}
                  </option>
                ))}
              </Select>
            )}
            {k.inFreezer && <Mark tone="attend">in the freezer</Mark>}
          </Row>
          <Caution>
            Gloves on: skin oil and glove powder spoil the bond, resin sensitises skin. The supplier’s data sheet rules.
          </Caution>
        </Stack>
      }
      built={
        <Stack $gap={10}>
          <Row $between>
            <Heading>As counted</Heading>
            {open && counts && <span>Scan each label, or press its id.</span>}
          </Row>
          {(k.plies.length > 0 || items.length === 0) && (
            <Table>
              <thead>
                <tr>
                  <th>Ply</th>
                  <th>Material</th>
                  <th className="n">Angle</th>
                  <th>Roll</th>
                  <th>Counted</th>
                </tr>
              </thead>
              <tbody>
                {k.plies.length === 0 && items.length === 0 && (
                  <tr>
                    <td colSpan={5}>Nothing is planned for this kit: what it needs is counted by hand.</td>
                  </tr>
                )}
                {k.plies.map((p) => (
                  <Ply
                    key={p.number}
                    p={p}
                    open={open && counts}
                    signed={!open}
                    last={last}
                    count={countOne}
                    aside={uncount}
                  />
                ))}
              </tbody>
            </Table>
          )}
          {items.length > 0 && (
            <KitItems
              items={items}
              open={open && counts}
              busy={item.isPending}
              count={(one, from) =>
                item.mutate(
                  { code, operation, body: { item: one, ...(from ? { from } : {}) } },
                  { onError: (e) => say(explain(e).message) },
                )
              }
              aside={(one) => item.mutate({ code, operation, body: { item: one, aside: true } })}
            />
          )}
          {k.at && open && counts && (
            <div style={{ maxWidth: 300 }}>
              <TextField label="It lies in (tray, bag, box)" value={container} onChange={setContainer} />
            </div>
          )}
          {k.container && (
            <p>
              It lies in <b>{k.container}</b>.
            </p>
          )}
          <Refusal error={close.error ?? move.error} />
          {k.countedAt ? (
            <Row>
              <Mark tone="met">
                Counted by {k.countedBy}, {moment(k.countedAt)}
              </Mark>
              <Link to={`/layup/${code}`}>
                <b>To the bench</b>
              </Link>
            </Row>
          ) : (
            <Offer act="count a kit">
              <Row>
                <Button $bench isDisabled={!whole || close.isPending} onPress={sign}>
                  {whole
                    ? all === 0
                      ? "Sign: everything is there"
                      : `Sign: ${what}, none missing`
                    : k.missing.length > 0
                      ? `${sentence(plies(k.missing))} missing`
                      : k.doubled.length > 0
                        ? `${sentence(plies(k.doubled))} doubled`
                        : `Not counted yet: ${uncounted.length} besides the plies`}
                </Button>
                <span>
                  <Key>K</Key> signs
                </span>
              </Row>
            </Offer>
          )}
          <VoidPly code={code} kit={k} />
        </Stack>
      }
    />
  );
}

const sentence = (s: string) => (s.length > 40 ? "Plies" : s[0]!.toUpperCase() + s.slice(1));

function Ply({
  p,
  open,
  signed,
  last,
  count,
  aside,
}: {
  p: KitPly;
  /** The count is open, and whoever looks at it may count. */
  open: boolean;
  signed: boolean;
  last: string;
  count: (label: string) => void;
  aside: (label: string) => void;
}) {
  return (
    <tr className={p.cut.some((c) => c.code === last) ? "on" : undefined}>
      <td>
        <b style={{ fontSize: 19 }}>{p.number}</b>
      </td>
      <td>
        {p.material} <small>{p.shape}</small>
      </td>
      <td className="n">{angle(p.angleDeg)}</td>
      <td>{[...new Set(p.cut.map((c) => c.roll))].join(", ")}</td>
      <td>
        <Row $gap={8}>
          {p.cut.length === 0 && <Mark tone="attend">not cut yet</Mark>}
          {p.cut.map((c) =>
            c.counted ? (
              <span key={c.code}>
                <Mark tone={p.doubled ? "stop" : "met"}>{c.code}</Mark>{" "}
                {open && (
                  <Button
                    $quiet
                    $small={!p.doubled}
                    onPress={() => aside(c.code)}
                    aria-label={p.doubled ? `Set ${c.code} aside` : `Not counted: ${c.code}`}
                  >
                    {p.doubled ? `Set ${c.code} aside` : "Not counted"}
                  </Button>
                )}
              </span>
            ) : open ? (
              <Tick key={c.code} $quiet onPress={() => count(c.code)} aria-label={`Count ${c.code}, ply ${p.number}`}>
                {c.code}
              </Tick>
            ) : (
              <small key={c.code}>
                {c.code} cut {clock(c.cutAt)}, not {signed ? "in the kit" : "counted yet"}
              </small>
            ),
          )}
        </Row>
      </td>
    </tr>
  );
}
