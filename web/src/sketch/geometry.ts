/**
 * Plain arithmetic on the drawing board: where things are, what a place is caught on, which constraints
 * suggest themselves.
 */
import type { Drawing, Flat } from '../api/types';
import { bentPlaces, endsOf, hiddenPoints, isOval } from './bent';

export type Snap = { at: Flat; on: string; kind: 'free' | 'point' | 'middle' | 'curve' };

export const ORIGIN = 'origin';
export const AXES: Record<string, [Flat, Flat]> = {
  x_axis: [
    [0, 0],
    [1, 0],
  ],
  y_axis: [
    [0, 0],
    [0, 1],
  ],
};

export function place(d: Drawing, point: string): Flat {
  if (point === ORIGIN) return [0, 0];
  return (d.points?.[point] as Flat) ?? [0, 0];
}

export function ends(d: Drawing, line: string): [Flat, Flat] {
  if (AXES[line]) return AXES[line];
  const c = d.curves![line];
  return c.kind === 'line'
    ? [place(d, c.start), place(d, c.end)]
    : [
        [0, 0],
        [0, 0],
      ];
}

export const distance = (a: Flat, b: Flat) => Math.hypot(a[0] - b[0], a[1] - b[1]);
export const middle = (a: Flat, b: Flat): Flat => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];

/** The foot of p on the line ab, kept between its ends unless it is endless. */
export function foot(p: Flat, a: Flat, b: Flat, endless = false): Flat {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  let t = ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / (dx * dx + dy * dy || 1);
  if (!endless) t = Math.min(Math.max(t, 0), 1);
  return [a[0] + t * dx, a[1] + t * dy];
}

