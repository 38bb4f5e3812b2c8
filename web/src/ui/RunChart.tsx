// A cure run: the plan as a band, the record as lines, by time of the oven's
// clock. The lagging part sensor, which rules, is the heavy line.
import { useEffect, useRef } from "react";
import styled from "styled-components";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import type { Schemas } from "../contract/types";
import { unitName, value } from "./units";

type Props = {
  plan: Schemas["PlanPoint"][];
  samples: Schemas["Sample"][];
  cure: Schemas["AlphaPoint"][];
  height: number;
  label: string;
  /** Nothing has run yet: the part's line is the one that is expected. */
  expected?: boolean;
};

const degree = (k: number | null | undefined) => (k == null ? null : value("temperature", k));

/** All curves on one row of times; a curve without a value there is null. */
function rows({ plan, samples, cure }: Pick<Props, "plan" | "samples" | "cure">): uPlot.AlignedData {
  const times = [...new Set([...plan.map((p) => p.t), ...samples.map((s) => s.t)])].sort((a, b) => a - b);
  const planned = new Map(plan.map((p) => [p.t, p]));
  const taken = new Map(samples.map((s) => [s.t, s]));
  const alpha = new Map(cure.map((c) => [c.t, c.alpha]));
  // undefined keeps a line going over it, null breaks it: a failed sensor breaks.
  const record = (f: (s: Schemas["Sample"]) => number | null) =>
    times.map((t) => (taken.has(t) ? f(taken.get(t)!) : undefined));
  const band = (f: (p: Schemas["PlanPoint"]) => number | null) =>
    times.map((t) => (planned.has(t) ? f(planned.get(t)!) : undefined));
  return [
    times.map((t) => t / 3600),
    band((p) => degree(p.high)!),
    band((p) => degree(p.low)!),
    record((s) => degree(s.air)),
    record((s) => degree(s.tool)),
    record((s) => degree(s.lead)),
    record((s) => degree(s.lag)),
    times.map((t) => (alpha.has(t) ? alpha.get(t)! * 100 : undefined)),
    band((p) => degree(p.part || null)),
  ] as uPlot.AlignedData;
}

/** The chart takes the width it is given by the page. */
export function RunChart({ plan, samples, cure, height, label, expected }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const chart = useRef<uPlot | null>(null);
  useEffect(() => {
    const css = getComputedStyle(document.documentElement);
    const colour = (name: string) => css.getPropertyValue(name).trim();
    const ink = colour("--ink");
    const g1 = colour("--g1");
    const grid = { stroke: colour("--g4"), width: 1 };
    const font = '14px "Atkinson Hyperlegible Next Variable", sans-serif';
    const line = (name: string, stroke: string, w: number, dash?: number[]): uPlot.Series => ({
      label: name,
      stroke,
      width: w,
      dash,
      spanGaps: false,
      points: { show: false },
    });
    const u = new uPlot(
      {
        width: box.current!.clientWidth,
        height,
        scales: {
          x: { time: false },
          C: {
            range: (_, lo, hi) => [
              Math.min(value("temperature", 288), lo),
              Math.max(hi + 8, value("temperature", 333)),
            ],
          },
          cure: { range: [0, 100] },
        },
        bands: [{ series: [1, 2], fill: colour("--g4") }],
        axes: [
          {
            label: "hours by the oven’s clock",
            labelFont: font,
            font,
            stroke: g1,
            grid,
            ticks: grid,
            labelSize: 22,
            incrs: [1 / 60, 1 / 12, 0.25, 0.5, 1, 2, 4, 6, 12, 24],
            space: 60,
          },
          {
            scale: "C",
            label: unitName("temperature"),
            labelFont: font,
            font,
            stroke: g1,
            grid,
            ticks: grid,
            labelSize: 20,
          },
          {
            scale: "cure",
            side: 1,
            label: "degree of cure, %",
            labelFont: font,
            font,
            stroke: g1,
            grid: { show: false },
            ticks: grid,
            labelSize: 20,
          },
        ],
        series: [
          { label: "h", value: (_: uPlot, v: number | null) => (v == null ? "" : v.toFixed(2)) },
          { ...line("plan, high", colour("--g3"), 1), scale: "C" },
          { ...line("plan, low", colour("--g3"), 1), scale: "C" },
          { ...line("air", g1, 1.2), scale: "C" },
          { ...line("tool", g1, 1.4, [8, 5]), scale: "C" },
          { ...line("part, leading", ink, 1.6, [2, 3]), scale: "C" },
          { ...line("part, lagging", ink, 3), scale: "C" },
          { ...line("degree of cure", colour("--blue"), 2, [14, 4]), scale: "cure" },
          { ...line(simulated, colour("--g2"), expected ? 0 : 1.6, [3, 4]), scale: "C" },
        ].map((s, i) =>
          i === 0 ? s : { ...s, value: (_: uPlot, v: number | null) => (v == null ? "" : v.toFixed(1)) },
        ),
        legend: { show: false },
      },
      [[], [], [], [], [], [], [], [], []],
      box.current!,
    );
    chart.current = u;
    const resized = new ResizeObserver(([entry]) => u.setSize({ width: entry!.contentRect.width, height }));
    resized.observe(box.current!);
    return () => {
      resized.disconnect();
      u.destroy();
    };
  }, [height, expected]);
  useEffect(() => {
    chart.current?.setData(rows({ plan, samples, cure }));
  }, [plan, samples, cure, height]);
  return (
    <figure style={{ margin: 0 }}>
      <div ref={box} role="img" aria-label={label} style={{ overflow: "hidden" }} />
      <Legend aria-hidden="true">
        {(expected ? lines.filter(([label]) => !measured.includes(label)) : lines).map(([label, stroke, w, dash]) => (
          <span key={label}>
            <svg width="44" height="12">
              {dash === "band" ? (
                <rect width="44" height="12" fill="var(--g4)" stroke="var(--g3)" />
              ) : (
                <path d="M0 6H44" stroke={stroke} strokeWidth={w} strokeDasharray={dash} />
              )}
            </svg>{" "}
            {label}
          </span>
        ))}
      </Legend>
    </figure>
  );
}

const lagging = "part, lagging";
const simulated = "part, simulated";
const measured = ["air", "tool", simulated];
const lines: [label: string, stroke: string, w: number, dash?: string][] = [
  ["plan of the air", "", 0, "band"],
  ["air", "var(--g1)", 1.2],
  ["tool", "var(--g1)", 1.4, "8 5"],
  ["part, leading", "var(--ink)", 1.6, "2 3"],
  [lagging, "var(--ink)", 3],
  ["degree of cure", "var(--blue)", 2, "14 4"],
  [simulated, "var(--g2)", 1.6, "3 4"],
];

const Legend = styled.figcaption`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 26px;
  padding: 2px 0 0 52px;
  font-size: 15px;
`;
