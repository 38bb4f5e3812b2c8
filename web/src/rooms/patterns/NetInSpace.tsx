// A draped ply in space: its net, how much it shears as the density of the hatch, sections of its
// surface. It is turned by mouse, by touch, by keys and by buttons, and drawn when something
// changes, not all the time.
import { useEffect, useImperativeHandle, useRef, type KeyboardEvent, type Ref } from "react";
import {
  Box3,
  BufferGeometry,
  CanvasTexture,
  Color,
  DoubleSide,
  Float32BufferAttribute,
  Group,
  LineBasicMaterial,
  LineSegments,
  Material,
  Mesh,
  MeshBasicMaterial,
  OrthographicCamera,
  RepeatWrapping,
  Scene,
  SphereGeometry,
  Texture,
  Vector3,
  WebGLRenderer,
} from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { Line2 } from "three/examples/jsm/lines/Line2.js";
import { LineGeometry } from "three/examples/jsm/lines/LineGeometry.js";
import { LineMaterial } from "three/examples/jsm/lines/LineMaterial.js";
import { arrows, first, nodeKey, threads, threadStep, walk, type Cells, type Node, type Piece } from "./net";

/** What buttons beside the drawing do. */
export type Turns = { turn: (round: number, up: number) => void; near: (by: number) => void; whole: () => void };

const ink = (name: string) =>
  new Color(getComputedStyle(document.documentElement).getPropertyValue(name).trim() || "#181a1c");

/** A hatch as a texture of one cell: none, one way, one way twice as close, both ways. */
function hatch(step: number): Texture {
  const size = 64;
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = size;
  const g = canvas.getContext("2d")!;
  g.fillStyle = `#${ink("--paper").getHexString()}`;
  g.fillRect(0, 0, size, size);
  g.strokeStyle = `#${ink(step === 3 ? "--brick" : "--g1").getHexString()}`;
  g.lineWidth = step === 3 ? 7 : 4;
  const line = (x0: number, y0: number, x1: number, y1: number) => {
    g.beginPath();
    g.moveTo(x0, y0);
    g.lineTo(x1, y1);
    g.stroke();
  };
  for (const by of step === 1 ? [0] : [0, size / 2]) {
    for (const x of [by - size, by, by + size]) {
      line(x, 0, x + size, size);
      if (step === 3) line(x, size, x + size, 0);
    }
  }
  const t = new CanvasTexture(canvas);
  t.wrapS = t.wrapT = RepeatWrapping;
  t.anisotropy = 8;
  return t;
}

const flatten = (l: number[][]) => l.flatMap((p) => [p[0]!, p[1]!, p[2]!]);

export default function NetInSpace({
  pieces,
  grid,
  edge,
  lines,
  picked,
  pick,
  label,
  turns,
  lost,
}: {
  pieces: Piece[];
  grid: Cells;
  edge: number[][];
  lines: number[][][];
  picked: Node | undefined;
  pick: (n: Node) => void;
  label: string;
  turns: Ref<Turns>;
  /** The browser cannot draw in space, or stopped to. */
  lost: () => void;
}) {
  const host = useRef<HTMLDivElement>(null);
  const stage = useRef<ReturnType<typeof set>>(null);
  const gone = useRef(lost);
  useEffect(() => {
    gone.current = lost;
  }, [lost]);
  useEffect(() => {
    if (!host.current) return;
    let made: ReturnType<typeof set>;
    try {
      made = set(host.current, () => gone.current());
    } catch {
      gone.current();
      return;
    }
    stage.current = made;
    return () => {
      stage.current = null;
      made.end();
    };
  }, []);
  useEffect(() => {
    stage.current?.show(pieces, grid, edge, lines);
    if (stage.current && host.current) host.current.dataset["drawn"] = "yes";
  }, [pieces, grid, edge, lines]);
  useEffect(() => stage.current?.mark(picked?.at), [picked]);
  useImperativeHandle(turns, () => ({
    turn: (round, up) => stage.current?.turn(round, up),
    near: (by) => stage.current?.near(by),
    whole: () => stage.current?.whole(),
  }));
  const keys = (e: KeyboardEvent) => {
    const by = arrows[e.key];
    if (e.key === "+" || e.key === "-") {
      stage.current?.near(e.key === "+" ? 1.25 : 0.8);
      e.preventDefault();
      return;
    }
    if (!by) return;
    e.preventDefault();
    if (e.shiftKey) {
      stage.current?.turn(by[0] * 15, by[1] * 15);
      return;
    }
    const from = picked ?? first(grid);
    const next = from && walk(grid, from, ...by);
    if (next) pick(next);
  };
  // A drag turns it and picks nothing.
  const down = useRef([0, 0]);
  /* eslint-disable jsx-a11y/no-noninteractive-element-interactions, jsx-a11y/no-noninteractive-tabindex --
     a drawing that is worked by mouse, touch and keys, as its name says */
  return (
    <div
      ref={host}
      role="application"
      tabIndex={0}
      aria-label={`${label}. Arrow keys walk its threads, with Shift they turn it, plus and minus bring it nearer.`}
      onKeyDown={keys}
      onPointerDown={(e) => (down.current = [e.clientX, e.clientY])}
      onClick={(e) => {
        if (Math.hypot(e.clientX - down.current[0]!, e.clientY - down.current[1]!) > 5) return;
        const n = stage.current?.at(e.clientX, e.clientY, grid.all);
        if (n) pick(n);
      }}
      style={{ height: 430, cursor: "crosshair", touchAction: "none" }}
    />
  );
}

