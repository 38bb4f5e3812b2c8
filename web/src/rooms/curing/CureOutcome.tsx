// Cure of the part: every limit with what was found, what to look at, and the temperature through the thickness.
import { useEffect, useRef } from "react";
import { Heading, Mark, Stack, Table } from "../../ui/parts";
import { percent, spell, told } from "../../ui/format";
import { plain, said } from "../../ui/units";
import type { Forecast } from "./useForecast";

type Held = Forecast["held"][number];

/** A figure of a limit in the person's words. */
export function amount(kind: Held["kind"], v: number) {
  switch (kind) {
    case "temperature":
      return told.degrees(v, 1);
    case "rise":
      return told.rise(v, 1);
    case "pressure":
      return told.pressure(v);
    case "force":
      return `${plain(v / 1e3, 0)} kN`;
    case "size":
      return told.size(v, 2);
    case "rate":
      return `${told.rise(v * 60, 1)}/min`;
  }
  return `${percent(v, 1)} %`;
}

export function CureOutcome({ f }: { f: Forecast }) {
  return (
    <Stack $gap={14}>
      <div>
        <Heading>Cure of the part</Heading>
        <Table>
          <tbody>
            {f.held.map((h) => (
              <tr key={h.what}>
                <td>
                  {h.what}
                  {f.sections.length > 1 && h.section >= 0 && <small> {f.sections[h.section]!.name}</small>}
                </td>
                <td className="n">
                  <b>{amount(h.kind, h.found)}</b>
                </td>
                <td style={{ whiteSpace: "nowrap" }}>
                  <Mark tone={h.met ? "met" : "stop"}>
                    {`${h.atLeast ? "at least" : "at most"} ${amount(h.kind, h.limit)}`}
                  </Mark>
                </td>
              </tr>
            ))}
            {f.sections.map((s) => (
              <tr key={`felt ${s.name}`}>
                <td>{f.sections.length > 1 ? s.name : "besides"}</td>
                <td colSpan={2}>
                  hottest {told.degrees(s.hottest, 1)}, {told.rise(s.overshoot, 1)} above its set point,{" "}
                  {told.rise(s.spread, 1)} apart; cured to {percent(s.cure, 1)} %
                  {s.glass !== undefined && `, Tg ${told.degrees(s.glass, 0)}`}
                </td>
              </tr>
            ))}
            {f.sections.map((s) => (
              <tr key={s.name}>
                <td>{f.sections.length > 1 ? `gel, ${s.name}` : "gel, first to last"}</td>
                <td className="n" colSpan={2} style={{ textAlign: "left" }}>
                  {s.gelBegins === undefined
                    ? "not within this cure"
                    : `${spell(s.gelBegins)} to ${s.gelled === undefined ? "not everywhere" : spell(s.gelled)}`}
                </td>
              </tr>
            ))}
            {f.from !== undefined && f.to !== undefined && (
              <tr>
                <td>pressure may go on</td>
                <td colSpan={2}>{f.to > f.from ? `${spell(f.from)} to ${spell(f.to)}` : "at no time"}</td>
              </tr>
            )}
            <tr>
              <td>energy into equipment and parts</td>
              <td colSpan={2}>
                {f.energy > 0
                  ? `${plain(f.energy / 3.6e6, 1)} kWh`
                  : "not known: no area, and no heat that the air takes"}
              </td>
            </tr>
          </tbody>
        </Table>
      </div>
      {f.findings.length > 0 && (
        <div>
          <Heading>To check</Heading>
          {f.findings.map((x) => (
            <p key={x.rule + x.message} style={{ margin: "6px 0" }}>
              <Mark tone="attend">{x.message}</Mark>
              <br />
              {said(x.advice)}
            </p>
          ))}
        </div>
      )}
    </Stack>
  );
}

/** The colour that the page writes in there. */
const ink = (of: Element) => {
  const [r = 0, g = 0, b = 0] = (getComputedStyle(of).color.match(/[\d.]+/g) ?? []).map(Number);
  return [r, g, b] as const;
};

/** By how much each place is hotter or colder than the mean at that time: darker is hotter, the tool side is down. */
export function Through({ f, section }: { f: Forecast; section: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const s = f.sections[section]!;
  useEffect(() => {
    const c = canvas.current;
    const to = c?.getContext("2d");
    if (!c || !to) return;
    const rows = s.shares.length;
    c.width = s.times.length;
    c.height = rows;
    const [r, g, b] = ink(c);
    const picture = to.createImageData(c.width, rows);
    s.through.forEach((row, i) => {
      const mean = row.reduce((sum, k) => sum + k, 0) / rows;
      row.forEach((k, j) => {
        // Nine steps are told apart better than a slope.
        const share = Math.min(1, Math.max(0, Math.round(4 + ((k - mean) / Math.max(0.5, s.spread)) * 8) / 8));
        picture.data.set([r, g, b, share * 255], 4 * ((rows - 1 - j) * c.width + i));
      });
    });
    to.putImageData(picture, 0, 0);
  }, [s]);
  return (
    <figure style={{ margin: 0 }}>
      <Heading>Through the thickness{f.sections.length > 1 && `: ${s.name}`}</Heading>
      <canvas
        ref={canvas}
        role="img"
        style={{ width: "100%", height: 120, imageRendering: "pixelated", border: "1.5px solid var(--ink)" }}
        aria-label={`Through the thickness: most ${told.rise(s.spread)} apart, after ${spell(s.spreadAt)}`}
      />
      <figcaption>
        <small>
          tool side down, time to the right; darker is hotter than the mean at that time, lighter colder; most{" "}
          {told.rise(s.spread)} apart after {spell(s.spreadAt)}
        </small>
      </figcaption>
    </figure>
  );
}
