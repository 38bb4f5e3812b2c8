// A draped ply on its tool: in space where the browser can, else drawn flat from four sides.
import { lazy, Suspense, useCallback, useEffect, useId, useRef, useState } from "react";
import { Button, Mark, Row, Stack } from "../../ui/parts";
import { views, type Cells, type Node, type Piece, type View } from "./net";
import type { Turns } from "./NetInSpace";
import { NetView, ShearHatches, ShearScale } from "./NetView";
import type { RefObject } from "react";

// Without a network its script may not come: then the net is drawn flat as well.
const NetInSpace = lazy(() => import("./NetInSpace").catch(() => ({ default: NotThere })));

function NotThere({ lost }: { lost: (why: string) => void }) {
  useEffect(() => lost("the drawing in space could not be loaded"), [lost]);
  return <div />;
}

const noWebGL = "this browser does not draw in space (it has no WebGL)";

/** Whether the browser draws in space at all. */
const able = (() => {
  let known: boolean | undefined;
  return () => {
    if (known === undefined) {
      const c = document.createElement("canvas").getContext("webgl2");
      known = c !== null;
      c?.getExtension("WEBGL_lose_context")?.loseContext();
    }
    return known;
  };
})();

export function DrapedView(props: {
  pieces: Piece[];
  grid: Cells;
  edge: number[][];
  lines: number[][][];
  scale: number[];
  lock: number;
  picked: Node | undefined;
  pick: (n: Node) => void;
  label: string;
}) {
  const id = useId().replaceAll(":", "");
  const [why, setWhy] = useState(() => (able() ? "" : noWebGL));
  const space = why === "";
  const [chosen, look] = useState<View>("space");
  const view = chosen === "space" && !space ? "slant" : chosen;
  const turns = useRef<Turns>(null);
  const lost = useCallback((why = noWebGL) => setWhy(why), []);
  const label = `${props.label}, ${views[view].toLowerCase()}`;
  return (
    <Stack $gap={8}>
      <Row $gap={8}>
        {(Object.keys(views) as View[])
          .filter((k) => space || k !== "space")
          .map((k) => (
            <Button key={k} $quiet $small aria-pressed={view === k} onPress={() => look(k)}>
              {views[k]}
            </Button>
          ))}
      </Row>
      {!space && (
        <p role="status" style={{ margin: 0 }}>
          <Mark tone="attend">{`${why[0]!.toUpperCase()}${why.slice(1)}: the net is drawn flat, from four sides.`}</Mark>
        </p>
      )}
      {view === "space" ? (
        <>
          <div style={{ position: "relative" }}>
            <Suspense fallback={<div style={{ height: 430, padding: "30px 0 0 120px" }}>Getting ready to draw …</div>}>
              <NetInSpace {...props} label={label} turns={turns} lost={lost} />
            </Suspense>
            <svg
              width={96}
              height={170}
              viewBox="0 0 96 170"
              style={{ position: "absolute", left: 0, top: 0, pointerEvents: "none" }}
              aria-hidden="true"
            >
              <ShearHatches id={id} />
              <g fontSize={12.5} fill="var(--ink)">
                <ShearScale id={id} scale={props.scale} lock={props.lock} />
              </g>
            </svg>
          </div>
          <Turning turns={turns} />
        </>
      ) : (
        <NetView {...props} view={view} label={label} />
      )}
    </Stack>
  );
}

/** Turns the picture in space. */
function Turning({ turns }: { turns: RefObject<null | Turns> }) {
  return (
    <Row $gap={6}>
      <Button $quiet $small aria-label="Rotate left" onPress={() => turns.current?.turn(-15, 0)}>
        ↺
      </Button>
      <Button $quiet $small aria-label="Rotate right" onPress={() => turns.current?.turn(15, 0)}>
        ↻
      </Button>
      <Button $quiet $small aria-label="See more from above" onPress={() => turns.current?.turn(0, 15)}>
        ↑
      </Button>
      <Button $quiet $small aria-label="See more from below" onPress={() => turns.current?.turn(0, -15)}>
        ↓
      </Button>
      <Button $quiet $small aria-label="Nearer" onPress={() => turns.current?.near(1.25)}>
        +
      </Button>
      <Button $quiet $small aria-label="Farther" onPress={() => turns.current?.near(0.8)}>
        −
      </Button>
      <Button $quiet $small onPress={() => turns.current?.whole()}>
        Fit to view
      </Button>
    </Row>
  );
}
