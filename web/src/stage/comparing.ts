/**
 * Two versions in one picture: what both have plain, what only the earlier one has hatched, what only the
 * later one has dotted; a sketch of the earlier one in dashed lines.
 */
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Group,
  Mesh,
  MeshLambertMaterial,
  Vector3,
  type Material,
} from 'three';
import type { Compared, FrameData, Spot } from '../api/types';
import type { Showing } from '../state/versions.svelte';
import { token } from './colours';
import { pairs, readLines, readTriangles } from './content';
import { drawLines } from './lines';
import { paint } from './paints';
import { material } from './preview';

type MeshData = NonNullable<Compared['bodies'][number]['here']>;

export function surfaces(
  mesh: MeshData,
  content: Map<string, ArrayBuffer>,
  look: Material,
  order: number,
): Group {
  const group = new Group();
  for (const digest of mesh.faces) {
    const data = content.get(digest);
    if (!data) continue;
    const { places, normals, triangles } = readTriangles(data);
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(places, 3));
    geometry.setAttribute('normal', new BufferAttribute(normals, 3));
    geometry.setIndex(new BufferAttribute(triangles, 1));
    const made = new Mesh(geometry, look);
    made.renderOrder = order;
    group.add(made);
  }
  return group;
}

export function outlines(mesh: MeshData, content: Map<string, ArrayBuffer>, colour: Color, width: number) {
  const lines = mesh.edges.flatMap((d) => (content.has(d) ? readLines(content.get(d)!) : []));
  return drawLines(pairs(lines), { colour, width });
}

/** mix : 0 shows the earlier one alone, 1 the later one. */
export function drawCompared(
  told: Compared,
  content: Map<string, ArrayBuffer>,
  see: Showing,
  mix: number,
  sketches: boolean,
): Group {
  const group = new Group();
  const plain = paint(
    'compared common',
    () =>
      new MeshLambertMaterial({
        ...{ color: token('stone'), side: DoubleSide },
        ...{ polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 },
      }),
  );
  const strength = { here: Math.min(1, 2 * (1 - mix)), there: Math.min(1, 2 * mix) };
  for (const body of told.bodies) {
    if (see.common && body.common)
      group.add(surfaces(body.common, content, plain, 0), outlines(body.common, content, token('ink'), 1));
    for (const side of ['here', 'there'] as const) {
      const mesh = body[side];
      if (!mesh || !see[side] || strength[side] < 0.01) continue;
      const colour = token(side === 'here' ? 'carmine' : 'verdigris');
      const share = Math.round(strength[side] * 20) / 20;
      const look = paint(`compared ${side} ${share}`, () => material(colour, side === 'here', share));
      group.add(surfaces(mesh, content, look, 4), outlines(mesh, content, colour, 1.4 * share + 0.2));
    }
  }
  if (sketches) for (const s of told.sketches) group.add(sketch(s.frame, s.curves));
  return group;
}

function sketch(frame: FrameData, curves: Compared['sketches'][number]['curves']) {
  const [o, x, y] = [frame.origin, frame.x, frame.y].map((v) => new Vector3(...(v as Spot)));
  const lines = curves.map((c) =>
    c.points.flatMap(([u, v]) => o.clone().addScaledVector(x, u).addScaledVector(y, v).toArray()),
  );
  return drawLines(pairs(lines), {
    ...{ colour: token('carmine'), width: 1.6, through: true },
  });
}