export function sweep(d: Drawing, curve: string): [number, number] {
  const c = d.curves![curve];
  if (c.kind !== 'arc') return [0, 2 * Math.PI];
  const [o, s, e] = [place(d, c.centre), place(d, c.start), place(d, c.end)];
  const t0 = Math.atan2(s[1] - o[1], s[0] - o[0]);
  const t1 = Math.atan2(e[1] - o[1], e[0] - o[0]);
  return [t0, t0 + ((((t1 - t0) % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI) || 2 * Math.PI)];
}

/**
 * The sharp corner that an arc between two tangent lines rounds off: its place, the unit way from it to the
 * arc's centre, and how many radii lie between them; null where the arc is no rounding.
 */
export function sharpCorner(d: Drawing, arc: string): { corner: Flat; way: Flat; share: number } | null {
  const c = d.curves?.[arc];
  const touches = Object.values(d.constraints ?? {}).filter(
    (k) => k.kind === 'tangent' && k.of.includes(arc) && k.of.some((e) => d.curves?.[e]?.kind === 'line'),
  );
  if (c?.kind !== 'arc' || touches.length < 2) return null;
  const [t0, t1] = sweep(d, arc);
  const half = (t1 - t0) / 2;
  if (half > 1.5) return null; // nearly a half circle: its lines run side by side
  const [o, share] = [place(d, c.centre), 1 / Math.cos(half)];
  const out: Flat = [Math.cos(t0 + half), Math.sin(t0 + half)];
  return {
    corner: [o[0] + share * c.radius * out[0], o[1] + share * c.radius * out[1]],
    way: [-out[0], -out[1]],
    share,
  };
}

/** The nearest place of a curve. */
export function nearest(d: Drawing, curve: string, p: Flat): Flat {
  if (AXES[curve]) return foot(p, ...AXES[curve], true);
  const c = d.curves![curve];
  if (c.kind === 'line') return foot(p, ...ends(d, curve));
  if (isOval(c) || c.kind === 'spline') {
    const places = bentPlaces(d, curve)!;
    const feet = places.slice(1).map((b, i) => foot(p, places[i], b));
    return feet.reduce((best, q) => (distance(q, p) < distance(best, p) ? q : best));
  }
  const o = place(d, c.centre);
  const [t0, t1] = sweep(d, curve);
  let t = Math.atan2(p[1] - o[1], p[0] - o[0]);
  t = t0 + ((((t - t0) % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI));
  if (t > t1) t = t - t1 < t0 + 2 * Math.PI - t ? t1 : t0;
  return [o[0] + c.radius * Math.cos(t), o[1] + c.radius * Math.sin(t)];
}

/** A round step (1, 2 or 5 times a power of ten) of at least so many mm. */
export function roundStep(least: number): number {
  const power = 10 ** Math.floor(Math.log10(least));
  const factor = [1, 2, 5, 10].find((f) => f * power >= least) ?? 10;
  return factor * power;
}

export const rounded = (v: number, step: number) => Number((Math.round(v / step) * step).toFixed(6));

/** What lies under a place within `reach` mm: points before curves before axes, the nearest first. */
export function under(d: Drawing, p: Flat, reach: number, skip: Set<string> = new Set()): string[] {
  const found: [number, string][] = [];
  const hidden = hiddenPoints(d);
  for (const id of [...Object.keys(d.points ?? {}), ORIGIN]) {
    const off = distance(place(d, id), p);
    if (off < reach * 1.3 && !skip.has(id) && !hidden.has(id)) found.push([off - 3 * reach, id]);
  }
  for (const id of Object.keys(d.curves ?? {})) {
    const off = distance(nearest(d, id, p), p);
    // A curve stands before the construction that it runs along, such as what it was taken from.
    if (off < reach && !skip.has(id)) found.push([off + (d.curves![id].construction ? 0.05 * reach : 0), id]);
  }
  for (const id of Object.keys(AXES)) {
    const off = distance(nearest(d, id, p), p);
    if (off < reach * 0.7 && !skip.has(id)) found.push([off + reach, id]);
  }
  return found.sort((a, b) => a[0] - b[0]).map((f) => f[1]);
}

const FINE = 1e-3; // mm: a place that is caught on nothing is told by figures of this kind

/** Catch a place on what is near, else on the grid; quiet takes it as it is. */
export function catchPlace(d: Drawing, p: Flat, reach: number, step: number, quiet: boolean): Snap {
  if (quiet) return { at: [rounded(p[0], FINE), rounded(p[1], FINE)], on: '', kind: 'free' };
  const free: Flat = [rounded(p[0], step), rounded(p[1], step)];
  const [first] = under(d, p, reach);
  for (const [id, c] of Object.entries(d.curves ?? {})) {
    if (c.kind !== 'line' || (first && (first === ORIGIN || d.points?.[first]))) continue;
    const m = middle(...ends(d, id));
    if (distance(m, p) < reach) return { at: m, on: `middle:${id}`, kind: 'middle' };
  }
  if (!first) return { at: free, on: '', kind: 'free' };
  if (first === ORIGIN || d.points?.[first]) return { at: place(d, first), on: first, kind: 'point' };
  return { at: nearest(d, first, free), on: first, kind: 'curve' };
}

/**
 * Where a circle about a centre would touch a line, circle or arc near a place on its rim; the nearest, or
 * null.
 */
export function touching(
  d: Drawing,
  centre: Flat,
  rim: Flat,
  reach: number,
): { at: Flat; on: string } | null {
  let best: { at: Flat; on: string } | null = null;
  for (const [id, c] of Object.entries(d.curves ?? {})) {
    let feet: Flat[] = [];
    if (c.kind === 'line') feet = [foot(centre, ...ends(d, id), true)];
    else if (c.kind === 'circle' || c.kind === 'arc') {
      const o = place(d, c.centre);
      const off = distance(centre, o);
      if (off < reach) continue; // about the same centre nothing touches
      const u: Flat = [(centre[0] - o[0]) / off, (centre[1] - o[1]) / off];
      feet = [1, -1].map((s) => [o[0] + s * c.radius * u[0], o[1] + s * c.radius * u[1]]);
    } else continue;
    for (const at of feet) {
      // Of an arc or line, not only of what it is a part of
      const onIt = distance(nearest(d, id, at), at) < 1e-6;
      if (
        onIt &&
        distance(at, rim) < reach * 1.5 &&
        distance(at, centre) > reach &&
        (!best || distance(at, rim) < distance(best.at, rim))
      )
        best = { at, on: id };
    }
  }
  return best;
}

/** Level or upright when a line is drawn within two degrees and a half of it; the end is put there. */
export function straighten(start: Flat, end: Flat): { at: Flat; kind: 'horizontal' | 'vertical' | '' } {
  const angle = Math.abs(Math.atan2(end[1] - start[1], end[0] - start[0]));
  const slack = (2.5 * Math.PI) / 180;
  if (Math.min(angle, Math.PI - angle) < slack) return { at: [end[0], start[1]], kind: 'horizontal' };
  if (Math.abs(angle - Math.PI / 2) < slack) return { at: [start[0], end[1]], kind: 'vertical' };
  return { at: end, kind: '' };
}

/** Centre and radius of the circle through three places, or null when they lie in line. */
export function circleThrough(a: Flat, b: Flat, c: Flat): { centre: Flat; radius: number } | null {
  const d = 2 * (a[0] * (b[1] - c[1]) + b[0] * (c[1] - a[1]) + c[0] * (a[1] - b[1]));
  if (Math.abs(d) < 1e-9) return null;
  const [a2, b2, c2] = [a, b, c].map((p) => p[0] * p[0] + p[1] * p[1]);
  const centre: Flat = [
    (a2 * (b[1] - c[1]) + b2 * (c[1] - a[1]) + c2 * (a[1] - b[1])) / d,
    (a2 * (c[0] - b[0]) + b2 * (a[0] - c[0]) + c2 * (b[0] - a[0])) / d,
  ];
  return { centre, radius: distance(centre, a) };
}

const MEET = 1e-6; // mm

/** All curves that hang together with one by shared ends. */
export function chainOf(d: Drawing, curve: string): string[] {
  const parent: Record<string, string> = {};
  const root = (p: string): string => (parent[p] && parent[p] !== p ? root(parent[p]) : p);
  for (const k of Object.values(d.constraints ?? {}))
    if (k.kind === 'coincident') parent[root(k.of[1])] = root(k.of[0]);
  // What was taken in meets where the model's edges do.
  const corners: [string, Flat][] = Object.keys(d.taken ?? {}).flatMap((id) =>
    endsOf(d.curves?.[id]).map((p): [string, Flat] => [p, place(d, p)]),
  );
  corners.forEach(([p, at], i) => {
    const same = corners.slice(0, i).find(([, other]) => distance(at, other) < MEET);
    if (same) parent[root(p)] = root(same[0]);
  });
  const tips = (id: string): string[] => endsOf(d.curves?.[id]).map(root);
  const construction = d.curves?.[curve]?.construction;
  const found = [curve];
  for (let i = 0; i < found.length; i++) {
    for (const id of Object.keys(d.curves ?? {})) {
      if (
        !found.includes(id) &&
        d.curves![id].construction === construction &&
        tips(id).some((t) => tips(found[i]).includes(t))
      )
        found.push(id);
    }
  }
  return found;
}

/** Places along a curve, close enough to tell whether it lies in a box. */
function along(d: Drawing, id: string): Flat[] {
  const c = d.curves![id];
  if (c.kind === 'line') return ends(d, id);
  if (isOval(c) || c.kind === 'spline') return bentPlaces(d, id)!;
  const [o, [t0, t1]] = [place(d, c.centre), sweep(d, id)];
  return Array.from({ length: 17 }, (_, i) => t0 + ((t1 - t0) * i) / 16).map((t) => [
    o[0] + c.radius * Math.cos(t),
    o[1] + c.radius * Math.sin(t),
  ]);
}

/** Whether a place lies in a box (two places) or a lasso (more). */
export function within(shape: Flat[], p: Flat): boolean {
  const [a, b] = shape;
  if (shape.length === 2)
    return (
      p[0] >= Math.min(a[0], b[0]) &&
      p[0] <= Math.max(a[0], b[0]) &&
      p[1] >= Math.min(a[1], b[1]) &&
      p[1] <= Math.max(a[1], b[1])
    );
  let odd = false;
  shape.forEach((q, i) => {
    const r = shape[(i + 1) % shape.length];
    if (q[1] > p[1] !== r[1] > p[1] && p[0] < q[0] + ((p[1] - q[1]) * (r[0] - q[0])) / (r[1] - q[1]))
      odd = !odd;
  });
  return odd;
}

/** The lower left and upper right corner of all that is drawn; null for an empty surface. */
export function boundsOf(d: Drawing): [Flat, Flat] | null {
  const hidden = hiddenPoints(d);
  const places = [
    ...Object.keys(d.curves ?? {}).flatMap((id) => along(d, id)),
    ...Object.entries(d.points ?? {})
      .filter(([id]) => !hidden.has(id))
      .map(([, p]) => p as Flat),
  ];
  if (!places.length) return null;
  const [xs, ys] = [places.map((p) => p[0]), places.map((p) => p[1])];
  return [
    [Math.min(...xs), Math.min(...ys)],
    [Math.max(...xs), Math.max(...ys)],
  ];
}

/**
 * Curves and loose or joined points that lie wholly in a box (two places) or a lasso (more); of points at one
 * place only one.
 */
export function inside(d: Drawing, shape: Flat[]): string[] {
  const curves = Object.keys(d.curves ?? {}).filter((id) => along(d, id).every((p) => within(shape, p)));
  const places: Flat[] = [];
  const hidden = hiddenPoints(d);
  const points = Object.entries(d.points ?? {}).filter(([id, p]) => {
    if (hidden.has(id) || !within(shape, p as Flat) || places.some((q) => distance(q, p as Flat) < 1e-6))
      return false;
    places.push(p as Flat);
    return true;
  });
  return [...curves, ...points.map(([id]) => id)];
}

/** The direction in which a line or arc leaves the end of it that is a point, or null. */
export function leaving(d: Drawing, point: string): Flat | null {
  for (const c of Object.values(d.curves ?? {})) {
    if ((c.kind !== 'line' && c.kind !== 'arc') || (point !== c.start && point !== c.end)) continue;
    const ahead = point === c.end ? 1 : -1;
    const [a, b] = [place(d, c.start), place(d, c.end)];
    if (c.kind === 'line') {
      const n = distance(a, b) || 1;
      return [(ahead * (b[0] - a[0])) / n, (ahead * (b[1] - a[1])) / n];
    }
    const [o, q] = [place(d, c.centre), place(d, point)];
    const n = distance(o, q) || 1;
    return [(-ahead * (q[1] - o[1])) / n, (ahead * (q[0] - o[0])) / n];
  }
  return null;
}
