// What is asked of a nest: which kits, from which rolls, and how it is cut.
import { useState } from "react";
import { useNavigate } from "react-router";
import styled from "styled-components";
import { api, useChange } from "../../app/api";
import { useKeys } from "../../app/keys";
import { Offer } from "../../app/Offer";
import { useSession } from "../../app/session";
import type { Schemas } from "../../contract/types";
import { Fuse } from "../../ui/Fuse";
import { moment, told } from "../../ui/format";
import { Button, Heading, Mark, NumberField, Refusal, Row, Rule, SelectField, Table } from "../../ui/parts";

type Demand = Schemas["CutDemand"];
type NewNest = Schemas["NewNest"];

/** A box to be ticked with gloves on. */
const box = { width: 22, height: 22, accentColor: "var(--blue)" };

const Choice = styled.label<{ $on: boolean; $passed: boolean }>`
  display: grid;
  grid-template-columns: 26px 110px 1fr;
  gap: 10px;
  align-items: center;
  padding: 8px 6px;
  min-height: 56px;
  border-bottom: 1px solid var(--g4);
  ${(p) => p.$on && "background: var(--wash);"}
  input {
    width: 22px;
    height: 22px;
    accent-color: var(--blue);
  }
`;

/** A build, or one operation of it. */
const keyOf = (b: Demand["builds"][number]) => (b.operation ? `${b.code} ${b.operation}` : b.code);

export function NewNest({ demand: all }: { demand: Demand }) {
  const navigate = useNavigate();
  const { may } = useSession();
  const start = useChange("/api/nests", (n) => void navigate(`/cut/${n.code}`));
  const [builds, setBuilds] = useState(all.builds.filter((b) => !b.misfit && !b.waits).map(keyOf));
  // The rolls are weighed for what is ticked: another width, other hours to cure.
  const some = api.useQuery(
    "get",
    "/api/cut",
    { params: { query: { builds } } },
    { enabled: builds.length > 0 && builds.length < all.builds.length, placeholderData: (before) => before },
  );
  const ticked =
    builds.length < all.builds.length ? some.data?.find((d) => d.materialId === all.materialId) : undefined;
  const demand = { ...all, rolls: (ticked ?? all).rolls };
  const fits = demand.rolls.filter((r) => !r.passed);
  const [chosen, setRoll] = useState("");
  const roll = demand.rolls.some((r) => r.code === chosen) ? chosen : (fits[0]?.code ?? "");
  const [more, setMore] = useState<string[]>([]);
  const also = more.filter((c) => c !== roll && demand.rolls.some((r) => r.code === c));
  const [whole, setWhole] = useState<string[]>([]);
  const [how, setHow] = useState<How>(usual);
  const choosy = also.length > 0 || how.leave;
  const go = () =>
    start.mutate({
      body: {
        roll,
        builds,
        ...(also.length > 0 ? { also, oneBatch: how.oneBatch } : {}),
        ...(choosy ? { whole: whole.filter((c) => builds.some((b) => b.split(" ")[0] === c)) } : {}),
        ...(how.kits ? { kits: how.kits } : {}),
        leave: how.leave,
        gap: how.gap,
        edgeTrim: how.edgeTrim,
        seconds: how.seconds,
      },
    });
  const why =
    builds.length === 0
      ? "Tick a kit first."
      : roll === ""
        ? "No roll fits: choose one, or tick other kits."
        : [how.gap, how.edgeTrim, how.seconds].some(Number.isNaN)
          ? "Fill gap, edge trim and seconds."
          : "";
  useKeys({
    Enter: { label: "search for the nest", run: go, off: why !== "" || start.isPending || !may("nest and cut") },
  });
  return (
    <>
      <KitsToCut
        demand={demand}
        builds={builds}
        setBuilds={setBuilds}
        choosy={choosy}
        whole={whole}
        setWhole={setWhole}
        roll={roll}
      />
      <Rule />
      <Heading>From which roll? First to expire that fits</Heading>
      <FirstRoll demand={demand} roll={roll} setRoll={setRoll} />
      {demand.rolls.length > 1 && roll && <MoreRolls roll={roll} also={also} demand={demand} setMore={setMore} />}
      <HowItIsCut how={how} onHow={setHow} several={also.length > 0} />
      <Refusal error={start.error} />
      <Row style={{ marginTop: 14 }}>
        <Offer act="nest and cut">
          <Button $bench onPress={go} why={why} isDisabled={start.isPending}>
            Nest {demand.builds.filter((b) => builds.includes(keyOf(b))).reduce((n, b) => n + b.plies, 0)} plies on{" "}
            {roll || "a roll"}
            {also.length > 0 && ` and ${also.length} more`}
          </Button>
        </Offer>
      </Row>
    </>
  );
}

