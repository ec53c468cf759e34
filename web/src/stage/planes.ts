/**
 * Base geometry and datums: frames with a corner flag, dash-dot axes, crosses, arms; never slabs. Sketches
 * with their regions.
 */
import { DoubleSide, Group, Mesh, MeshBasicMaterial, Raycaster, Vector3 } from 'three';
import type { Flat, FrameData, SceneDatum, SceneSketch, Spot } from '../api/types';
import { within } from '../sketch/geometry';
import { token } from './colours';
import { discard, drawLines, Inks } from './lines';
import { paint } from './paints';
import { at, drawSketch, drawTogether, type Drawn, type DrawnSketch, type Region } from './sketches';
import type { Thing } from './things';
import type { View } from './view';

/** corners: where the flag may stand. */
export type Flag = {
  key: string;
  letter: string;
  name: string;
  corners: Vector3[];
  base: boolean;
  faint: boolean;
};
type Frame = { thing: Thing; corners: Vector3[] };

const NEAR = 7; // px

export const BASES: { name: string; frame: FrameData }[] = [
  { name: 'XY', frame: { origin: [0, 0, 0], x: [1, 0, 0], y: [0, 1, 0], normal: [0, 0, 1] } },
  { name: 'YZ', frame: { origin: [0, 0, 0], x: [0, 1, 0], y: [0, 0, 1], normal: [1, 0, 0] } },
  { name: 'ZX', frame: { origin: [0, 0, 0], x: [1, 0, 0], y: [0, 0, 1], normal: [0, -1, 0] } },
];
const AXES: [string, Spot][] = [
  ['X', [1, 0, 0]],
  ['Y', [0, 1, 0]],
  ['Z', [0, 0, 1]],
];
const DATUM_FACETS: Record<string, string[]> = {
  plane: ['plane'],
  axis: ['line', 'axis'],
  point: ['point'],
  system: ['system', 'point', 'plane'],
};

/** The corners of a plane's frame around everything there is. */
function corners(frame: FrameData, box: [Vector3, Vector3]): Vector3[] {
  const [x, y, o] = [frame.x, frame.y, frame.origin].map((v) => new Vector3(...(v as Spot)));
  let [u0, u1, v0, v1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let i = 0; i < 8; i++) {
    const p = new Vector3(box[i & 1].x, box[(i >> 1) & 1].y, box[(i >> 2) & 1].z).sub(o);
    [u0, u1] = [Math.min(u0, p.dot(x)), Math.max(u1, p.dot(x))];
    [v0, v1] = [Math.min(v0, p.dot(y)), Math.max(v1, p.dot(y))];
  }
  const m = 0.07 * Math.max(u1 - u0, v1 - v0, 1);
  return [
    at(frame, u0 - m, v0 - m),
    at(frame, u1 + m, v0 - m),
    at(frame, u1 + m, v1 + m),
    at(frame, u0 - m, v1 + m),
  ];
}

/** The ends of an axis through the box of everything. */
function span(origin: Vector3, direction: Vector3, box: [Vector3, Vector3]): [Vector3, Vector3] {
  let [low, high] = [Infinity, -Infinity];
  for (let i = 0; i < 8; i++) {
    const t = new Vector3(box[i & 1].x, box[(i >> 1) & 1].y, box[(i >> 2) & 1].z).sub(origin).dot(direction);
    [low, high] = [Math.min(low, t), Math.max(high, t)];
  }
  const m = 0.12 * Math.max(high - low, 1);
  return [
    origin.clone().addScaledVector(direction, low - m),
    origin.clone().addScaledVector(direction, high + m),
  ];
}

const around = (c: Vector3[]) => c.flatMap((p, i) => [...p.toArray(), ...c[(i + 1) % c.length].toArray()]);
const pair = (a: Vector3, b: Vector3) => [...a.toArray(), ...b.toArray()];

