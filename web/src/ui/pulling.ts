/** How a face follows the dimension that moves it. */
import type { WhatMoves } from '../api/types';

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

/** The formula of a dimension with which the face is so far along its normal. */
export function followed(d: MovedBy, held: HeldBy, shift: number): string {
  const by = (shift * held.sign) / d.per![held.figure];
  const value = d.kind === 'angle' ? d.now / DEGREE + by : d.now + by;
  return `${Number(value.toPrecision(9))} ${{ length: 'mm', angle: 'deg' }[d.kind] ?? ''}`.trim();
}
