/** Where the lines, arrows and figure of a dimension stand (ISO 129), in mm of the sketch. px: mm a pixel. */
import type { ConstraintRow, Drawing, Flat } from '../api/types';
import { axesOf, bentPlaces, isOval, nearestOn } from './bent';
import { AXES, distance, ends, foot, middle, place, sweep } from './geometry';

export type Figure = {
  id: string;
  /** Thin lines: extension lines and the dimension line. */
  lines: [Flat, Flat][];
  /** Arrow tips with the direction they point in. */
  arrows: { at: Flat; to: Flat }[];
  arc?: { centre: Flat; radius: number; from: number; to: number };
  text: Flat;
  shown: string;
  /** It only tells its value. */
  reference: boolean;
  /** Where a straight one lies: figures of one key overlap when their spans do. */
  lane?: { key: string; from: number; to: number };
};

const OUT = 26; // px from the geometry to the dimension line
const OVER = 5; // px an extension line goes over it

const add = (a: Flat, d: Flat, k: number): Flat => [a[0] + k * d[0], a[1] + k * d[1]];
const unit = (a: Flat, b: Flat): Flat => {
  const n = distance(a, b) || 1;
  return [(b[0] - a[0]) / n, (b[1] - a[1]) / n];
};

/**
 * All figures; straight ones that would lie on each other are staggered outwards, the shorter nearer to the
 * part.
 */
export function figuresOf(rows: ConstraintRow[], d: Drawing, px: number): Figure[] {
  const all = Object.values(d.points ?? {}) as Flat[];
  const range = (i: 0 | 1): Flat =>
    all.length ? [Math.min(...all.map((p) => p[i])), Math.max(...all.map((p) => p[i]))] : [0, 0];
  const box: [Flat, Flat] = [range(0), range(1)];
  const lanes: Record<string, [number, number][][]> = {};
  const length = (r: ConstraintRow) => (typeof r.value === 'number' ? r.value : 0);
  const found = [...rows]
    .sort((a, b) => length(a) - length(b))
    .map((row) => {
      const trial = figure(row, d, box, px, 0);
      if (!trial?.lane || row.at) return trial;
      const { key, from, to } = trial.lane;
      const ranks = (lanes[key] ??= []);
      const gap = 4 * px;
      let rank = ranks.findIndex((taken) => taken.every(([a, b]) => to < a - gap || from > b + gap));
      if (rank < 0) rank = ranks.push([]) - 1;
      ranks[rank].push([from, to]);
      return rank ? figure(row, d, box, px, rank) : trial;
    });
  return found.filter((f) => f !== null);
}

function figure(row: ConstraintRow, d: Drawing, box: [Flat, Flat], px: number, rank: number): Figure | null {
  if (row.kind === 'radius' || row.kind === 'diameter') return round(row, d, px);
  if (row.kind === 'arc_length') return alongArc(row, d, px);
  if (row.kind === 'turned') return null;
  if (row.kind === 'angle') return angle(row, d, px);
  return straight(row, d, box, px, rank);
}

/** The way along an arc, beside it. */
function alongArc(row: ConstraintRow, d: Drawing, px: number): Figure | null {
  const c = d.curves?.[row.of[0]];
  if (!c || c.kind !== 'arc') return null;
  const [o, [from, to]] = [place(d, c.centre), sweep(d, row.of[0])];
  const radius = row.at ? distance(o, row.at as Flat) : c.radius + OUT * px;
  const on = (t: number, r: number): Flat => [o[0] + r * Math.cos(t), o[1] + r * Math.sin(t)];
  const lines: [Flat, Flat][] = [from, to].map((t) => [on(t, c.radius), on(t, radius)]);
  return {
    id: row.id,
    lines,
    arrows: [],
    arc: { centre: o, radius, from, to },
    text: on((from + to) / 2, radius),
    shown: `⌢${row.figure}`,
    reference: row.reference,
  };
}

/** The nearest place of a round curve's edge to another place. */
function edge(d: Drawing, curve: string, p: Flat): Flat {
  const c = d.curves![curve] as { centre: string; radius: number };
  const o = place(d, c.centre);
  return add(o, unit(o, p), c.radius);
}

/** The two places a distance is measured between. */
function span(row: ConstraintRow, d: Drawing): [Flat, Flat] | null {
  const isPoint = (e: string) => e === 'origin' || !!d.points?.[e];
  const isRound = (e: string) => ['circle', 'arc'].includes(d.curves?.[e]?.kind ?? '');
  const centre = (e: string) => place(d, (d.curves![e] as { centre: string }).centre);
  if (row.kind === 'offset') return offsetSpan(row, d);
  const oval = d.curves?.[row.of[0]];
  if (isOval(oval)) {
    const { middle: m, half, across } = axesOf(d, oval);
    const v = row.kind === 'axis' ? half : across;
    return [add(m, v, -1), add(m, v, 1)];
  }
  if (row.kind === 'shifted') return [place(d, row.of[1]), place(d, row.of[2])];
  const [a, b] = row.of;
  if (b && isRound(b)) {
    if (isRound(a)) return [edge(d, a, centre(b)), edge(d, b, centre(a))];
    const from = isPoint(a) ? place(d, a) : foot(centre(b), ...ends(d, a), true);
    return [from, edge(d, b, from)];
  }
  if (!b) return AXES[a] ? null : ends(d, a);
  if (isPoint(a) && isPoint(b)) return [place(d, a), place(d, b)];
  const from = isPoint(a) ? place(d, a) : middle(...ends(d, a));
  return [from, foot(from, ...ends(d, b), true)];
}

