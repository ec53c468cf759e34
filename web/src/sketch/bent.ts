/**
 * Ellipses and splines as places along them, for drawing and picking. The server's are the ones that count.
 */
import type { Drawing, Flat } from '../api/types';

type Curve = NonNullable<Drawing['curves']>[string];
type Spline = Extract<Curve, { kind: 'spline' }>;
type Ellipse = Extract<Curve, { kind: 'ellipse' | 'ellipse_arc' }>;

const FINE = 16; // places a span
const mix = (a: Flat, b: Flat, s: number): Flat => [a[0] + s * (b[0] - a[0]), a[1] + s * (b[1] - a[1])];

/** The clamped B-spline that points pull, by de Boor's scheme; its pieces meet at the knots, or are equal. */
function pulled(p: Flat[], knots: number[]): Flat[] {
  const degree = Math.min(3, p.length - 1);
  const spans = p.length - degree;
  const joint = (i: number) => (knots.length === spans + 1 ? knots[i] : i);
  const knot = (i: number) => joint(Math.min(Math.max(i - degree, 0), spans));
  const found: Flat[] = [];
  for (let s = 0; s < spans; s++) {
    for (let f = 0; f <= (s === spans - 1 ? FINE : FINE - 1); f++) {
      const [k, t] = [s + degree, joint(s) + (joint(s + 1) - joint(s)) * (f / FINE)];
      const d = Array.from({ length: degree + 1 }, (_, j) => p[j + k - degree]);
      for (let r = 1; r <= degree; r++) {
        for (let j = degree; j >= r; j--) {
          const [low, high] = [knot(j + k - degree), knot(j + 1 + k - r)];
          d[j] = mix(d[j - 1], d[j], high > low ? (t - low) / (high - low) : 0);
        }
      }
      found.push(d[degree]);
    }
  }
  return found;
}

/** The natural cubic spline through points at the parameters knots. */
function through(p: Flat[], knots: number[]): Flat[] {
  const n = p.length - 1;
  const h = Array.from({ length: n }, (_, i) => Math.max(knots[i + 1] - knots[i], 1e-9));
  const bend = ([0, 1] as const).map((axis) => {
    // Second derivatives: a tridiagonal system, none at the ends.
    const m: number[] = Array(n + 1).fill(0);
    const [c, r]: number[][] = [Array(n + 1).fill(0), Array(n + 1).fill(0)];
    for (let i = 1; i < n; i++) {
      const slope = (k: number) => (p[k + 1][axis] - p[k][axis]) / h[k];
      const b = 2 * (h[i - 1] + h[i]) - h[i - 1] * c[i - 1];
      c[i] = h[i] / b;
      r[i] = (6 * (slope(i) - slope(i - 1)) - h[i - 1] * r[i - 1]) / b;
    }
    for (let i = n - 1; i > 0; i--) m[i] = r[i] - c[i] * m[i + 1];
    return m;
  });
  const found: Flat[] = [];
  for (let i = 0; i < n; i++) {
    for (let f = 0; f <= (i === n - 1 ? FINE : FINE - 1); f++) {
      const s = f / FINE;
      const w = (h[i] * h[i]) / 6;
      found.push(
        ([0, 1] as const).map(
          (a) =>
            (1 - s) * p[i][a] +
            s * p[i + 1][a] +
            w * (((1 - s) ** 3 - (1 - s)) * bend[a][i] + (s ** 3 - s) * bend[a][i + 1]),
        ) as Flat,
      );
    }
  }
  return found;
}

/** Parameters for points in the ratio of the chords between them. */
export function chordKnots(p: Flat[]): number[] {
  const steps = p.slice(1).map((q, i) => Math.hypot(q[0] - p[i][0], q[1] - p[i][1]) || 1e-6);
  const total = steps.reduce((a, b) => a + b, 0);
  let at = 0;
  return [0, ...steps.map((s) => (at += s) / total)];
}

export function splinePlaces(p: Flat[], manner: string, knots?: number[]): Flat[] {
  if (p.length < 3) return p;
  return manner === 'pulled' ? pulled(p, knots ?? []) : through(p, knots ?? chordKnots(p));
}

