/** Geometry that was copied from a sketch, for this or another one. */
import type { Drawing, Flat } from '../api/types';
import { pointsOf } from './bent';

export type Copied = { drawing: Drawing; middle: Flat };

class Clipboard {
  what: Copied | null = null;

  /** Copy picked curves and points with the constraints among them; returns how many. */
  take(drawing: Drawing, picked: string[]): number {
    const curves = Object.fromEntries(
      Object.entries(drawing.curves ?? {}).filter(
        ([id]) => picked.includes(id) || picked.some((e) => drawing.texts?.[e]?.base === id),
      ),
    );
    const own = new Set(Object.values(curves).flatMap(pointsOf));
    const points = Object.fromEntries(
      Object.entries(drawing.points ?? {}).filter(([id]) => own.has(id) || picked.includes(id)),
    );
    const texts = Object.fromEntries(
      Object.entries(drawing.texts ?? {}).filter(([id, t]) => picked.includes(id) && t.base in curves),
    );
    const count = Object.keys(curves).length + Object.keys(points).filter((p) => !own.has(p)).length;
    if (!count) return 0;
    const known = (e: string) => e in curves || e in points;
    const constraints = Object.fromEntries(
      Object.entries(drawing.constraints ?? {}).filter(([, c]) => c.of.every(known)),
    );
    const places = Object.values(points) as Flat[];
    const mid = (i: 0 | 1) =>
      (Math.min(...places.map((p) => p[i])) + Math.max(...places.map((p) => p[i]))) / 2;
    this.what = {
      drawing: { points, curves, constraints, texts, last: drawing.last } as Drawing,
      middle: [mid(0), mid(1)],
    };
    return count;
  }
}

export const copied = new Clipboard();
