// The off-cut store: what was kept of rolls, each drawn to one scale, with its size, its place and its clock.
import { useState } from "react";
import { Link } from "react-router";
import { api } from "../../app/api";
import { useTitle } from "../../app/shell";
import type { Schemas } from "../../contract/types";
import { Fuse } from "../../ui/Fuse";
import { told } from "../../ui/format";
import { HatchPattern, path } from "../../ui/Hatch";
import { Big, Empty, Heading, Loading, Mark, Page, Table, TextField } from "../../ui/parts";
import { FreezerTabs } from "./tabs";

type Roll = Schemas["RollView"];

/** Of a drawing at most, px. */
const wide = 240;
const high = 170;

export function OffCuts() {
  useTitle("Off-cuts");
  const [find, setFind] = useState("");
  const rolls = api.useQuery(
    "get",
    "/api/rolls",
    { params: { query: { kind: "off-cut", find, limit: 200 } } },
    { placeholderData: (before) => before },
  );
  if (!rolls.data) return <Loading error={rolls.error} />;
  const all = rolls.data.rolls;
  // One scale for all, so that sizes can be compared by eye.
  const longest = Math.max(0.1, ...all.flatMap((r) => outlineOf(r).map((q) => q[0])));
  const widest = Math.max(0.1, ...all.flatMap((r) => outlineOf(r).map((q) => q[1])));
  const scale = Math.min(wide / longest, high / widest);
  return (
    <>
      <FreezerTabs />
      <Page>
        <Heading>In stock</Heading>
        <Big>Off-cuts</Big>
        <div style={{ maxWidth: 320, margin: "10px 0" }}>
          <TextField label="Find by id, lot, material or place" value={find} onChange={setFind} />
        </div>
        {all.length === 0 && (
          <Empty>
            No off-cut {find ? "is called so" : "is kept"}. When a cut is recorded, what is left of the nest can be
            kept; a roll’s own page keeps any other piece.
          </Empty>
        )}
        {rolls.data.total > all.length && (
          <p>
            <Mark tone="attend">
              The first {all.length} of {rolls.data.total} are shown
            </Mark>
            : find others by what they are called.
          </p>
        )}
        {all.length > 0 && <OffCutTable all={all} scale={scale} />}
      </Page>
    </>
  );
}

const outlineOf = (r: Roll): [number, number][] =>
  r.outline?.length
    ? (r.outline as [number, number][])
    : [
        [0, 0],
        [r.length, 0],
        [r.length, r.width],
        [0, r.width],
      ];

function Shape({ roll, scale }: { roll: Roll; scale: number }) {
  const outline = outlineOf(roll);
  const tall = Math.max(...outline.map((q) => q[1])) * scale;
  const id = `off-${roll.code}`;
  return (
    <svg
      width={wide + 4}
      height={tall + 4}
      role="img"
      aria-label={`${roll.code}: ${told.size(roll.length, 0)} along the fibre, ${told.size(roll.width, 0)} across`}
    >
      <defs>
        <HatchPattern id={id} of={{ angleDeg: 0, woven: false, thickness: 2e-4, faceUp: true }} />
      </defs>
      <path
        d={path(
          outline,
          (v) => 2 + v * scale,
          (v) => 2 + tall - v * scale,
        )}
        fill={`url(#${id})`}
        stroke="var(--ink)"
        strokeWidth={1.5}
      />
    </svg>
  );
}

/** The off-cuts, each drawn at one scale. */
function OffCutTable({ all, scale }: { all: Schemas["RollView"][]; scale: number }) {
  return (
    <Table>
      <thead>
        <tr>
          <th>Shape</th>
          <th>Off-cut</th>
          <th className="n">Usable</th>
          <th>Material, lot</th>
          <th>Where</th>
          <th>Clock</th>
        </tr>
      </thead>
      <tbody>
        {all.map((r) => (
          <tr key={r.code}>
            <td>
              <Shape roll={r} scale={scale} />
            </td>
            <td>
              <Link to={`/freezer/${r.code}`}>
                <b>{r.code}</b>
              </Link>
              <br />
              <small>of {r.parent}</small>
            </td>
            <td className="n">
              {told.size(r.length, 0)} × {told.size(r.width, 0)}
              <br />
              <small>{told.area(r.length * r.width)}</small>
            </td>
            <td>
              {r.material}
              <br />
              <small>{r.batch}</small>
            </td>
            <td>
              {r.place}
              {r.outTime.out && (
                <>
                  <br />
                  <Mark tone="attend">out</Mark>
                </>
              )}
            </td>
            <td style={{ width: 250 }}>
              <Fuse fuse={r.outTime} />
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
