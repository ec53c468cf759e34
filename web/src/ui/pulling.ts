/** How a face follows the dimension that moves it. */
import type { WhatMoves } from '../api/types';
import type { Trying } from '../state/trust.svelte';

type MovedBy = NonNullable<WhatMoves['report']['dimensions']>[number];
/** now : the face's place (mm) in words; sign : of that place along the face's own normal. */
export type HeldBy = {
  figure: string;
  now: number;
  words: string;
  unit: string;
  sign: number;
  flat: boolean;
  ranked: MovedBy[];
};
const DEGREE = Math.PI / 180;

/** What moves the face that is watched, by a finished report of the present version; null while there is none. */
export function heldBy(
  told: WhatMoves | null,
  version: number,
  normal: readonly number[] = [0, 0, 1],
): HeldBy | null {
  const report = told?.report;
  if (!report || report.state !== 'done' || told.version !== version) return null;
  const figure = Object.keys(report.figures ?? {}).find((f) =>
    /: (from (XY|YZ|ZX)|along its normal)$/.test(f),
  );
  if (!figure) return { figure: '', now: 0, words: '', unit: '', sign: 1, flat: false, ranked: [] };
  const plane = /from (\w\w)$/.exec(figure)?.[1] ?? '';
  const axis = { YZ: 0, ZX: 1, XY: 2 }[plane];
  const ranked = (report.dimensions ?? [])
    .filter((d) => d.kind !== 'count' && Math.abs(d.per?.[figure] ?? 0) > 1e-6)
    .sort((a, b) => Math.abs(b.per![figure]) - Math.abs(a.per![figure]));
  const sign = axis === undefined || normal[axis] >= 0 ? 1 : -1;
  const words = plane ? 'to' : 'along its normal by';
  const unit = plane ? `mm from ${plane}` : 'mm';
  return { figure, now: report.figures![figure], words, unit, sign, flat: true, ranked };
}

const CLOSE = 1e-8; // mm: how near the face comes to where it is to be
const TRIES = 6; // builds for one place

const formula = (d: MovedBy, value: number) =>
  `${Number(value.toPrecision(9))} ${{ length: 'mm', angle: 'deg' }[d.kind] ?? ''}`.trim();

/**
 * What is tried so that the face is so far along its normal: first as if it went straight, then closer by what
 * it came to (secant method), for a dimension may move it along a curve.
 */
export function pullTo(d: MovedBy, held: HeldBy, shift: number): Trying {
  const goal = held.now + held.sign * shift;
  const now = d.kind === 'angle' ? d.now / DEGREE : d.now;
  const seen: [number, number][] = [[now, held.now]];
  const at = (value: number): Trying => ({
    values: { [d.tag]: formula(d, value) },
    title: `${d.tag} = ${formula(d, value)}`,
    next(told) {
      const place = told.figures[held.figure];
      if (place === undefined || Math.abs(place - goal) < CLOSE || seen.length > TRIES) return null;
      seen.push([value, place]);
      const [[x0, y0], [x1, y1]] = seen.slice(-2);
      return y1 === y0 ? null : at(x1 + ((goal - y1) * (x1 - x0)) / (y1 - y0));
    },
  });
  return at(now + (shift * held.sign) / d.per![held.figure]);
}