/** The lines of a datum that is no plane. size: mm of an arm. */
function strokes(kind: string, frame: FrameData, box: [Vector3, Vector3]): number[] {
  const [o, x, y, n] = [frame.origin, frame.x, frame.y, frame.normal].map((v) => new Vector3(...(v as Spot)));
  if (kind === 'axis') return pair(...span(o, x, box));
  const size = 0.03 * box[0].distanceTo(box[1]);
  const arm = (d: Vector3, from: number, to: number) =>
    pair(o.clone().addScaledVector(d, from * size), o.clone().addScaledVector(d, to * size));
  if (kind === 'point') return [x, y, n].flatMap((d) => arm(d, -0.5, 0.5));
  return [
    ...arm(x, 0, 4),
    ...arm(y, 0, 4),
    ...arm(n, 0, 4),
    ...pair(at(frame, 3.5 * size, 0), at(frame, 3.5 * size, 0.4 * size)),
  ];
}

export class Planes {
  readonly group = new Group();
  flags: Flag[] = [];
  private faint = false;
  private frames: Frame[] = [];
  private drawn: Drawn[] = [];
  private regions: Region[] = [];
  /**
   * Base planes and datums, which hang on the box of all there is; and sketches, which stay as they are drawn
   * while they do not change.
   */
  private readonly fresh = new Group();
  private sketches = new Map<string, DrawnSketch>();
  private readonly together = new Group();
  private inks = new Inks();

  constructor() {
    this.group.add(this.fresh, this.together);
  }

  /** faint : the base planes step back, since there is a body to look at. */
  update(
    datums: SceneDatum[],
    sketches: SceneSketch[],
    box: [Vector3, Vector3],
    showBases: boolean,
    faint: boolean,
    hiddenSketch: string,
    scale: number,
  ): void {
    discard(this.fresh);
    [this.frames, this.drawn, this.regions, this.flags] = [[], [], [], []];
    this.inks = new Inks();
    this.faint = faint;
    if (showBases) this.bases(box);
    const letters = new Map<string, string>();
    for (const d of datums) {
      if (!letters.has(d.step)) letters.set(d.step, String.fromCharCode(65 + (letters.size % 26)));
      if (d.visible) this.datum(d, letters.get(d.step)!, box, scale);
    }
    this.inks.into(this.fresh);
    const before = this.sketches;
    this.sketches = new Map();
    for (const s of sketches) {
      if (!s.visible || s.step === hiddenSketch) continue;
      const key = s.digest ?? s.step;
      const drawn = before.get(key) ?? drawSketch(s);
      this.sketches.set(key, drawn);
      this.drawn.push(...drawn.drawn);
      this.regions.push(...drawn.regions);
    }
    const same = before.size === this.sketches.size;
    if (same && [...before].every(([key, drawn]) => this.sketches.get(key) === drawn)) return;
    discard(this.together);
    drawTogether(this.sketches.values(), this.together);
  }

  private bases(box: [Vector3, Vector3]): void {
    for (const b of BASES) {
      const thing: Thing = {
        kind: 'base',
        key: `base:${b.name}`,
        words: `base plane ${b.name}`,
        facets: ['plane'],
        ref: { of: 'base', name: b.name },
        depth: 0,
      };
      this.plane(thing, b.frame, box, '', b.name, true);
    }
    const reach = 0.12 * box[0].distanceTo(box[1]);
    for (const [name, d] of AXES) {
      const thing: Thing = {
        kind: 'base',
        key: `base:${name}`,
        words: `base axis ${name}`,
        facets: ['line', 'axis'],
        ref: { of: 'base', name },
        depth: 0,
      };
      const line = pair(new Vector3(), new Vector3(...d).multiplyScalar(reach));
      this.drawn.push({ thing, line });
      this.inks.add(line, {
        colour: this.faint ? token('graphite').lerp(token('stage'), 0.55) : token('graphite'),
        width: 1.4,
      });
    }
    this.drawn.push({
      thing: {
        kind: 'base',
        key: 'base:origin',
        words: 'the origin',
        facets: ['point', 'system'],
        ref: { of: 'base', name: 'origin' },
        depth: 0,
      },
      line: [0, 0, 0],
    });
  }

