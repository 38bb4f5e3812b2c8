// The bag, its stack and its leak checks against the revision's limit.
import { useState } from "react";
import { Link } from "react-router";
import styled from "styled-components";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useKeys } from "../../app/keys";
import { Offer } from "../../app/Offer";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { ofOperation, still, useWork } from "../../app/useWork";
import { Fuse } from "../../ui/Fuse";
import { clock, moment, spell, told } from "../../ui/format";
import { Big, Button, Caution, Heading, Loading, Mark, NumberField, Refusal, Stack } from "../../ui/parts";
import { RouteSteps } from "../../ui/RouteSteps";
import { Seam, type Pair } from "../../ui/Seam";
import { ConfirmReading } from "../../ui/ConfirmReading";
import { Choices } from "../../ui/Choices";
import { said } from "../../ui/units";

const Layers = styled.ol`
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  max-width: 380px;
  display: flex;
  flex-direction: column-reverse;
  li {
    border: 1.5px solid var(--ink);
    border-top-width: 0;
    padding: 4px 10px;
    font-size: 18px;
  }
  li:last-child {
    border-top-width: 1.5px;
  }
  .part {
    background: repeating-linear-gradient(115deg, var(--g4) 0 2px, transparent 2px 8px);
  }
`;

/** The stack as it lies: the part below, the bag film on top. */
function StackOf({ layers, part, of }: { layers: string[]; part: string; of: string }) {
  return (
    <Layers aria-label={of}>
      <li className="part">
        <b>{part} on its tool</b>
      </li>
      {layers.map((l) => (
        <li key={l}>{l}</li>
      ))}
    </Layers>
  );
}

export function Bag() {
  const [given, setGiven] = useState("");
  const { code, operation, params } = useWork(given);
  const bag = api.useQuery("get", "/api/bag/{code}", { params }, still);
  const close = useChange("/api/bag/{code}/close");
  const bags = useSession().may("bag and check for leaks");
  const [stack, setStack] = useState("");
  const v = ofOperation(bag.data, operation);
  useTitle(v ? `Bag ${v.build.number} ${v.build.serial}` : "Bag");
  const chosen = stack || (v?.process.bagStack ?? "");
  if (v?.at && v.at.operation !== given) setGiven(v.at.operation);
  const ready = v?.open && !v.closedAt;
  useKeys({
    k: {
      label: "the bag is closed",
      run: () => close.mutate({ code, operation, body: { stack: chosen } }),
      off: !ready || !bags,
    },
  });
  if (!v) return <Loading error={bag.error} />;
  const b = v.build;
  const passed = v.checks.at(-1)?.pass;
  const limit = (
    <>
      Leak check {v.checks.length > 1 && "limit"}
      <span>
        at most <b>{told.vacuum(v.process.leakDrop)}</b> lost in <b>{spell(v.process.leakSeconds)}</b>, from{" "}
        <b>{told.vacuum(v.process.leakStart, 0)}</b> or deeper
      </span>
    </>
  );
  const pairs: Pair[] = v.checks.map((c) => ({
    key: c.at,
    planned: limit,
    difference: {
      label: `${told.vacuum(c.lost)}`,
      tone: c.pass ? "met" : "stop",
    },
    built: (
      <>
        <span>
          {clock(c.at)} <b>{told.vacuum(c.start)}</b> to <b>{told.vacuum(c.end)}</b> in {spell(c.seconds)}
        </span>
        <Mark tone={c.pass ? "met" : "stop"}>{c.pass ? "limit met" : "limit not met"}</Mark>
        <small>
          {c.person}: {said(c.message)}
        </small>
      </>
    ),
  }));
  if (pairs.length === 0) pairs.push({ key: "none", planned: limit, built: "None yet" });
  return (
    <Seam
      names={["As planned", "As built"]}
      differences={
        !v.closed
          ? []
          : v.closed.join() === v.planned.join()
            ? [{ label: "stack = plan", tone: "met" }]
            : [{ label: "other stack", tone: "attend" }]
      }
      pairs={pairs}
      planned={
        <Stack $gap={14}>
          <div>
            <Heading>
              {b.number} · serial {b.serial} · revision {b.letter} · as planned
            </Heading>
            <Big>{v.at ? v.at.label : `Bag “${v.process.bagStack}”`}</Big>
          </div>
          {v.at && <RouteSteps code={code} at={v.at} others={v.others} waits={v.waits} />}
          <StackOf layers={v.planned} part={b.number} of="The stack as planned, from the part outwards" />
        </Stack>
      }
      built={
        <Stack $gap={14}>
          <div>
            <Heading>As built</Heading>
            {v.closed && (
              <Big as="p">
                Closed by {v.closedBy}, {v.closedAt && moment(v.closedAt)}
              </Big>
            )}
          </div>
          {v.closed ? (
            <StackOf layers={v.closed} part={b.number} of="The stack as closed, from the part outwards" />
          ) : ready ? (
            <Offer act="bag and check for leaks">
              <Stack $gap={10}>
                <Choices
                  bench
                  label="Bag stack"
                  value={chosen}
                  onChange={setStack}
                  of={v.stacks.map((x) => ({ value: x.name, label: x.name }))}
                />
                <p>{v.stacks.find((s) => s.name === chosen)?.layers.join(" · ")}</p>
                <Button
                  $bench
                  onPress={() => close.mutate({ code, operation, body: { stack: chosen } })}
                  isDisabled={close.isPending}
                >
                  {v.stacks.find((x) => x.name === chosen)?.vacuum === false ? "It is closed" : "The bag is closed"}
                </Button>
              </Stack>
            </Offer>
          ) : (
            !v.at && (
              <p style={{ fontSize: 18 }}>
                Not yet: this build waits at <Link to={`/${b.room}/${code}`}>{b.room}</Link>.
              </p>
            )
          )}
          <Refusal error={close.error} />
        </Stack>
      }
      below={{
        planned: (
          <Stack $gap={14}>
            {b.outTime && <Fuse fuse={b.outTime} tall ended={b.run !== undefined} />}
            <p>
              At {told.run(v.altitude, 0)} no pump draws deeper than about {told.vacuum(v.deepest, 0)} (standard
              atmosphere).
            </p>
            <Caution>
              Put the vacuum fitting on breather, off the part. Vacuum lines and hot bags: follow the pump’s and the
              oven’s makers, and your local rules.
            </Caution>
          </Stack>
        ),
        built: (
          <>
            {v.closedAt && !v.vacuum && (
              <p style={{ fontSize: 18 }}>Nothing is drawn down by vacuum: there is nothing to check for leaks.</p>
            )}
            {v.closedAt && v.vacuum && !passed && !v.cured && (
              <Offer act="bag and check for leaks">
                <Check code={code} operation={operation} v={v} />
              </Offer>
            )}
            {v.closedAt && v.vacuum && passed && !v.cured && bags && (
              <details style={{ marginBottom: 14 }}>
                <summary style={{ minHeight: 44, fontSize: 18 }}>Check again: the last check decides</summary>
                <Check code={code} operation={operation} v={v} />
              </details>
            )}
            {(passed || (v.closedAt && !v.vacuum)) && !v.cured && (b.room === "cure" || v.at) && (
              <Link to="/cure">
                <b style={{ fontSize: 20 }}>To the oven</b>
              </Link>
            )}
          </>
        ),
      }}
    />
  );
}