/** What can be said of a nest besides; as most are cut until somebody says otherwise. */
type How = {
  gap: number;
  edgeTrim: number;
  seconds: number;
  kits: NonNullable<NewNest["kits"]> | "";
  oneBatch: boolean;
  leave: boolean;
};
const usual: How = { gap: 0.002, edgeTrim: 0.005, seconds: 10, kits: "", oneBatch: false, leave: false };

/** A figure as it is said, while something that is a figure stands in its field. */
const sure = (v: number, label: (v: number) => string) => (Number.isNaN(v) ? "–" : label(v));

function HowItIsCut({ how, onHow, several }: { how: How; onHow: (how: How) => void; several: boolean }) {
  const tick = (key: "oneBatch" | "leave", label: string) => (
    <label style={{ display: "flex", gap: 10, alignItems: "center", minHeight: 44 }}>
      <input
        type="checkbox"
        style={box}
        checked={how[key]}
        onChange={(e) => onHow({ ...how, [key]: e.target.checked })}
      />
      {label}
    </label>
  );
  const size = (label: string, key: "gap" | "edgeTrim") => (
    <div style={{ width: 150 }}>
      <NumberField
        label={label}
        value={+(how[key] * 1e3).toPrecision(9)}
        onChange={(v) => onHow({ ...how, [key]: v / 1e3 })}
        min={0}
        max={key === "gap" ? 50 : 200}
      />
    </div>
  );
  return (
    <details style={{ margin: "10px 0" }}>
      <summary style={{ minHeight: 44, display: "list-item", alignContent: "center" }}>
        How it is cut: gap {sure(how.gap, (v) => told.size(v, 1))}, edge trim{" "}
        {sure(how.edgeTrim, (v) => told.size(v, 1))}, {sure(how.seconds, (v) => `${v} s`)} to search
        {how.leave && ", what does not fit is left out"}
      </summary>
      <Row $top $gap={10}>
        {size("Gap for the knife, mm", "gap")}
        {size("Edge trim, mm", "edgeTrim")}
        <div style={{ width: 130 }}>
          <NumberField
            label="Search time, s"
            value={how.seconds}
            onChange={(seconds) => onHow({ ...how, seconds })}
            min={1}
            max={1200}
          />
        </div>
        <SelectField
          label="Like plies of a kit"
          value={how.kits}
          onChange={(e) => onHow({ ...how, kits: e.target.value as How["kits"] })}
        >
          <option value="">shortest length</option>
          <option value="together">close together</option>
          <option value="spread">spread out, so that a flaw spoils few</option>
        </SelectField>
      </Row>
      {tick("leave", "Leave out what does not fit: the kit due last first")}
      {several && tick("oneBatch", "All plies of a kit from one batch")}
    </details>
  );
}