  private plane(
    thing: Thing,
    frame: FrameData,
    box: [Vector3, Vector3],
    letter: string,
    name: string,
    base: boolean,
  ): void {
    const c = corners(frame, box);
    this.frames.push({ thing, corners: c });
    this.flags.push({ key: thing.key, letter, name, corners: c, base, faint: base && this.faint });
    this.inks.add(around(c), {
      colour:
        base && this.faint ? token('line').lerp(token('stage'), 0.62) : token(base ? 'line' : 'verdigris'),
      width: base ? 1 : 1.3,
    });
  }

  private datum(d: SceneDatum, letter: string, box: [Vector3, Vector3], scale: number): void {
    const noun = { plane: 'plane', axis: 'axis', point: 'point', system: 'coordinate system' }[d.kind];
    const thing: Thing = {
      kind: 'datum',
      key: `datum:${d.step}:${d.index}`,
      words: `${noun} ${d.name}`,
      facets: DATUM_FACETS[d.kind],
      ref: { of: 'datum', step: d.step, index: d.index },
      step: d.step,
      depth: 0,
    };
    if (d.kind === 'plane') return this.plane(thing, d.frame, box, letter, d.name, false);
    const line = strokes(d.kind, d.frame, box);
    this.drawn.push({ thing, line });
    const flagAt =
      d.kind === 'axis'
        ? [new Vector3(...(line.slice(0, 3) as Spot)), new Vector3(...(line.slice(3, 6) as Spot))]
        : [new Vector3(...(d.frame.origin as Spot))];
    this.flags.push({ key: thing.key, letter, name: d.name, corners: flagAt, base: false, faint: false });
    const dash = d.kind === 'axis' ? { dash: 14, gap: 5, scale } : {};
    this.inks.add(line, {
      colour: token(d.kind === 'system' ? 'ink' : 'verdigris'),
      width: d.kind === 'system' ? 1.8 : 1.4,
      through: d.kind !== 'axis',
      ...dash,
    });
  }

  /** The regions whose outlines lie wholly inside a box (two places of the screen) or a lasso (more). */
  caught(shape: Flat[], view: View): Thing[] {
    return this.regions
      .filter(({ outline }) => {
        for (let i = 0; i < outline.length; i += 3)
          if (!within(shape, view.screen(new Vector3(outline[i], outline[i + 1], outline[i + 2]))))
            return false;
        return true;
      })
      .map((r) => r.thing);
  }

  /** What is under the pointer: points, lines, regions, borders and insides of frames. */
  under(
    x: number,
    y: number,
    ray: Raycaster,
    view: View,
  ): { dots: Thing[]; lines: Thing[]; regions: Thing[]; borders: Thing[]; insides: Thing[] } {
    const regions = this.regions
      .map(({ thing, hit }) => ({ thing, hit: ray.intersectObject(hit, false)[0] }))
      .filter((r) => r.hit)
      .map((r) => ({ ...r.thing, depth: r.hit.distance, place: r.hit.point }))
      // In one plane: texts come first
      .sort((a, b) => (Math.abs(a.depth - b.depth) < 1e-6 * a.depth ? 0 : a.depth - b.depth));
    const dots: Thing[] = [];
    const lines: Thing[] = [];
    for (const { thing, line } of this.drawn) {
      const [off, place] = this.off(line, x, y, view);
      if (off < NEAR)
        (thing.facets.includes('point') && line.length !== 6 ? dots : lines).push({
          ...thing,
          place,
          depth: place.clone().sub(ray.ray.origin).dot(ray.ray.direction),
        });
    }
    const borders: Thing[] = [];
    const insides: Thing[] = [];
    for (const { thing, corners: c } of this.frames) {
      const s = c.map((p) => view.screen(p));
      let inside = false;
      s.forEach(([ax, ay], i) => {
        const [bx, by] = s[(i + 1) % 4];
        if (ay > y !== by > y && x < ax + ((y - ay) * (bx - ax)) / (by - ay)) inside = !inside;
      });
      const [off, place] = this.off(around(c), x, y, view);
      if (off < NEAR) borders.push({ ...thing, depth: place.sub(ray.ray.origin).dot(ray.ray.direction) });
      else if (inside) insides.push(thing);
    }
    return { dots, lines, regions, borders, insides };
  }

