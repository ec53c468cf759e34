/**
 * A section through bodies: what lies before a plane is taken away; the cut is filled, outlined in ink and
 * hatched (ISO 128-50).
 */
import {
  AlwaysStencilFunc,
  BackSide,
  DecrementWrapStencilOp,
  DoubleSide,
  FrontSide,
  IncrementWrapStencilOp,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  NotEqualStencilFunc,
  Plane,
  PlaneGeometry,
  ReplaceStencilOp,
  Vector3,
  type BufferGeometry,
  type Color,
} from 'three';
import type { FrameData, Spot } from '../api/types';
import { paint } from './paints';

const WIDE = 1e5; // mm: a sheet that is larger than any part

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
      found.push(
        ...p[k]
          .clone()
          .lerp(p[(k + 1) % 3], a / (a - b))
          .toArray(),
      );
    }
  }
  return found;
}

/**
 * The cut of one body, filled. Where the nearest thing behind the plane is the inside of the body, more back
 * faces than front faces are seen through it: the stencil counts them, and a sheet in the plane is painted
 * where they do not even out. which : of several planes; others : the
 * half-spaces in which alone its cut is seen.
 */
export function filled(
  mesh: BufferGeometry,
  plane: Plane,
  which: number,
  others: Plane[],
  frame: FrameData,
  colour: Color,
  order: number,
): Mesh[] {
  const count = [BackSide, FrontSide].map((side) => {
    const op = side === BackSide ? IncrementWrapStencilOp : DecrementWrapStencilOp;
    const material = paint(
      `cut ${which}, counted ${side}`,
      () =>
        new MeshBasicMaterial({
          side,
          colorWrite: false,
          depthWrite: false,
          depthTest: false,
          stencilWrite: true,
          stencilFunc: AlwaysStencilFunc,
          stencilFail: op,
          stencilZFail: op,
          stencilZPass: op,
        }),
    );
    material.clippingPlanes = [plane];
    return material;
  });
  const fill = paint(
    `cut ${which}, filled ${colour.getHex()}`,
    () =>
      new MeshBasicMaterial({
        color: colour,
        side: DoubleSide,
        polygonOffset: true,
        polygonOffsetFactor: -1,
        polygonOffsetUnits: -1,
        stencilWrite: true,
        stencilRef: 0,
        stencilFunc: NotEqualStencilFunc,
        stencilFail: ReplaceStencilOp,
        stencilZFail: ReplaceStencilOp,
        stencilZPass: ReplaceStencilOp,
      }),
  );
  fill.clippingPlanes = others;
  const sheet = new Mesh(new PlaneGeometry(WIDE, WIDE), fill);
  const [x, y, n] = [frame.x, frame.y, frame.normal].map((v) => new Vector3(...(v as Spot)));
  sheet.applyMatrix4(new Matrix4().makeBasis(x, y, n).setPosition(...(frame.origin as Spot)));
  sheet.onAfterRender = (renderer) => renderer.clearStencil();
  const found = [...count.map((material) => new Mesh(mesh, material)), sheet];
  found.forEach((part, i) => (part.renderOrder = order + i / 1000));
  return found;
}

/**
 * Hatching of what an outline encloses, pairs of points as above: lines at 45° to the frame's X so many mm
 * apart, way 1 rising, -1 falling.
 */
export function hatch(edges: number[], frame: FrameData, apart: number, way: 1 | -1): number[] {
  const [o, x, y] = [frame.origin, frame.x, frame.y].map((v) => new Vector3(...(v as Spot)));
  const [across, along] = [x.clone().addScaledVector(y, -way), x.clone().multiplyScalar(way).add(y)].map(
    (v) => v.normalize(),
  );
  const met = new Map<number, number[]>();
  const [p, q] = [new Vector3(), new Vector3()];
  for (let i = 0; i < edges.length; i += 6) {
    p.fromArray(edges, i).sub(o);
    q.fromArray(edges, i + 3).sub(o);
    const [a, b] = [p.dot(across) / apart, q.dot(across) / apart];
    if (Math.abs(a - b) < 1e-12) continue;
    // From the first line beyond the lower end to the last one not beyond the upper: an end that two edges
    // share counts once.
    for (let k = Math.floor(Math.min(a, b)) + 1; k <= Math.max(a, b); k++) {
      const t = p.dot(along) + ((k - a) / (b - a)) * (q.dot(along) - p.dot(along));
      met.set(k, [...(met.get(k) ?? []), t]);
    }
  }
  const lines: number[] = [];
  for (const [k, ts] of met) {
    ts.sort((a, b) => a - b);
    for (let i = 0; i + 1 < ts.length; i += 2) {
      for (const t of [ts[i], ts[i + 1]])
        lines.push(
          ...o
            .clone()
            .addScaledVector(across, k * apart)
            .addScaledVector(along, t)
            .toArray(),
        );
    }
  }
  return lines;
}