/** What is to be cut, a kit a row. */
function KitsToCut({
  demand,
  builds,
  setBuilds,
  choosy,
  whole,
  setWhole,
  roll,
}: {
  demand: Schemas["CutDemand"];
  builds: string[];
  setBuilds: (value: string[] | ((prevState: string[]) => string[])) => void;
  choosy: boolean;
  whole: string[];
  setWhole: (value: string[] | ((prevState: string[]) => string[])) => void;
  roll: string;
}) {
  return (
    <Table style={{ marginTop: 12 }}>
      <thead>
        <tr>
          <th>Kit</th>
          <th className="n">Plies</th>
          <th className="n">Area</th>
          <th>Cure planned</th>
        </tr>
      </thead>
      <tbody>
        {demand.builds.map((b) => (
          <tr key={keyOf(b)}>
            <td>
              <KitChoice builds={builds} b={b} setBuilds={setBuilds} />
              {b.waits && (
                <>
                  <br />
                  <Mark tone="attend">{b.waits}</Mark>
                </>
              )}
              {b.shares.length > 0 && (
                <>
                  <br />
                  <small>nests well with {b.shares.join(", ")}</small>
                </>
              )}
              {choosy && builds.includes(keyOf(b)) && (
                <>
                  <br />
                  <label>
                    <input
                      type="checkbox"
                      style={box}
                      checked={whole.includes(b.code)}
                      onChange={(e) =>
                        setWhole(e.target.checked ? [...whole, b.code] : whole.filter((c) => c !== b.code))
                      }
                    />{" "}
                    <small>complete from {roll || "the first roll"}</small>
                  </label>
                </>
              )}
              {b.misfit && (
                <>
                  <br />
                  <Mark tone="attend">{b.misfit}</Mark>
                </>
              )}
            </td>
            <td className="n">{b.plies}</td>
            <td className="n">{told.area(b.area)}</td>
            <td>{moment(b.cureAt)}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** Other rolls for what does not fit on the first. */
function MoreRolls({
  roll,
  also,
  demand,
  setMore,
}: {
  roll: string;
  also: string[];
  demand: Schemas["CutDemand"];
  setMore: (value: string[] | ((prevState: string[]) => string[])) => void;
}) {
  return (
    <details style={{ margin: "10px 0" }}>
      <summary style={{ minHeight: 44, display: "list-item", alignContent: "center" }}>
        More rolls and off-cuts, used after {roll}
        {also.length > 0 && `: ${also.join(", ")}`}
      </summary>
      {demand.rolls
        .filter((r) => r.code !== roll)
        .map((r) => (
          <label key={r.code} style={{ display: "flex", gap: 10, alignItems: "center", minHeight: 44 }}>
            <input
              type="checkbox"
              checked={also.includes(r.code)}
              style={box}
              disabled={!also.includes(r.code) && also.length >= 7}
              onChange={(e) => setMore(e.target.checked ? [...also, r.code] : also.filter((c) => c !== r.code))}
            />
            <span>
              <b>{r.code}</b> {r.kind}, {told.run(r.length)}, {told.size(r.width, 0)} wide, batch {r.batch}
              {r.passed && (
                <>
                  {" "}
                  <Mark tone="stop">passed over: {r.passed}</Mark>
                </>
              )}
            </span>
          </label>
        ))}
    </details>
  );
}

/** The roll to nest on first. */
function FirstRoll({
  demand,
  roll,
  setRoll,
}: {
  demand: Schemas["CutDemand"];
  roll: string;
  setRoll: (value: string | ((prevState: string) => string)) => void;
}) {
  return (
    <div role="radiogroup" aria-label="Roll">
      {demand.rolls.map((r) => (
        <Choice key={r.code} $on={r.code === roll} $passed={r.passed !== undefined}>
          <input type="radio" name="roll" checked={r.code === roll} onChange={() => setRoll(r.code)} />
          <span>
            <b>{r.code}</b>
            <br />
            <small>{told.run(r.length)}</small>
          </span>
          <span>
            <Fuse fuse={r.outTime} />
            {r.passed && <Mark tone="stop">passed over: {r.passed}</Mark>}
          </span>
        </Choice>
      ))}
    </div>
  );
}

/** Whether a kit is nested. */
function KitChoice({
  builds,
  b,
  setBuilds,
}: {
  builds: string[];
  b: Schemas["CutBuild"];
  setBuilds: (value: string[] | ((prevState: string[]) => string[])) => void;
}) {
  return (
    <label>
      <input
        type="checkbox"
        style={box}
        checked={builds.includes(keyOf(b))}
        disabled={b.waits !== undefined}
        onChange={(e) => setBuilds(e.target.checked ? [...builds, keyOf(b)] : builds.filter((c) => c !== keyOf(b)))}
      />{" "}
      <b>
        {b.number} · {b.serial}
      </b>
      {b.label && b.label !== "cut" && <small> {b.label}</small>}
    </label>
  );
}
