/** A section through bodies: what lies before a plane is taken away, and the outline of the cut is drawn in ink. */
import { Plane, Vector3, type BufferGeometry } from 'three';
import type { FrameData, Spot } from '../api/types';

/** The half of space behind a frame's plane, as the renderer keeps it. */
export function behind(frame: FrameData): Plane {
  const n = new Vector3(...(frame.normal as Spot));
  return new Plane(n.clone().negate(), n.dot(new Vector3(...(frame.origin as Spot))));
}

/** Pairs of points (six numbers each) along which a mesh is cut by a plane. */
export function outline(mesh: BufferGeometry, plane: Plane): number[] {
  const [places, index] = [mesh.getAttribute('position'), mesh.getIndex()!];
  const found: number[] = [];
  const p = [new Vector3(), new Vector3(), new Vector3()];
  for (let t = 0; t < index.count; t += 3) {
    for (const k of [0, 1, 2]) p[k].fromBufferAttribute(places, index.getX(t + k));
    const off = p.map((v) => plane.distanceToPoint(v));
    if (off.every((d) => d > 0) || off.every((d) => d <= 0)) continue;
    for (const k of [0, 1, 2]) {
      const [a, b] = [off[k], off[(k + 1) % 3]];
      if (a > 0 === b > 0) continue;
      found.push(...p[k].clone().lerp(p[(k + 1) % 3], a / (a - b)).toArray());
    }
  }
  return found;
}
