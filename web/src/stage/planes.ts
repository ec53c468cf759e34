/** Base planes and datum planes: thin frames with a corner flag, never slabs. Sketches with their regions. */
import { DoubleSide, Group, Mesh, MeshBasicMaterial, Raycaster, Shape, ShapeGeometry, Vector2, Vector3 } from 'three';
import type { FrameData, SceneDatum, SceneSketch, Spot } from '../api/types';
import { token } from './colours';
import { drawLines } from './lines';
import type { Thing } from './things';
import type { View } from './view';

export type Flag = { key: string; letter: string; name: string; corners: Vector3[]; base: boolean };

const NEAR = 7; // px

export const BASES: { name: string; frame: FrameData }[] = [
  { name: 'XY', frame: { origin: [0, 0, 0], x: [1, 0, 0], y: [0, 1, 0], normal: [0, 0, 1] } },
  { name: 'YZ', frame: { origin: [0, 0, 0], x: [0, 1, 0], y: [0, 0, 1], normal: [1, 0, 0] } },
  { name: 'ZX', frame: { origin: [0, 0, 0], x: [1, 0, 0], y: [0, 0, 1], normal: [0, -1, 0] } },
];

export function at(frame: FrameData, u: number, v: number): Vector3 {
  return new Vector3(...(frame.origin as Spot)).addScaledVector(new Vector3(...(frame.x as Spot)), u).addScaledVector(new Vector3(...(frame.y as Spot)), v);
}

/** A frame round what the box of the part covers in the plane, with a margin. */
function corners(frame: FrameData, box: [Vector3, Vector3]): Vector3[] {
  const [x, y, o] = [frame.x, frame.y, frame.origin].map((v) => new Vector3(...(v as Spot)));
  let [u0, u1, v0, v1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let i = 0; i < 8; i++) {
    const p = new Vector3(box[i & 1].x, box[(i >> 1) & 1].y, box[(i >> 2) & 1].z).sub(o);
    [u0, u1] = [Math.min(u0, p.dot(x)), Math.max(u1, p.dot(x))];
    [v0, v1] = [Math.min(v0, p.dot(y)), Math.max(v1, p.dot(y))];
  }
  const m = 0.07 * Math.max(u1 - u0, v1 - v0, 1);
  return [at(frame, u0 - m, v0 - m), at(frame, u1 + m, v0 - m), at(frame, u1 + m, v1 + m), at(frame, u0 - m, v1 + m)];
}

const around = (c: Vector3[]) => c.flatMap((p, i) => [...p.toArray(), ...c[(i + 1) % c.length].toArray()]);

export class Planes {
  readonly group = new Group();
  flags: Flag[] = [];
  private frames: { thing: Thing; corners: Vector3[] }[] = [];
  private regions: { thing: Thing; mesh: Mesh; outline: number[] }[] = [];

  update(datums: SceneDatum[], sketches: SceneSketch[], box: [Vector3, Vector3], showBases: boolean, hiddenSketch: string): void {
    this.group.clear();
    this.frames = [];
    this.regions = [];
    this.flags = [];
    if (showBases) {
      for (const b of BASES) this.plane('base', b.name, b.name, b.frame, box, { of: 'base', name: b.name });
    }
    datums.filter((d) => d.visible).forEach((d, i) => {
      this.plane('datum', d.step, d.name, d.frame, box, { of: 'datum', step: d.step }, String.fromCharCode(65 + (i % 26)));
    });
    for (const s of sketches) if (s.visible && s.step !== hiddenSketch) this.sketch(s);
  }

  private plane(sort: 'base' | 'datum', id: string, name: string, frame: FrameData, box: [Vector3, Vector3], ref: Record<string, unknown>, letter = ''): void {
    const c = corners(frame, box);
    const base = sort === 'base';
    const thing: Thing = { sort, key: `${sort}:${id}`, words: base ? `base plane ${name}` : `plane ${name}`, ref, step: base ? undefined : id, depth: 0 };
    this.frames.push({ thing, corners: c });
    this.flags.push({ key: thing.key, letter, name, corners: c, base });
    this.group.add(drawLines(around(c), { colour: token(base ? 'line' : 'verdigris'), width: base ? 1 : 1.3 }));
  }

