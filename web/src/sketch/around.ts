/** What hangs together with a point, a curve or a freedom of a drawing. */
import type { Drawing, SketchView } from '../api/types';
import { endsOf } from './bent';

const ends = (d: Drawing, curve: string): string[] => endsOf(d.curves?.[curve]);

/** What a freedom moves most, and the curves that move with it. */
export function movedBy(d: Drawing, freedom: NonNullable<SketchView['freedoms']>[number]): string[] {
  const sizes = Object.entries(freedom.moves).map(([p, [x, y]]): [string, number] => [p, Math.hypot(x, y)]);
  const most = Math.max(...sizes.map(([, size]) => size), 1e-12);
  const points = sizes.filter(([, size]) => size > 0.2 * most).map(([p]) => p);
  const curves = Object.keys(d.curves ?? {}).filter(
    (c) => c in freedom.grows || (ends(d, c).length > 0 && ends(d, c).every((t) => points.includes(t))),
  );
  return [...points, ...curves];
}

/**
 * The dimensions nearest to a point or curve: at itself and what it is joined to, else at what hangs together
 * with that.
 */
export function holding(d: Drawing, view: SketchView | null, entity: string): string[] {
  const dimensions = (view?.constraints ?? []).filter((c) => c.dimension && !c.reference);
  const near = new Set<string>([entity]);
  const found = () => dimensions.filter((c) => c.of.some((e) => near.has(e)));
  for (let ring = 0; ring < 3 && found().length < 2; ring++) {
    for (const c of Object.keys(d.curves ?? {})) {
      if (near.has(c) || ends(d, c).some((t) => near.has(t))) for (const e of [c, ...ends(d, c)]) near.add(e);
    }
    for (const k of Object.values(d.constraints ?? {}))
      if (k.kind === 'coincident' && k.of.some((e) => near.has(e))) for (const e of k.of) near.add(e);
  }
  return found().map((c) => (c.tag ? `${c.tag} ${c.shown}` : c.words));
}