/** Across an offset: from the middle of its first source to the curve beside it. */
function offsetSpan(row: ConstraintRow, d: Drawing): [Flat, Flat] | null {
  const [source, made] = row.of;
  if (d.curves?.[source]?.kind === 'line') {
    const from = middle(...ends(d, source));
    return [from, foot(from, ...ends(d, made), true)];
  }
  const [along, beside] = [bentPlaces(d, source), bentPlaces(d, made)];
  if (along && beside) {
    const at = beside[Math.floor(beside.length / 2)];
    return [nearestOn(along, at), at];
  }
  const to = facing(d, source);
  const [s, m] = [d.curves![source], d.curves![made]] as { centre: string; radius: number }[];
  const o = place(d, s.centre);
  return [add(o, to, s.radius), add(o, to, m.radius)];
}

function straight(
  row: ConstraintRow,
  d: Drawing,
  box: [Flat, Flat],
  px: number,
  rank: number,
): Figure | null {
  const found = span(row, d);
  if (!found) return null;
  const [a, b] = found;
  let along = unit(a, b);
  if (row.manner === 'horizontal') along = [1, 0];
  if (row.manner === 'vertical') along = [0, 1];
  let across: Flat = [-along[1], along[0]];
  const mid = middle(a, b);
  const centre: Flat = [(box[0][0] + box[0][1]) / 2, (box[1][0] + box[1][1]) / 2];
  const side = (mid[0] - centre[0]) * across[0] + (mid[1] - centre[1]) * across[1];
  if (side < 0) across = [-across[0], -across[1]];
  const height = (p: Flat) => (p[0] - mid[0]) * across[0] + (p[1] - mid[1]) * across[1];
  // Along X or Y a dimension stands outside of everything; aslant, beside what it measures.
  const level = Math.min(Math.abs(along[0]), Math.abs(along[1])) < 1e-6;
  const short = row.kind === 'offset' || row.kind === 'shifted';
  const outside =
    level && !short
      ? Math.max(...box[0].flatMap((x) => box[1].map((y) => height([x, y]))))
      : Math.max(height(a), height(b));
  const away = row.at ? height(row.at as Flat) : short ? 0 : outside + (OUT + rank * 22) * px;
  const [p, q] = [add(a, across, away - height(a)), add(b, across, away - height(b))];
  const over = (away < 0 ? -OVER : OVER) * px;
  const lines: [Flat, Flat][] = [
    [p, q],
    [a, add(p, across, over)],
    [b, add(q, across, over)],
  ];
  const on = (v: Flat) => v[0] * along[0] + v[1] * along[1];
  const lane = {
    key: across.map((v) => Math.round(v * 1e4) + 0).join(),
    from: Math.min(on(a), on(b)),
    to: Math.max(on(a), on(b)),
  };
  return {
    id: row.id,
    lines,
    arrows: [
      { at: p, to: unit(q, p) },
      { at: q, to: unit(p, q) },
    ],
    text: middle(p, q),
    shown: row.figure,
    reference: row.reference,
    lane: short || !level ? undefined : lane,
  };
}

/** Where an arrow best meets a circle or arc: at an arc's middle. */
function facing(d: Drawing, curve: string): Flat {
  if (d.curves?.[curve]?.kind !== 'arc') return [Math.SQRT1_2, Math.SQRT1_2];
  const [t0, t1] = sweep(d, curve);
  return [Math.cos((t0 + t1) / 2), Math.sin((t0 + t1) / 2)];
}

function round(row: ConstraintRow, d: Drawing, px: number): Figure | null {
  const c = d.curves?.[row.of[0]];
  if (c?.kind !== 'circle' && c?.kind !== 'arc') return null;
  const o = place(d, c.centre);
  const to: Flat = row.at ? unit(o, row.at as Flat) : facing(d, row.of[0]);
  const [tip, knee] = [add(o, to, c.radius), row.at ? (row.at as Flat) : add(o, to, c.radius + 30 * px)];
  const end: Flat = [knee[0] + (to[0] < 0 ? -34 : 34) * px, knee[1]];
  const sign = row.kind === 'radius' ? 'R' : 'Ø';
  return {
    id: row.id,
    lines: [
      [tip, knee],
      [knee, end],
    ],
    arrows: [{ at: tip, to: [-to[0], -to[1]] }],
    text: middle(knee, end),
    shown: sign + row.figure,
    reference: row.reference,
  };
}

function angle(row: ConstraintRow, d: Drawing, px: number): Figure | null {
  const [[a, b], [c, e]] = row.of.map((l) => ends(d, l));
  const [u, v] = [unit(a, b), unit(c, e)];
  const cross = u[0] * v[1] - u[1] * v[0];
  // Half a turn has no crossing: it stands where the two lines come nearest to each other.
  const pairs = [a, b]
    .flatMap((p) => [c, e].map((q): [Flat, Flat] => [p, q]))
    .sort((m, n) => distance(...m) - distance(...n));
  const t = ((c[0] - a[0]) * v[1] - (c[1] - a[1]) * v[0]) / cross;
  const o = Math.abs(cross) < 1e-9 ? middle(...pairs[0]) : add(a, u, t);
  const radius = row.at ? distance(o, row.at as Flat) : 46 * px;
  const from = Math.atan2(u[1], u[0]);
  let to = Math.atan2(v[1], v[0]);
  while (to - from > Math.PI) to -= 2 * Math.PI;
  while (to - from < -Math.PI) to += 2 * Math.PI;
  const text: Flat = [o[0] + radius * Math.cos((from + to) / 2), o[1] + radius * Math.sin((from + to) / 2)];
  return {
    id: row.id,
    lines: [],
    arrows: [],
    arc: { centre: o, radius, from, to },
    text,
    shown: row.shown,
    reference: row.reference,
  };
}