  private sketch(sketch: SceneSketch): void {
    const place = (p: readonly number[]) => at(sketch.frame, p[0], p[1]).toArray();
    const lines = (construction: boolean) =>
      sketch.curves.filter((c) => c.construction === construction).flatMap((c) => c.points.slice(1).flatMap((p, i) => [...place(c.points[i]), ...place(p)]));
    this.group.add(drawLines(lines(false), { colour: token('ink'), width: 1.6 }));
    sketch.regions.forEach((region, i) => {
      const [outer, ...holes] = region.outline.map((loop) => loop.map((p) => new Vector2(p[0], p[1])));
      const shape = new Shape(outer);
      shape.holes = holes.map((h) => new Shape(h));
      const material = new MeshBasicMaterial({ color: token('brass'), transparent: true, opacity: 0.07, side: DoubleSide, depthWrite: false });
      const mesh = new Mesh(new ShapeGeometry(shape), material);
      mesh.matrixAutoUpdate = false;
      const [x, y, n] = [sketch.frame.x, sketch.frame.y, sketch.frame.normal].map((v) => new Vector3(...(v as Spot)));
      mesh.matrix.makeBasis(x, y, n).setPosition(new Vector3(...(sketch.frame.origin as Spot)));
      mesh.updateMatrixWorld(true);
      const outline = region.outline.flatMap((loop) => loop.flatMap((p, k) => [...place(p), ...place(loop[(k + 1) % loop.length])]));
      const thing: Thing = { sort: 'region', key: `region:${sketch.step}:${i}`, words: `region of ${sketch.name}, ${region.area.toFixed(1)} mm²`, ref: region.ref, step: sketch.step, depth: 0 };
      this.regions.push({ thing, mesh, outline });
      this.group.add(mesh);
    });
  }

  /** Regions and frames under the pointer, the nearest first; a frame counts at its border. */
  under(x: number, y: number, ray: Raycaster, view: View): { regions: Thing[]; borders: Thing[]; insides: Thing[] } {
    const regions = this.regions
      .map(({ thing, mesh }) => ({ thing, hit: ray.intersectObject(mesh, false)[0] }))
      .filter((r) => r.hit)
      .map((r) => ({ ...r.thing, depth: r.hit.distance, place: r.hit.point }))
      .sort((a, b) => a.depth - b.depth);
    const borders: Thing[] = [];
    const insides: Thing[] = [];
    for (const { thing, corners: c } of this.frames) {
      const s = c.map((p) => view.screen(p));
      let inside = false;
      let off = Infinity;
      s.forEach(([ax, ay], i) => {
        const [bx, by] = s[(i + 1) % 4];
        const [dx, dy] = [bx - ax, by - ay];
        const t = Math.min(Math.max(((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1), 0), 1);
        off = Math.min(off, Math.hypot(ax + t * dx - x, ay + t * dy - y));
        if (ay > y !== by > y && x < ax + ((y - ay) * dx) / dy) inside = !inside;
      });
      if (off < NEAR) borders.push(thing);
      else if (inside) insides.push(thing);
    }
    return { regions, borders, insides };
  }

  named(key: string): Thing | undefined {
    return this.frames.find((f) => f.thing.key === key)?.thing;
  }

  highlight(thing: Thing, width: number): Group {
    const group = new Group();
    const pen = { colour: token('brass'), width, through: true };
    const frame = this.frames.find((f) => f.thing.key === thing.key);
    if (frame) group.add(drawLines(around(frame.corners), pen));
    const region = this.regions.find((r) => r.thing.key === thing.key);
    if (region) {
      const fill = new Mesh(region.mesh.geometry, new MeshBasicMaterial({ color: token('brass'), transparent: true, opacity: width > 2 ? 0.3 : 0.15, side: DoubleSide, depthTest: false }));
      fill.matrixAutoUpdate = false;
      fill.matrix.copy(region.mesh.matrix);
      group.add(fill, drawLines(region.outline, pen));
    }
    return group;
  }

  /** A frame that is not there yet. */
  ghost(frame: FrameData, box: [Vector3, Vector3], scale: number): Group {
    const group = new Group();
    group.add(drawLines(around(corners(frame, box)), { colour: token('verdigris'), width: 2, dash: 8, gap: 5, scale, through: true }));
    return group;
  }
}
