// The points of an outline, typed.
import { useState } from "react";
import type { Schemas } from "../../contract/types";
import { readNumbers } from "../../ui/number";
import { Mark } from "../../ui/parts";
import { fromSize, inSize, shownNumber, unitName } from "../../ui/units";

type Corner = Schemas["Corner"];

/** Points typed as lines "x; y" or "x; y; arc" in the person's unit; the arc is its bulge. */
export function PointsField({ points, set }: { points: Corner[]; set: (points: Corner[]) => void }) {
  const shown = points
    .map((p) =>
      [inSize(p.x), inSize(p.y), ...(p.bulge ? [p.bulge] : [])].map((v) => shownNumber(+v.toFixed(5))).join("; "),
    )
    .join("\n");
  const [text, setText] = useState(shown);
  const [wrong, setWrong] = useState("");
  const keep = () => {
    const typed: Corner[] = [];
    for (const [k, line] of text.split("\n").entries()) {
      if (line.trim() === "") continue;
      const read = readNumbers(line);
      const v = "values" in read ? read.values : [];
      if (v.length < 2 || v.length > 3) {
        const why = "message" in read ? `: ${read.message}` : "";
        setWrong(
          `line ${k + 1}: “${line}” is not x; y in ${unitName("size")}, with the bulge of an arc after them if there is one${why}`,
        );
        return;
      }
      typed.push({ x: fromSize(v[0]!), y: fromSize(v[1]!), ...(v[2] ? { bulge: v[2] } : {}) });
    }
    setWrong("");
    set(typed);
  };
  return (
    <label>
      Points, one a line: x; y in {unitName("size")}; a third number makes an arc to the next point (its bulge: tangent
      of a quarter of the angle, 1 for a half circle anticlockwise)
      <br />
      <textarea
        value={text}
        rows={8}
        onChange={(e) => setText(e.target.value)}
        onBlur={keep}
        style={{
          font: "inherit",
          width: 320,
          background: "transparent",
          color: "inherit",
          border: "1.5px solid var(--ink)",
        }}
      />
      {wrong && (
        <div role="alert">
          <Mark tone="stop">{wrong}</Mark>
        </div>
      )}
    </label>
  );
}
