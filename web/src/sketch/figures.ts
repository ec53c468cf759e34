/** Where the lines, arrows and figure of a dimension stand (ISO 129), in mm of the sketch. px: mm a pixel. */
import type { ConstraintRow, Drawing, Flat } from '../api/types';
import { AXES, distance, ends, foot, middle, place } from './geometry';

export type Figure = {
  id: string;
  /** Thin lines: extension lines and the dimension line. */
  lines: [Flat, Flat][];
  /** Arrow tips with the direction they point in. */
  arrows: { at: Flat; to: Flat }[];
  arc?: { centre: Flat; radius: number; from: number; to: number };
  text: Flat;
  shown: string;
};

const OUT = 26; // px from the geometry to the dimension line
const OVER = 5; // px an extension line goes over it

const add = (a: Flat, d: Flat, k: number): Flat => [a[0] + k * d[0], a[1] + k * d[1]];
const unit = (a: Flat, b: Flat): Flat => {
  const n = distance(a, b) || 1;
  return [(b[0] - a[0]) / n, (b[1] - a[1]) / n];
};

export function figure(row: ConstraintRow, d: Drawing, centre: Flat, px: number, rank: number): Figure | null {
  if (row.kind === 'radius' || row.kind === 'diameter') return round(row, d, px);
  if (row.kind === 'angle') return angle(row, d, px);
  return straight(row, d, centre, px, rank);
}

/** The two places a distance is measured between. */
function span(row: ConstraintRow, d: Drawing): [Flat, Flat] | null {
  const isPoint = (e: string) => e === 'origin' || !!d.points?.[e];
  const [a, b] = row.of;
  if (!b) return AXES[a] ? null : ends(d, a);
  if (isPoint(a) && isPoint(b)) return [place(d, a), place(d, b)];
  const from = isPoint(a) ? place(d, a) : middle(...ends(d, a));
  return [from, foot(from, ...ends(d, b), true)];
}

function straight(row: ConstraintRow, d: Drawing, centre: Flat, px: number, rank: number): Figure | null {
  const found = span(row, d);
  if (!found) return null;
  const [a, b] = found;
  let along = unit(a, b);
  if (row.manner === 'horizontal') along = [1, 0];
  if (row.manner === 'vertical') along = [0, 1];
  let across: Flat = [-along[1], along[0]];
  const mid = middle(a, b);
  const side = (mid[0] - centre[0]) * across[0] + (mid[1] - centre[1]) * across[1];
  if (side < 0) across = [-across[0], -across[1]];
  const height = (p: Flat) => (p[0] - mid[0]) * across[0] + (p[1] - mid[1]) * across[1];
  const away = row.at ? height(row.at as Flat) : Math.max(height(a), height(b)) + (OUT + rank * 22) * px;
  const [p, q] = [add(a, across, away - height(a)), add(b, across, away - height(b))];
  const over = (away < 0 ? -OVER : OVER) * px;
  const lines: [Flat, Flat][] = [[p, q], [a, add(p, across, over)], [b, add(q, across, over)]];
  return { id: row.id, lines, arrows: [{ at: p, to: unit(q, p) }, { at: q, to: unit(p, q) }], text: middle(p, q), shown: bare(row) };
}

function round(row: ConstraintRow, d: Drawing, px: number): Figure | null {
  const c = d.curves?.[row.of[0]];
  if (!c || c.kind === 'line') return null;
  const o = place(d, c.centre);
  const to: Flat = row.at ? unit(o, row.at as Flat) : [Math.SQRT1_2, Math.SQRT1_2];
  const [tip, knee] = [add(o, to, c.radius), row.at ? (row.at as Flat) : add(o, to, c.radius + 30 * px)];
  const end: Flat = [knee[0] + (to[0] < 0 ? -34 : 34) * px, knee[1]];
  const sign = row.kind === 'radius' ? 'R' : 'Ø';
  return { id: row.id, lines: [[tip, knee], [knee, end]], arrows: [{ at: tip, to: [-to[0], -to[1]] }], text: middle(knee, end), shown: sign + bare(row) };
}

function angle(row: ConstraintRow, d: Drawing, px: number): Figure | null {
  const [[a, b], [c, e]] = row.of.map((l) => ends(d, l));
  const [u, v] = [unit(a, b), unit(c, e)];
  const cross = u[0] * v[1] - u[1] * v[0];
  if (Math.abs(cross) < 1e-9) return null;
  const t = ((c[0] - a[0]) * v[1] - (c[1] - a[1]) * v[0]) / cross;
  const o = add(a, u, t);
  const radius = row.at ? distance(o, row.at as Flat) : 46 * px;
  const from = Math.atan2(u[1], u[0]);
  let to = Math.atan2(v[1], v[0]);
  while (to - from > Math.PI) to -= 2 * Math.PI;
  while (to - from < -Math.PI) to += 2 * Math.PI;
  const text: Flat = [o[0] + radius * Math.cos((from + to) / 2), o[1] + radius * Math.sin((from + to) / 2)];
  return { id: row.id, lines: [], arrows: [], arc: { centre: o, radius, from, to }, text, shown: row.shown };
}

/** The figure as drawings have it: without the unit that is everywhere the same. */
const bare = (row: ConstraintRow) => row.shown.replace(/ (mm|in)(\)?)$/, '$2');
