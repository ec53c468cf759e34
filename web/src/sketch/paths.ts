/** A curve as an SVG path, and where its symbols stand. */
import type { Drawing, Flat } from '../api/types';
import { axesOf, bentPlaces, endsOf, isOval } from './bent';
import { ends, middle, place, sweep } from './geometry';

export function pathOf(d: Drawing, id: string): string {
  const c = d.curves![id];
  if (c.kind === 'line')
    return `M${ends(d, id)
      .map((p) => p.join(' '))
      .join('L')}`;
  if (c.kind === 'spline')
    return `M${bentPlaces(d, id)!
      .map((p) => p.join(' '))
      .join('L')}`;
  if (c.kind === 'ellipse' && !c.side) {
    const { middle: m, half } = axesOf(d, c);
    const [a, turn] = [Math.hypot(...half), (Math.atan2(half[1], half[0]) * 180) / Math.PI];
    const end = (s: number) => `${m[0] + s * half[0]} ${m[1] + s * half[1]}`;
    return `M${end(1)}A${a} ${c.radius} ${turn} 0 1 ${end(-1)}A${a} ${c.radius} ${turn} 0 1 ${end(1)}`;
  }
  if (isOval(c))
    return `M${bentPlaces(d, id)!
      .map((p) => p.join(' '))
      .join('L')}`;
  const o = place(d, c.centre);
  const [t0, t1] = sweep(d, id);
  const on = (t: number): Flat => [o[0] + c.radius * Math.cos(t), o[1] + c.radius * Math.sin(t)];
  const stops = [t0, (t0 + t1) / 2, t1].map(on);
  return (
    `M${stops[0].join(' ')}` +
    stops
      .slice(1)
      .map((p) => `A${c.radius} ${c.radius} 0 ${(t1 - t0) / 2 > Math.PI ? 1 : 0} 1 ${p.join(' ')}`)
      .join('')
  );
}

/**
 * The middle of a curve, or a point's place, with the direction away from the curve in which a symbol stands
 * clear.
 */
export function spotOf(d: Drawing, id: string): { at: Flat; away: Flat } | null {
  const c = d.curves?.[id];
  if (!c) return d.points?.[id] || id === 'origin' ? { at: place(d, id), away: [0.7, 0.7] } : null;
  if (c.kind === 'line') {
    const [a, b] = ends(d, id);
    const n = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    return { at: middle(a, b), away: [-(b[1] - a[1]) / n, (b[0] - a[0]) / n] };
  }
  const bent = bentPlaces(d, id);
  if (bent || isOval(c) || c.kind === 'spline') {
    const [p, q] = [bent![bent!.length >> 2], bent![(bent!.length >> 2) + 1]];
    const n = Math.hypot(q[0] - p[0], q[1] - p[1]) || 1;
    return { at: p, away: [(q[1] - p[1]) / n, -(q[0] - p[0]) / n] };
  }
  const o = place(d, c.centre);
  const [t0, t1] = sweep(d, id);
  const t = c.kind === 'circle' ? 2.3 : (t0 + t1) / 2;
  const side = c.kind === 'arc' ? -1 : 1; // inside an arc: outside there may be the sharp corner
  return {
    at: [o[0] + c.radius * Math.cos(t), o[1] + c.radius * Math.sin(t)],
    away: [side * Math.cos(t), side * Math.sin(t)],
  };
}

/** Where two curves are joined end to end, or null. */
export function jointOf(d: Drawing, one: string, other: string): Flat | null {
  const tips = (id: string): Flat[] => {
    return endsOf(d.curves?.[id]).map((p) => place(d, p));
  };
  return tips(one).find((p) => tips(other).some((q) => Math.hypot(p[0] - q[0], p[1] - q[1]) < 1e-6)) ?? null;
}

/**
 * The ends of a line or arc, each with the direction across the curve there, for the ticks that mark taken
 * geometry.
 */
export function tickOf(d: Drawing, id: string): { at: Flat; across: Flat }[] {
  const c = d.curves?.[id];
  if (c?.kind !== 'line' && c?.kind !== 'arc') return [];
  return [place(d, c.start), place(d, c.end)].map((at) => {
    const [from, to] = c.kind === 'line' ? ends(d, id) : [place(d, c.centre), at];
    const n = Math.hypot(to[0] - from[0], to[1] - from[1]) || 1;
    const [x, y] = [(to[0] - from[0]) / n, (to[1] - from[1]) / n];
    return { at, across: c.kind === 'line' ? [-y, x] : [x, y] };
  });
}
