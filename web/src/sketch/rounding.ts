/** Corners in hand that are rounded by pulling, and the largest radius that all of them take. */
import type { Drawing, Flat } from '../api/types';
import type { Form } from './form.svelte';
import { distance, place, rounded } from './geometry';
import { lengthOf } from './lengths';
import type { DrawingSurface } from './surface';

/** A corner of two lines: its place, the unit way into it, radii from it to the arc's centre. */
export type Corner = { corner: Flat; way: Flat; share: number };
const SAME = 1e-6; // mm: ends that are no farther apart meet
const SMOOTH = 1e-3; // of an angle: lines that run on have no corner

/** The corner of two lines at a point; null where there is none. */
export function cornerAt(d: Drawing, point: string): Corner | null {
  const at = place(d, point);
  const ways: Flat[] = [];
  for (const c of Object.values(d.curves ?? {})) {
    if (c.kind !== 'line') continue;
    const [a, b] = [place(d, c.start), place(d, c.end)];
    const far = distance(a, at) < SAME ? b : distance(b, at) < SAME ? a : null;
    const long = far ? distance(far, at) : 0;
    if (far && long > SAME) ways.push([(far[0] - at[0]) / long, (far[1] - at[1]) / long]);
  }
  if (ways.length !== 2) return null;
  const [[ux, uy], [vx, vy]] = ways;
  const half = Math.acos(Math.max(-1, Math.min(1, ux * vx + uy * vy))) / 2;
  if (half < SMOOTH || half > Math.PI / 2 - SMOOTH) return null;
  const long = Math.hypot(ux + vx, uy + vy);
  return { corner: at, way: [(ux + vx) / long, (uy + vy) / long], share: 1 / Math.sin(half) };
}

/** The corner in hand that a press is at: on it, or on the arc that is tried. radius : of that, mm. */
export function cornerNear(d: Drawing, points: string[], p: Flat, radius: number, reach: number) {
  const found = points
    .map((e) => cornerAt(d, e))
    .filter((c) => c !== null)
    .map((c) => {
      const off = radius * (c.share - 1);
      const arc: Flat = [c.corner[0] + c.way[0] * off, c.corner[1] + c.way[1] * off];
      return { c, far: Math.min(distance(p, c.corner), distance(p, arc)) };
    })
    .filter(({ far }) => far < 1.5 * reach)
    .sort((a, b) => a.far - b.far);
  return found[0]?.c ?? null;
}

/** The radius with which the arc passes under a place, mm. */
export function radiusTo({ corner, way, share }: Corner, p: Flat): number {
  return ((p[0] - corner[0]) * way[0] + (p[1] - corner[1]) * way[1]) / (share - 1);
}

/** The radius that corners are told to take at most, all of them together, as it is written; '' for none. */
export function largestOf(told: string[]): string {
  const all = told.join(' ');
  const together = /All of them take up to about ([\d.]+ ?[a-zµ]*)/.exec(all);
  return (together ?? /no radius of more than about ([\d.]+ ?[a-zµ]*)/.exec(all))?.[1].trim() ?? '';
}

/** Pulls a corner of the tool in hand: the arc passes under the pointer, in round steps. */
export class CornerPull {
  private held: Corner | null = null;
  constructor(private board: DrawingSurface & { readonly form: Form | null }) {}

  /** Take hold of the corner that is there; says whether there is one. */
  begin(p: Flat): boolean {
    const { form, drawing, unit, reach } = this.board;
    if (form?.name !== 'round') return false;
    const points = form.all.filter((e) => drawing.points?.[e]);
    this.held = cornerNear(drawing, points, p, lengthOf(form.values.radius, unit) ?? 0, reach);
    return this.held !== null;
  }

  to(p: Flat): void {
    const { form, unit, quiet, step_mm } = this.board;
    if (!this.held || !form) return;
    const mm = radiusTo(this.held, p);
    const value = unit === 'in' ? Math.round((mm / 25.4) * 32) / 32 : quiet ? mm : rounded(mm, step_mm);
    const text = `${Number(value.toFixed(5))} ${unit}`;
    if (value > 0 && text !== form.values.radius) form.set('radius', text);
  }
}
