// The stack beside its drawing, with the section through it.
import { memo, useCallback, useDeferredValue, useMemo, useState } from "react";
import { Link, useSearchParams } from "react-router";
import styled from "styled-components";
import { useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useKeys } from "../../app/keys";
import { useSession } from "../../app/session";
import { Big, Button, Heading, Key, LinkButton, Mark, NumbersField, Refusal, Row, Select, Stack } from "../../ui/parts";
import { moment } from "../../ui/format";
import { edges } from "../../ui/Hatch";
import { layersOf } from "../../ui/layers";
import { Seam, type Difference } from "../../ui/Seam";
import { Actions, BuiltTo, ArchivePart, StartBuild } from "./Actions";
import { layered } from "../master/cells";
import { items, withItem } from "../master/edits";
import { PlanView } from "./PlanView";
import { ProcessRead } from "../process/ProcessForm";
import { Remarks } from "./Remarks";
import { SectionView } from "./SectionView";
import { StackPage } from "./StackPage";
import { type Writing, type Line } from "../master/useMaster";
import { Figures, Findings, ruleName } from "./Analysis";
import type { Layer } from "../../ui/layers";

type Revision = Schemas["RevisionView"];

/** How the state of a revision is marked. */
export const marks = { draft: "attend", checked: "attend", released: "met", superseded: "plain" } as const;