  /** How many pixels a place on the stage is off some lines (or a point), and the nearest place on them. */
  private off(line: number[], x: number, y: number, view: View): [number, Vector3] {
    let best = Infinity;
    let place = new Vector3();
    if (line.length === 3) {
      place = new Vector3(...(line as Spot));
      const [sx, sy] = view.screen(place);
      return [Math.hypot(sx - x, sy - y), place];
    }
    const [a, b] = [new Vector3(), new Vector3()];
    for (let k = 0; k < line.length; k += 6) {
      const [ax, ay] = view.screen(a.fromArray(line, k));
      const [bx, by] = view.screen(b.fromArray(line, k + 3));
      const [dx, dy] = [bx - ax, by - ay];
      const t = Math.min(Math.max(((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1), 0), 1);
      const off = Math.hypot(ax + t * dx - x, ay + t * dy - y);
      if (off < best) [best, place] = [off, a.clone().lerp(b, t)];
    }
    return [best, place];
  }

  /** Everything that can be picked. */
  all(): Thing[] {
    return [...this.frames, ...this.regions, ...this.drawn].map((d) => d.thing);
  }

  named(key: string): Thing | undefined {
    return [...this.frames, ...this.drawn].find((f) => f.thing.key === key)?.thing;
  }

  /** Everything that a step's datum or sketch shows, for pointing at it. */
  ofStep(step: string): Thing[] {
    return [...this.frames, ...this.drawn]
      .filter((d) => d.thing.step === step && d.thing.kind !== 'dot')
      .map((d) => d.thing);
  }

  highlight(thing: Thing, width: number): Group {
    const group = new Group();
    const pen = { colour: token('brass'), width, through: true };
    const frame = this.frames.find((f) => f.thing.key === thing.key);
    if (frame) group.add(drawLines(around(frame.corners), pen));
    const drawn = this.drawn.find((d) => d.thing.key === thing.key);
    if (drawn) {
      const [x, y, z] = drawn.line;
      group.add(
        drawn.line.length > 3
          ? drawLines(drawn.line, { ...pen, width: width + 0.8 })
          : drawLines([x - 0.01, y, z, x + 0.01, y, z], { ...pen, width: 9 }),
      );
    }
    const region = this.regions.find((r) => r.thing.key === thing.key);
    if (region) {
      const opacity = width > 2 ? 0.3 : 0.15;
      const fill = new Mesh(
        region.mesh.geometry.clone(),
        paint(
          `region ${opacity}`,
          () =>
            new MeshBasicMaterial({
              color: token('brass'),
              transparent: true,
              opacity,
              side: DoubleSide,
              forceSinglePass: true,
              depthTest: false,
            }),
        ),
      );
      fill.matrixAutoUpdate = false;
      fill.matrix.copy(region.mesh.matrix);
      group.add(fill, drawLines(region.outline, pen));
    }
    return group;
  }

  /** A datum that is not there yet. */
  ghost(kind: string, frame: FrameData, box: [Vector3, Vector3], scale: number): Group {
    const group = new Group();
    const line = kind === 'plane' ? around(corners(frame, box)) : strokes(kind, frame, box);
    group.add(
      drawLines(line, {
        colour: token('verdigris'),
        width: 2.2,
        through: true,
        ...(kind === 'plane' || kind === 'axis' ? { dash: 8, gap: 5, scale } : {}),
      }),
    );
    return group;
  }
}
