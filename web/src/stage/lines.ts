/** Lines of a width in pixels. */
import { Vector2, type Color, type Group, type Mesh, type Object3D } from 'three';
import { LineMaterial } from 'three/examples/jsm/lines/LineMaterial.js';
import { LineSegments2 } from 'three/examples/jsm/lines/LineSegments2.js';
import { LineSegmentsGeometry } from 'three/examples/jsm/lines/LineSegmentsGeometry.js';
import { paint } from './paints';

export type Pen = {
  colour: Color;
  width: number;
  dash?: number;
  gap?: number;
  through?: boolean;
  scale?: number;
};

const resolution = new Vector2(1, 1);

export function setResolution(width: number, height: number): void {
  resolution.set(width, height);
}

/**
 * Empty a group of things made for the moment, and give back what their shapes hold of the graphics memory;
 * materials are shared.
 */
export function discard(group: Object3D): void {
  group.traverse((thing) => (thing as Mesh).geometry?.dispose());
  group.clear();
}

/** The material of lines. */
export function lineMaterial(pen: Pen): LineMaterial {
  const material = new LineMaterial({
    color: pen.colour,
    linewidth: pen.width,
    dashed: pen.dash !== undefined,
    dashSize: (pen.dash ?? 1) / (pen.scale ?? 1),
    gapSize: (pen.gap ?? 1) / (pen.scale ?? 1),
    depthTest: !pen.through,
  });
  material.resolution = resolution;
  return material;
}

/**
 * Draw pairs of points (six numbers each). `through`: also visible behind bodies. dash and gap are in px at
 * `scale` px/mm. own : not shared with other lines.
 */
export function drawLines(points: number[], pen: Pen, own?: LineMaterial): LineSegments2 {
  const { colour, ...look } = pen;
  const material = own ?? paint(`line ${colour.getHex()} ${JSON.stringify(look)}`, () => lineMaterial(pen));
  const geometry = new LineSegmentsGeometry();
  geometry.setPositions(points.length ? points : [0, 0, 0, 0, 0, 0]);
  const lines = new LineSegments2(geometry, material);
  if (pen.dash !== undefined) lines.computeLineDistances();
  lines.visible = points.length > 0;
  lines.renderOrder = pen.through ? 5 : 2;
  lines.raycast = () => undefined;
  return lines;
}

/** Lines by their pens: what one pen draws is one draw call. */
export class Inks {
  private readonly pens = new Map<string, { pen: Pen; points: number[][] }>();

  add(points: number[], pen: Pen): void {
    if (!points.length) return;
    const { colour, ...look } = pen;
    const key = `${colour.getHex()} ${JSON.stringify(look)}`;
    const known = this.pens.get(key) ?? { pen, points: [] };
    known.points.push(points);
    this.pens.set(key, known);
  }

  /** Draw all of them into a group. */
  into(group: Group): void {
    for (const { pen, points } of this.pens.values()) group.add(drawLines(points.flat(), pen));
  }
}