export function StackSeam({
  v,
  code,
  w,
  writes,
  given,
  setLine,
  chosen,
  choose,
}: {
  v: Revision;
  code: string;
  w: Writing;
  writes: boolean;
  given: Line | undefined;
  setLine: (line: Line) => void;
  chosen: string[];
  choose: (keys: string[]) => void;
}) {
  const [, setQuery] = useSearchParams();
  const { may, person } = useSession();
  const check = useChange("/api/parts/{code}/check");
  const release = useChange("/api/parts/{code}/release");
  const renew = useChange("/api/parts/{code}/revisions", () => setQuery({}));
  const waive = useChange("/api/parts/{code}/waivers");
  const { mutate: mutateWaiver } = waive;
  const letStand = useCallback(
    (f: Schemas["FindingView"], reason: string, pin: string) =>
      mutateWaiver({ code, body: { rule: f.rule, finding: f.message, reason, pin } }),
    [mutateWaiver, code],
  );
  const [building, setBuilding] = useState(false);
  const open = v.state === "draft" || v.state === "checked";
  useKeys({
    v: {
      label: "start a new revision",
      run: () => renew.mutate({ code }),
      off: v.part.draft !== undefined || !may("edit the master"),
    },
    s: {
      label: "start a build",
      run: () => setBuilding(true),
      off: !v.part.released || v.part.archived !== undefined || !may("open a build"),
    },
    z: { label: "undo", run: w.undo, off: !writes || w.done === 0 },
    y: { label: "redo", run: w.redo, off: !writes || w.undone === 0 },
  });
  const worked = w.reply?.analysis;
  const keys = useMemo(() => worked?.labels.map((l) => l.key) ?? [], [worked]);
  const found = useMemo(
    () => new Set(worked?.findings.filter((f) => !f.waived).flatMap((f) => f.items.map((k) => keys[k]!))),
    [worked, keys],
  );
  const changed = useMemo(() => new Set(v.changed), [v.changed]);
  const differences: Difference[] = [];
  const fresh = v.changed.map((k) => worked?.labels.find((l) => l.key === k)?.label ?? "").filter(Boolean);
  for (const n of fresh.slice(0, 6))
    differences.push({ label: /^\d/.test(n) ? `± ply ${n}` : `± ${n}`, tone: "plain" });
  if (fresh.length > 6) differences.push({ label: `${fresh.length - 6} more`, tone: "plain" });
  if (v.gone > 0) differences.push({ label: `− ${v.gone} of ${v.against}`, tone: "plain" });
  for (const f of new Set(worked?.findings.filter((x) => !x.waived).map((x) => x.rule)))
    differences.push({ label: ruleName(f), tone: "stop" });
  // Findings first: what is drawn follows when they stand on the page.
  const drawing = useDeferredValue(useStill(w.drawing, w.working));
  const marked = useDeferredValue(useStill(found, w.working));
  const shown = useDeferredValue(useStill(chosen, w.working));
  const doc = useDeferredValue(useStill(w.doc, w.working));
  const { change } = w;
  const lumps = useMemo(
    () =>
      items(doc)
        .filter((i) => !layered(i))
        .map((i) => ({
          key: i.key,
          x: i.x,
          y: i.y,
          label: worked?.labels.find((l) => l.key === i.key)?.label ?? i.kind,
        })),
    [doc, worked],
  );
  const place = useMemo(() => {
    const one = items(doc).find((i) => i.key === shown.at(-1));
    if (!one) return undefined;
    const move = (x: number, y: number) => change((m) => withItem(m, one.key, { x, y }));
    const label = worked?.labels.find((l) => l.key === one.key)?.label;
    const of = label ? (one.kind === "ply" ? `ply ${label}` : label) : "the chosen item";
    // Who writes sees what they wrote; who reads sees what the bench sees.
    if (writes) return { x: one.x, y: one.y, of, set: move };
    const layer = layersOf(drawing).find((l) => l.key === one.key);
    return layer ? edges(layer.outline) : { x: one.x, y: one.y };
  }, [writes, doc, shown, change, worked, drawing]);
  const before = w.reply?.before;
  const columns = useMemo(
    () => [
      ...(before ? [{ name: v.against!, of: before }] : []),
      { name: v.letter, ...(worked ? { of: worked } : {}) },
    ],
    [before, worked, v.against, v.letter],
  );
  const pick = useCallback((key: string) => choose([key]), [choose]);
  const labelled = useMemo(() => new Map(worked?.labels.map((l) => [l.key, l.label]) ?? []), [worked]);
  const any = w.doc.stages.some((s) => s.items.length > 0);
  const drawn = layersOf(drawing);
  const section = drawing?.section;
  const line = given ?? (section?.line as Line | undefined);
  const stands = w.doc.outlines.filter((o) => o.placeholder);
  return (
    <Seam
      left="minmax(0, 1.25fr)"
      names={["The master", "Calculated"]}
      differences={differences}
      planned={
        <>
          <Row $between $top>
            <div>
              <Heading>
                {v.part.number}
                {v.part.family && `, variant ${v.part.variant} of ${v.part.family}`}, made on {v.process.tool}
              </Heading>
              <Big>{v.part.name}</Big>
            </div>
            <label>
              Revision{" "}
              <Select value={v.letter} onChange={(e) => setQuery({ revision: e.target.value })}>
                {v.letters.map((l) => (
                  <option key={l.letter} value={l.letter}>
                    {l.letter}
                  </option>
                ))}
              </Select>{" "}
              <Mark tone={marks[v.state]}>{v.state}</Mark>
            </label>
          </Row>
          {stands.length > 0 && (
            <p>
              <Mark tone="attend">{stands.map((o) => `“${o.name}” stands for ${o.placeholder}`).join("; ")}</Mark>
            </p>
          )}
          {w.returned && (
            <p role="status">
              <Mark tone="attend">Your changes of {moment(w.returned)} are restored: they are not saved yet. </Mark>
              <Button $quiet $small onPress={() => void w.takeTheirs()}>
                Discard them
              </Button>
            </p>
          )}
          {w.error !== null && (
            <div style={{ margin: "8px 0" }}>
              <Refusal error={w.error} />
              <Row $gap={10} style={{ paddingTop: 8 }}>
                <Button $quiet $small onPress={() => void w.retry()}>
                  Save again
                </Button>
                <Button $quiet $small onPress={() => void w.takeTheirs()}>
                  Use theirs, discard mine
                </Button>
              </Row>
            </div>
          )}
          <StackPage
            w={w}
            writes={writes}
            found={found}
            changed={changed}
            chosen={chosen}
            shown={shown}
            choose={choose}
          />
        </>
      }
      built={
        <Stack $gap={10}>
          <Refusal error={check.error ?? release.error ?? renew.error ?? waive.error} />
          {building ? (
            <StartBuild v={v} close={() => setBuilding(false)} />
          ) : (
            <Actions
              v={v}
              busy={check.isPending || release.isPending || w.keeping !== "kept"}
              check={(pin) => check.mutate({ code, body: { version: v.version, pin } })}
              release={(pin) => release.mutate({ code, body: { version: v.version, pin } })}
              renew={() => renew.mutate({ code })}
              build={() => setBuilding(true)}
            />
          )}
          {/* Places are kept until the server has answered: nothing moves under the hand. */}
          {any && (
            <Drawn style={{ aspectRatio: "560 / 230" }}>
              <PlanView
                layers={drawn}
                chosen={shown}
                found={marked}
                width={560}
                height={230}
                label={`Plan of ${v.part.name}: ${drawn.length} layers from the datum`}
                lumps={lumps}
                {...(drawing?.tool ? { tool: drawing.tool } : {})}
                pick={pick}
                {...(line ? { line, setLine } : {})}
                {...(place ? { place } : {})}
              />
            </Drawn>
          )}
          {any && <SectionDrawn section={section} drawn={drawn} shown={shown} marked={marked} pick={pick} />}
          {any && <LineFields line={line} set={setLine} />}
          <Refusal error={w.drawError} />
          {drawing?.tool?.beyond && (
            <p style={{ margin: 0 }}>
              <Mark tone="attend">
                Layers beyond the edge of {drawing.tool.name}: {drawing.tool.beyond}
              </Mark>
            </p>
          )}
          <Findings
            {...(worked ? { worked } : {})}
            point={choose}
            {...(open && may("waive a rule") && v.part.wroteId !== person.id ? { waive: letStand } : {})}
          />
          <Remarks doc={doc} labels={labelled} point={choose} />
          <Figures columns={columns} />
          <ProcessRead p={v.process} />
          <BuiltTo v={v} />
          <Files code={code} letter={v.letter} />
          <ArchivePart v={v} />
          <WhoSigns writes={writes} />
        </Stack>
      }
    />
  );
}