/** The half-axes of an ellipse, and its middle. */
export function axesOf(d: Drawing, e: Ellipse): { middle: Flat; half: Flat; across: Flat } {
  const [c, t] = [e.centre === 'origin' ? [0, 0] : d.points![e.centre], d.points![e.tip]] as Flat[];
  const half: Flat = [t[0] - c[0], t[1] - c[1]];
  const n = Math.hypot(...half) || 1;
  return { middle: c, half, across: [(-half[1] / n) * e.radius, (half[0] / n) * e.radius] };
}

export const isOval = (c: Curve | undefined): c is Ellipse =>
  c?.kind === 'ellipse' || c?.kind === 'ellipse_arc';

/**
 * From which to which parameter an ellipse or a part of one runs; beside one, the parameters are those of the
 * feet on it.
 */
export function ovalSweep(d: Drawing, e: Ellipse): [number, number] {
  if (e.kind === 'ellipse') return [0, 2 * Math.PI];
  const { middle, half, across } = axesOf(d, e);
  const angle = (p: string) => {
    const [x, y] = (d.points![p] as Flat).map((v, i) => v - middle[i as 0 | 1]);
    const part = (v: Flat) => (x * v[0] + y * v[1]) / (v[0] ** 2 + v[1] ** 2);
    let t = Math.atan2(part(across), part(half));
    for (let i = 0; e.side && i < 12; i++) {
      const [c, s] = [Math.cos(t), Math.sin(t)];
      const [px, py, vx, vy] = [
        c * half[0] + s * across[0],
        c * half[1] + s * across[1],
        c * across[0] - s * half[0],
        c * across[1] - s * half[1],
      ];
      // The place's foot: there the way to it stands square to the ellipse. Its second derivative is minus
      // its place.
      const slope = vx * vx + vy * vy + (x - px) * px + (y - py) * py;
      t += slope > 0 ? ((x - px) * vx + (y - py) * vy) / slope : 0;
    }
    return t;
  };
  const [a, b] = [angle(e.start), angle(e.end)];
  return [a, a + ((((b - a) % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI) || 2 * Math.PI)];
}

/** Where on a chain of places the one nearest to p is: how many chords from its beginning. */
function footOn(places: Flat[], p: Flat): number {
  let [best, least] = [0, Infinity];
  for (let i = 0; i + 1 < places.length; i++) {
    const [[ax, ay], [bx, by]] = [places[i], places[i + 1]];
    const [dx, dy] = [bx - ax, by - ay];
    const s = Math.min(1, Math.max(0, ((p[0] - ax) * dx + (p[1] - ay) * dy) / (dx * dx + dy * dy || 1)));
    const off = Math.hypot(ax + s * dx - p[0], ay + s * dy - p[1]);
    if (off < least) [best, least] = [i + s, off];
  }
  return best;
}

/** The place on a chain of places that is nearest to p. */
export function nearestOn(places: Flat[], p: Flat): Flat {
  const at = footOn(places, p);
  const i = Math.min(Math.floor(at), places.length - 2);
  return mix(places[i], places[i + 1], at - i);
}

/** A chain of places so far to the left of another, as if through them ran a smooth curve. */
function beside(places: Flat[], away: number): Flat[] {
  const n = places.length - 1;
  return places.map((p, i) => {
    // The slope of the parabola through three neighbours, at the middle one or, at an end, at the first or
    // last.
    const m = Math.min(Math.max(i, 1), n - 1);
    const [a, b, c] = [places[m - 1], places[m], places[m + 1]];
    const [h, k] = [
      Math.hypot(b[0] - a[0], b[1] - a[1]) || 1e-9,
      Math.hypot(c[0] - b[0], c[1] - b[1]) || 1e-9,
    ];
    const [dx, dy] = ([0, 1] as const).map((j) => {
      const [u, v] = [(b[j] - a[j]) / h, (c[j] - b[j]) / k];
      const bend = (v - u) / (h + k);
      return u + bend * (i === m ? h : i < m ? -h : h + 2 * k);
    });
    const length = Math.hypot(dx, dy) || 1;
    return [p[0] - (away * dy) / length, p[1] + (away * dx) / length];
  });
}

/** A spline as it would be whole. */
function wholeSpline(d: Drawing, c: Spline): Flat[] {
  const places = splinePlaces(
    c.over.map((p) => (d.points?.[p] as Flat) ?? [0, 0]),
    c.manner ?? 'through',
    c.knots,
  );
  return c.side ? beside(places, c.side * (c.away ?? 0)) : places;
}

/** A spline in up to three pieces: what lies before its part, the part, and what lies behind. */
function splinePieces(d: Drawing, c: Spline): [Flat[], Flat[], Flat[]] {
  const places = wholeSpline(d, c);
  const [a, b] = [c.start, c.end].map((p) => (p ? (d.points?.[p] as Flat) : undefined));
  const [from, to] = [a ? footOn(places, a) : 0, b ? footOn(places, b) : places.length - 1];
  // It comes back to its beginning
  if (a && b && to - from < 1e-6) return [[], [a, ...places.slice(1, -1), b], []];
  return [
    a ? [...places.slice(0, Math.ceil(from)), a] : [],
    [
      ...(a ? [a] : []),
      ...places.slice(a ? Math.floor(from) + 1 : 0, b ? Math.ceil(to) : places.length),
      ...(b ? [b] : []),
    ],
    b ? [b, ...places.slice(Math.floor(to) + 1)] : [],
  ];
}

const pulling = new WeakMap<Drawing, Set<string>>();

/** The points that only pull a spline taken in from the model: nothing one would see or pick. */
export function hiddenPoints(d: Drawing): Set<string> {
  let found = pulling.get(d);
  if (!found) {
    const splines = Object.keys(d.taken ?? {}).map((e) => d.curves?.[e]);
    found = new Set(splines.flatMap((c) => (c?.kind === 'spline' ? c.over.slice(1, -1) : [])));
    pulling.set(d, found);
  }
  return found;
}

/** What of a spline was cut away from its part, in chains of places. */
export function cutAway(d: Drawing, c: Spline): Flat[][] {
  const [before, , behind] = splinePieces(d, c);
  return [before, behind].filter((piece) => piece.length > 1);
}

/** Places along an ellipse or spline; null for another curve. */
export function bentPlaces(d: Drawing, id: string): Flat[] | null {
  const c = d.curves?.[id];
  if (c?.kind === 'spline') return splinePieces(d, c)[1];
  if (!isOval(c)) return null;
  const { middle, half, across } = axesOf(d, c);
  const [t0, t1] = ovalSweep(d, c);
  const away = (c.side ?? 0) * (c.away ?? 0);
  return Array.from({ length: 129 }, (_, i) => t0 + ((t1 - t0) * i) / 128).map((t) => {
    const [cos, sin] = [Math.cos(t), Math.sin(t)];
    const [dx, dy] = [cos * across[0] - sin * half[0], cos * across[1] - sin * half[1]];
    const n = Math.hypot(dx, dy) || 1;
    return [
      middle[0] + cos * half[0] + sin * across[0] - (away * dy) / n,
      middle[1] + cos * half[1] + sin * across[1] + (away * dx) / n,
    ];
  });
}

/** The ids of a curve's own points. */
export function pointsOf(c: Curve): string[] {
  if (c.kind === 'line') return [c.start, c.end];
  if (c.kind === 'arc') return [c.centre, c.start, c.end];
  if (c.kind === 'ellipse') return [c.centre, c.tip];
  if (c.kind === 'ellipse_arc') return [c.centre, c.tip, c.start, c.end];
  return c.kind === 'spline' ? [...c.over, ...[c.start, c.end].filter((p): p is string => !!p)] : [c.centre];
}

/** The ids of a curve's two ends, or none. */
export function endsOf(c: Curve | undefined): [string, string] | [] {
  if (!c || c.kind === 'circle' || c.kind === 'ellipse') return [];
  return c.kind === 'spline' ? [c.start || c.over[0], c.end || c.over[c.over.length - 1]] : [c.start, c.end];
}