function Check({ code, operation, v }: { code: string; operation: string; v: Schemas["BagView"] }) {
  const [start, setStart] = useState(NaN);
  const [end, setEnd] = useState(NaN);
  const [minutes, setMinutes] = useState(v.process.leakSeconds / 60);
  const check = useChange("/api/bag/{code}/leak", () => (setStart(NaN), setEnd(NaN)));
  const ready = start >= 0 && end >= 0 && minutes > 0;
  const why = !(start >= 0)
    ? "Type the vacuum at start."
    : !(end >= 0)
      ? "Type the vacuum at end."
      : "Type the minutes between.";
  const send = (sure = false) =>
    check.mutate({
      code,
      operation,
      body: { start: start * 1e3, end: end * 1e3, seconds: minutes * 60, ...(sure ? { sure } : {}) },
    });
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        if (ready) send();
      }}
    >
      <Stack $gap={10}>
        <Heading>Leak check: pump shut off</Heading>
        <div style={{ display: "grid", gridTemplateColumns: "1fr 1fr 1fr", gap: 12 }}>
          <NumberField bench label="Vacuum at start, kPa" value={start} onChange={setStart} min={0} max={101.325} />
          <NumberField bench label="Vacuum at end, kPa" value={end} onChange={setEnd} min={0} max={101.325} />
          <NumberField bench label="Minutes between" value={minutes} onChange={setMinutes} min={0.1} />
        </div>
        <Refusal error={check.error} />
        <ConfirmReading error={check.error} sure={() => send(true)} />
        <Button $bench type="submit" why={ready ? "" : why} isDisabled={check.isPending}>
          Record the leak check
        </Button>
      </Stack>
    </form>
  );
}
