/**
 * A sketch on the stage: its curves in ink, its regions washed in brass, and all of it that can be picked.
 */
import {
  DoubleSide,
  type BufferGeometry,
  type Group,
  Mesh,
  MeshBasicMaterial,
  Shape,
  ShapeGeometry,
  Vector2,
  Vector3,
} from 'three';
import { mergeGeometries } from 'three/examples/jsm/utils/BufferGeometryUtils.js';
import type { Flat, FrameData, SceneSketch, Spot } from '../api/types';
import { token } from './colours';
import { Inks, type Pen } from './lines';
import { paint } from './paints';
import type { Thing } from './things';

/** Anything drawn as lines: pairs of points, or one point. */
export type Drawn = { thing: Thing; line: number[] };
/** hit: what a pointer over it hits, its letters' boxes for a text. */
export type Region = { thing: Thing; mesh: Mesh; hit: Mesh; outline: number[] };
/** inked: its lines by their pens. */
export type DrawnSketch = { inked: [number[], Pen][]; drawn: Drawn[]; regions: Region[] };

export function at(frame: FrameData, u: number, v: number): Vector3 {
  return new Vector3(...(frame.origin as Spot))
    .addScaledVector(new Vector3(...(frame.x as Spot)), u)
    .addScaledVector(new Vector3(...(frame.y as Spot)), v);
}

export function drawSketch(sketch: SceneSketch): DrawnSketch {
  const made: DrawnSketch = { inked: [], drawn: [], regions: [] };
  const place = (p: readonly number[]) => at(sketch.frame, p[0], p[1]).toArray();
  const [real, construction]: number[][] = [[], []];
  for (const c of sketch.curves) {
    const line = c.points.slice(1).flatMap((p, i) => [...place(c.points[i]), ...place(p)]);
    made.drawn.push({
      thing: {
        kind: 'curve',
        key: `curve:${sketch.step}:${c.id}`,
        words: c.words,
        facets: [...c.facets, 'drawn'],
        ref: { of: 'drawn', step: sketch.step, entity: c.id },
        step: sketch.step,
        depth: 0,
      },
      line,
    });
    (c.construction ? construction : real).push(...line);
  }
  for (const [id, p] of Object.entries(sketch.points)) {
    made.drawn.push({
      thing: {
        kind: 'dot',
        key: `dot:${sketch.step}:${id}`,
        words: sketch.words[id],
        facets: ['point'],
        ref: { of: 'drawn', step: sketch.step, entity: id },
        step: sketch.step,
        depth: 0,
      },
      line: place(p),
    });
  }
  const letters: number[] = [];
  for (const text of sketch.texts ?? [])
    letters.push(
      ...region(
        made,
        sketch,
        text.ref,
        text.pieces,
        text.ref.sides[0],
        `text “${text.words}” of ${sketch.name}`,
        place,
        text.boxes,
      ),
    );
  sketch.regions.forEach((r, i) => region(made, sketch, r.ref, [r.outline], String(i), r.words, place));
  made.inked.push(
    [construction, { colour: token('graphite'), width: 0.9 }],
    [real, { colour: token('ink'), width: 1.6 }],
    [letters, { colour: token('ink'), width: 1.3 }],
  );
  return made;
}

/**
 * Draw sketches in as few draw calls as there are pens, and one for all regions; the regions' own meshes are for
 * the pointer alone.
 */
export function drawTogether(sketches: Iterable<DrawnSketch>, group: Group): void {
  const inks = new Inks();
  const washed: BufferGeometry[] = [];
  let material: Mesh['material'] | null = null;
  for (const { inked, regions } of sketches) {
    for (const [points, pen] of inked) inks.add(points, pen);
    for (const { mesh } of regions) {
      washed.push(mesh.geometry.clone().applyMatrix4(mesh.matrix));
      material = mesh.material;
    }
  }
  if (material) group.add(new Mesh(mergeGeometries(washed), material));
  inks.into(group);
}

/**
 * Something to build from, in one or several pieces, each an outer loop and its holes; returns its outlines.
 */
function region(
  made: DrawnSketch,
  sketch: SceneSketch,
  ref: Thing['ref'],
  pieces: Flat[][][],
  id: string,
  words: string,
  place: (p: readonly number[]) => number[],
  boxes?: Flat[][],
): number[] {
  const shapes = pieces.map((loops) => {
    const [outer, ...holes] = loops.map((loop) => loop.map((p) => new Vector2(p[0], p[1])));
    const shape = new Shape(outer);
    shape.holes = holes.map((h) => new Shape(h));
    return shape;
  });
  const material = paint(
    'region',
    () =>
      new MeshBasicMaterial({
        color: token('brass'),
        transparent: true,
        opacity: 0.07,
        side: DoubleSide,
        forceSinglePass: true, // else a transparent face of two sides is drawn twice
        depthWrite: false,
      }),
  );
  const mesh = new Mesh(new ShapeGeometry(shapes), material);
  mesh.matrixAutoUpdate = false;
  const [x, y, n] = [sketch.frame.x, sketch.frame.y, sketch.frame.normal].map(
    (v) => new Vector3(...(v as Spot)),
  );
  mesh.matrix.makeBasis(x, y, n).setPosition(new Vector3(...(sketch.frame.origin as Spot)));
  mesh.updateMatrixWorld(true);
  const hit = boxes
    ? new Mesh(
        new ShapeGeometry(boxes.map((b) => new Shape(b.map((p) => new Vector2(p[0], p[1]))))),
        material,
      )
    : mesh;
  if (boxes) {
    hit.matrixAutoUpdate = false;
    hit.matrix.copy(mesh.matrix);
    hit.updateMatrixWorld(true);
  }
  const outline = pieces
    .flat()
    .flatMap((loop) => loop.flatMap((p, k) => [...place(p), ...place(loop[(k + 1) % loop.length])]));
  const thing: Thing = {
    kind: 'region',
    key: `region:${sketch.step}:${id}`,
    words,
    facets: ['region'],
    ref,
    step: sketch.step,
    depth: 0,
  };
  made.regions.push({ thing, mesh, hit, outline });
  return outline;
}