/** A drawing: painted for itself, so that a word beside it does not paint hundreds of hatches anew. */
const Drawn = styled.div`
  will-change: transform;
`;

/** A value that stays as it was while an answer is awaited. */
function useStill<T>(value: T, awaited: boolean): T {
  const [kept, keep] = useState(value);
  if (!awaited && kept !== value) keep(value);
  return awaited ? kept : value;
}

/** The line of the section, typed in mm. */
function LineFields({ line, set }: { line: Line | undefined; set: (l: Line) => void }) {
  return (
    <div style={{ maxWidth: 320 }}>
      <NumbersField
        label="Line of the section: x y to x y, mm"
        count={4}
        values={(line ?? []).map((v) => +(v * 1e3).toFixed(1))}
        onChange={(v) => set(v.map((x) => x / 1e3) as Line)}
      />
    </div>
  );
}

/** The section through the part. */
function SectionDrawn({
  section,
  drawn,
  shown,
  marked,
  pick,
}: {
  section: undefined | Schemas["SectionView"];
  drawn: Layer[];
  shown: string[];
  marked: Set<string>;
  pick: (key: string) => void;
}) {
  return (
    <Drawn style={{ aspectRatio: "560 / 170" }}>
      {section && section.courses.length > 0 && (
        <SectionView
          section={section}
          layers={drawn}
          chosen={shown}
          found={marked}
          width={560}
          height={170}
          label="Section along the line in the plan, ply 1 on the tool"
          pick={pick}
        />
      )}
    </Drawn>
  );
}

/** The master as files. */
const Files = memo(function Files({ code, letter }: { code: string; letter: string }) {
  return (
    <Row $gap={8}>
      <LinkButton href={`/api/parts/${code}/book?letter=${letter}`}>Ply book (PDF)</LinkButton>
      <LinkButton href={`/api/parts/${code}/book?letter=${letter}&templates=yes`}>with templates 1:1</LinkButton>
      <LinkButton href={`/api/parts/${code}/book?letter=${letter}&paper=letter`}>on letter paper</LinkButton>
      <LinkButton href={`/api/parts/${code}/master.json?letter=${letter}`}>Master (JSON)</LinkButton>
      <LinkButton href={`/api/parts/${code}/plies.csv?letter=${letter}`}>CSV</LinkButton>
      <LinkButton href={`/api/parts/${code}/plies.xlsx?letter=${letter}`}>XLSX</LinkButton>
      <LinkButton href={`/api/parts/${code}/outlines.dxf?letter=${letter}`}>DXF</LinkButton>
      <LinkButton href={`/api/parts/${code}/outlines.svg?letter=${letter}`}>SVG</LinkButton>
    </Row>
  );
});

/** Who decides what, and who signs. */
function WhoSigns({ writes }: { writes: boolean }) {
  return (
    <p style={{ color: "var(--g1)", fontSize: 15 }}>
      Rules follow the <Link to="/parts/rules">shop’s list</Link>; the engineer of record decides. Two look at a draft:
      who wrote it last signs neither, and who checked it does not release it unless the shop decides otherwise.{" "}
      {writes && (
        <>
          In the sheet: <Key>Alt ↑↓</Key> move · <Key>Ctrl Enter</Key> insert · <Key>Ctrl E</Key> repeat ·{" "}
          <Key>Ctrl M</Key> mirror · <Key>Ctrl D</Key> fill down · <Key>Del</Key> remove · <Key>Ctrl Z</Key> undo
        </>
      )}
    </p>
  );
}
