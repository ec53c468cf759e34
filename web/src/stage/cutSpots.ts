/** Places on the outline of a cut, for measuring: pieces of it, and its corners. */
import { Vector3, type Plane } from 'three';
import type { FrameData } from '../api/types';
import type { Thing } from './things';
import type { View } from './view';

const NEAR = 6; // px
const SAME = 1e-5; // mm
const STRAIGHT = Math.cos((8 * Math.PI) / 180); // pieces of a bent line turn by less from one to the next

/** The outline of one cut: its plane, and its lines, six figures each; others : what the other planes leave of it. */
export interface CutLines {
  frame: FrameData;
  lines: number[];
  others: Plane[];
}

/** What of the outlines lies at a pixel: a corner before the piece that it ends. */
export function cutSpots(cuts: CutLines[], x: number, y: number, view: View): Thing[] {
  let best: { cut: CutLines; at: number; share: number; far: number } | null = null;
  for (const cut of cuts)
    for (let at = 0; at < cut.lines.length; at += 6) {
      const [a, b] = [view.screen(end(cut, at, 0)), view.screen(end(cut, at, 1))];
      const way = [b[0] - a[0], b[1] - a[1]];
      const size = way[0] ** 2 + way[1] ** 2;
      const share = size ? Math.min(Math.max(((x - a[0]) * way[0] + (y - a[1]) * way[1]) / size, 0), 1) : 0;
      const far = Math.hypot(a[0] + share * way[0] - x, a[1] + share * way[1] - y);
      if (far > NEAR || (best && far >= best.far)) continue;
      const place = end(cut, at, 0).lerp(end(cut, at, 1), share);
      if (!cut.others.every((p) => p.distanceToPoint(place) > -SAME)) continue;
      best = { cut, at, share, far };
    }
  if (!best) return [];
  const { cut, at, share } = best;
  const place = end(cut, at, 0).lerp(end(cut, at, 1), share);
  const path = piece(cut, at);
  const depth = -view.towards().dot(place);
  const plane = { origin: cut.frame.origin, normal: cut.frame.normal, x: cut.frame.x };
  const thing = (near: Vector3, corner: boolean): Thing => ({
    kind: 'cut',
    key: `cut:${corner}:${corner ? near.toArray().map((v) => v.toFixed(4)) : path.slice(0, 6)}`,
    words: corner ? 'corner of the cut' : 'outline of the cut',
    facets: [],
    ref: { of: 'cut', plane, near: near.toArray(), end: corner },
    depth,
    place: near,
    path: corner ? near.toArray().flatMap((_, i) => cross(near, i)) : path,
  });
  const corners = [path.slice(0, 3), path.slice(-3)]
    .map((p) => new Vector3(...(p as [number, number, number])))
    .filter((p) => {
      const [u, v] = view.screen(p);
      return Math.hypot(u - x, v - y) < NEAR;
    });
  return [...corners.slice(0, 1).map((p) => thing(p, true)), thing(place, false)];
}

const end = (cut: CutLines, at: number, which: 0 | 1) => new Vector3().fromArray(cut.lines, at + 3 * which);

/** A small stroke through a place along an axis. */
function cross(p: Vector3, axis: number): number[] {
  const [a, b] = [p.toArray(), p.toArray()];
  a[axis] -= 0.01;
  b[axis] += 0.01;
  return [...a, ...b];
}

/** The piece that a line is part of: as far as the outline goes on without a corner, as lines in a row. */
function piece(cut: CutLines, at: number): number[] {
  const { lines } = cut;
  const used = new Set([at]);
  const way = (i: number) =>
    end(cut, i, 1)
      .sub(end(cut, i, 0))
      .normalize();
  const found = lines.slice(at, at + 6);
  for (const back of [false, true])
    for (;;) {
      const here = new Vector3().fromArray(back ? found : found.slice(-3));
      const from = back
        ? new Vector3().fromArray(found, 3)
        : new Vector3().fromArray(found, found.length - 6);
      const going = here.clone().sub(from).normalize();
      let next = -1;
      let turned = false;
      for (let i = 0; i < lines.length && next < 0; i += 6) {
        if (used.has(i)) continue;
        const [a, b] = [end(cut, i, 0), end(cut, i, 1)];
        if (a.distanceTo(here) < SAME && way(i).dot(going) > STRAIGHT) [next, turned] = [i, false];
        else if (b.distanceTo(here) < SAME && -way(i).dot(going) > STRAIGHT) [next, turned] = [i, true];
      }
      if (next < 0) break;
      used.add(next);
      const [a, b] = [lines.slice(next, next + 3), lines.slice(next + 3, next + 6)];
      const [near, far] = turned ? [b, a] : [a, b];
      if (back) found.unshift(...far, ...near);
      else found.push(...near, ...far);
    }
  return found;
}
