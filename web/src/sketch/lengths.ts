/** Lengths as they are typed and shown: in the part's unit, unless another one is written. */
import type { Flat } from '../api/types';

const MM: Record<string, number> = { mm: 1, cm: 10, m: 1000, um: 0.001, µm: 0.001, in: 25.4, ft: 304.8 };
const LENGTH = /^([-−+]?(?:\d+\.?\d*|\.\d+))\s*([a-zµ]*)$/;

/** How long a unit is, mm. */
export const inMm = (unit: string): number => MM[unit] ?? 1;

/** A typed length in mm; null where it is none. unit : of a number without one. */
export function lengthOf(text: string, unit: string): number | null {
  const found = LENGTH.exec(text.trim());
  const size = found && MM[found[2] || unit];
  return found && size ? Number(found[1].replace('−', '-')) * size : null;
}

/** Two typed lengths, with a comma, a semicolon or room between them. */
export function placeOf(text: string, unit: string): Flat | null {
  const bare = text.trim().replace(/^\((.*)\)$/, '$1');
  const parts = /[,;]/.test(bare) ? bare.split(/[,;]/) : bare.split(/\s+(?=[-−+.\d])/);
  if (parts.length !== 2) return null;
  const [x, y] = parts.map((part) => lengthOf(part, unit));
  return x === null || y === null ? null : [x, y];
}

/** A length as it is shown: figures of the part's unit. */
export const shown = (mm: number, unit: string): string =>
  (mm / inMm(unit)).toFixed(unit === 'in' ? 4 : 3).replace(/^-(0\.0+)$/, '$1');

/** A round step of the grid with its unit. */
export const step = (mm: number, unit: string): string =>
  `${Number((mm / inMm(unit)).toPrecision(6))} ${unit}`;