/** The stage: a camera without perspective, for a drawing is measured; z up. */
function set(host: HTMLElement, lost: () => void) {
  const renderer = new WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true });
  renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
  host.append(renderer.domElement);
  renderer.domElement.setAttribute("aria-hidden", "true");
  renderer.domElement.style.display = "block";
  renderer.domElement.addEventListener("webglcontextlost", lost);
  const scene = new Scene();
  const camera = new OrthographicCamera();
  camera.up.set(0, 0, 1);
  const controls = new OrbitControls(camera, renderer.domElement);
  controls.enableDamping = false;
  let drawn = new Group();
  const spot = new Mesh(
    new SphereGeometry(1, 16, 12),
    new MeshBasicMaterial({ color: ink("--blue"), depthTest: false }),
  );
  spot.renderOrder = 9;
  spot.visible = false;
  scene.add(spot);
  const textures = [1, 2, 3].map(hatch);
  const box = new Box3();
  let drawnPoints: number[][] = [];
  let size = 1;
  let moved = false;
  const render = () => renderer.render(scene, camera);
  // As large as what is drawn looks from where it is first seen.
  let half: [number, number] = [1, 1];
  const fit = () => {
    const [w, h] = [host.clientWidth || 1, host.clientHeight || 1];
    renderer.setSize(w, h, false);
    renderer.domElement.style.width = "100%";
    renderer.domElement.style.height = "100%";
    const up = Math.max(half[1], (half[0] * h) / w) * 1.04;
    camera.top = up;
    camera.bottom = -up;
    camera.right = (up * w) / h;
    camera.left = -camera.right;
    camera.updateProjectionMatrix();
    render();
  };
  const whole = () => {
    const middle = box.getCenter(new Vector3());
    controls.target.copy(middle);
    camera.position.copy(middle).add(new Vector3(-0.55, -1, 0.85).multiplyScalar(size * 2));
    camera.near = 0.01;
    camera.far = size * 8;
    camera.zoom = 1;
    controls.update();
    camera.updateMatrixWorld();
    half = [1e-3, 1e-3];
    const v = new Vector3();
    for (const p of drawnPoints) {
      v.set(p[0]!, p[1]!, p[2]).applyMatrix4(camera.matrixWorldInverse);
      half = [Math.max(half[0], Math.abs(v.x)), Math.max(half[1], Math.abs(v.y))];
    }
    fit();
  };
  controls.addEventListener("change", render);
  controls.addEventListener("start", () => (moved = true));
  const watch = new ResizeObserver(fit);
  watch.observe(host);

  const drop = (g: Group) => {
    scene.remove(g);
    g.traverse((o) => {
      if (o instanceof Mesh || o instanceof LineSegments) {
        (o.geometry as BufferGeometry).dispose();
        (o.material as Material).dispose();
      }
    });
  };
  const fat = (points: number[][], color: string, width: number, dash = 0) => {
    const g = new LineGeometry();
    g.setPositions(flatten(points));
    const m = new LineMaterial({
      color: ink(color),
      linewidth: width,
      dashed: dash > 0,
      dashSize: dash,
      gapSize: dash / 2,
    });
    const l = new Line2(g, m);
    if (dash > 0) l.computeLineDistances();
    l.renderOrder = 5;
    return l;
  };
  const thin = (runs: number[][][], color: string) => {
    const p: number[] = [];
    for (const r of runs) for (let k = 1; k < r.length; k++) p.push(...r[k - 1]!.slice(0, 3), ...r[k]!.slice(0, 3));
    const g = new BufferGeometry();
    g.setAttribute("position", new Float32BufferAttribute(p, 3));
    return new LineSegments(g, new LineBasicMaterial({ color: ink(color) }));
  };

  return {
    show(pieces: Piece[], grid: Cells, edge: number[][], lines: number[][][]) {
      drop(drawn);
      drawn = new Group();
      box.makeEmpty();
      drawnPoints = [...edge, ...pieces.flatMap((d) => d.boundary), ...grid.all.map((n) => n.at)];
      for (const p of drawnPoints) box.expandByPoint(new Vector3(...p));
      const before = size;
      size = Math.max(1e-3, box.getSize(new Vector3()).length());
      grid.by.forEach((cells, step) => {
        if (cells.length === 0) return;
        const at: number[] = [];
        const uv: number[] = [];
        for (const c of cells) {
          for (const k of [0, 1, 2, 0, 2, 3]) {
            const n = c[k]!;
            at.push(n.at[0]!, n.at[1]!, n.at[2]!);
            uv.push(n.i / 2, n.j / 2);
          }
        }
        const g = new BufferGeometry();
        g.setAttribute("position", new Float32BufferAttribute(at, 3));
        g.setAttribute("uv", new Float32BufferAttribute(uv, 2));
        const m = new MeshBasicMaterial({
          side: DoubleSide,
          polygonOffset: true,
          polygonOffsetFactor: 2,
          polygonOffsetUnits: 2,
          ...(step === 0 ? { color: ink("--paper") } : { map: textures[step - 1]! }),
        });
        drawn.add(new Mesh(g, m));
      });
      drawn.add(
        thin(
          threads(grid, threadStep(grid)).map((r) => r.map((n) => n.at)),
          "--ink",
        ),
      );
      for (const l of lines) drawn.add(fat(l, "--g2", 1.6, size / 60));
      if (edge.length > 0) drawn.add(fat([...edge, edge[0]!], "--g2", 1.6));
      pieces.forEach((d, k) => {
        drawn.add(fat([...d.boundary, d.boundary[0]!], "--ink", 3));
        for (const l of d.lips) drawn.add(fat(l.line, "--blue", 4, size / 50));
        if (d.strip) return;
        const warp = grid.nodes.get(nodeKey(k, 0, 1, 0)) ?? grid.nodes.get(nodeKey(k, 0, -1, 0));
        if (!warp) return;
        const from = new Vector3(...d.start);
        const way = new Vector3(...warp.at)
          .sub(from)
          .normalize()
          .multiplyScalar(warp.i * size * 0.07);
        drawn.add(fat([d.start, from.add(way).toArray()], "--blue", 5));
        const dot = new Mesh(new SphereGeometry(size * 0.008, 16, 12), new MeshBasicMaterial({ color: ink("--blue") }));
        dot.position.set(d.start[0]!, d.start[1]!, d.start[2]);
        drawn.add(dot);
      });
      scene.add(drawn);
      if (!moved || Math.abs(before / size - 1) > 0.05) whole();
      else render();
    },
    mark(at: number[] | undefined) {
      spot.visible = at !== undefined;
      if (at) {
        spot.position.set(at[0]!, at[1]!, at[2]);
        spot.scale.setScalar(size * 0.01);
      }
      render();
    },
    turn(round: number, up: number) {
      moved = true;
      const from = camera.position.clone().sub(controls.target);
      const far = from.length();
      const polar = Math.acos(from.z / far) - (up * Math.PI) / 180;
      const turn = Math.atan2(from.y, from.x) + (round * Math.PI) / 180;
      const p = Math.min(Math.PI - 0.02, Math.max(0.02, polar));
      camera.position
        .set(Math.sin(p) * Math.cos(turn), Math.sin(p) * Math.sin(turn), Math.cos(p))
        .multiplyScalar(far)
        .add(controls.target);
      controls.update();
      render();
    },
    near(by: number) {
      moved = true;
      camera.zoom = Math.min(20, Math.max(0.3, camera.zoom * by));
      camera.updateProjectionMatrix();
      render();
    },
    whole() {
      moved = false;
      whole();
    },
    /** The node under a place on the screen: of those near it the one that lies in front. */
    at(x: number, y: number, all: Node[]): Node | undefined {
      const r = renderer.domElement.getBoundingClientRect();
      const v = new Vector3();
      let best: Node | undefined;
      let least = Infinity;
      for (const n of all) {
        v.set(n.at[0]!, n.at[1]!, n.at[2]).project(camera);
        const d = Math.hypot(((v.x + 1) / 2) * r.width + r.left - x, ((1 - v.y) / 2) * r.height + r.top - y);
        // Nearness in front counts as pixels do: what lies behind is not meant.
        const score = d + v.z * 60;
        if (d < 24 && score < least) [least, best] = [score, n];
      }
      return best;
    },
    end() {
      watch.disconnect();
      controls.dispose();
      drop(drawn);
      textures.forEach((t) => t.dispose());
      renderer.domElement.removeEventListener("webglcontextlost", lost);
      renderer.dispose();
      renderer.forceContextLoss();
      renderer.domElement.remove();
    },
  };
}
