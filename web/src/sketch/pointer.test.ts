/**
 * What is drawn and picked under the pointer agrees with the core, which wrote the cases
 * (`tests/pointer.py`).
 */
import { describe, expect, test } from 'vitest';
import type { Drawing, Flat } from '../api/types';
import { bentPlaces } from './bent';
import { chainOf, distance, ends, foot, nearest, sweep } from './geometry';

type Case = {
  drawing: Drawing;
  along: Record<string, Flat[]>;
  near: { at: Flat; off: Record<string, number> }[];
  chains: Record<string, string[]>;
};
const [cases] = Object.values(
  import.meta.glob<Case[]>('../../../var/pointer.json', { eager: true, import: 'default' }),
);
const SEEN = 0.02; // mm: nobody sees less, and no pick hangs on it

/** A curve as the board draws it: places, with chords between them. */
function drawn(d: Drawing, id: string): Flat[] {
  const c = d.curves![id];
  if (c.kind === 'line') return ends(d, id);
  const bent = bentPlaces(d, id);
  if (bent) return bent;
  const centre = d.points![(c as { centre: string }).centre] as Flat;
  const [t0, t1] = sweep(d, id);
  const radius = (c as { radius: number }).radius;
  return Array.from({ length: 200 }, (_, i) => t0 + ((t1 - t0) * i) / 199).map((t): Flat => [
    centre[0] + radius * Math.cos(t),
    centre[1] + radius * Math.sin(t),
  ]);
}
const off = (places: Flat[], p: Flat) =>
  Math.min(...places.slice(1).map((b, i) => distance(p, foot(p, places[i], b))));

describe.each(cases.map((c, i) => ({ ...c, number: i })))(
  'drawing $number',
  ({ drawing, along, near, chains }) => {
    test.each(Object.keys(along))('%s runs where the core has it', (id) => {
      const places = drawn(drawing, id);
      for (const p of along[id]) expect(off(places, p)).toBeLessThan(SEEN * 3);
      for (const p of [places[0], places.at(-1)!])
        expect(Math.min(...along[id].map((q) => distance(p, q)))).toBeLessThan(SEEN);
    });
    test('the nearest place of every curve is as far as the core finds it', () => {
      expect(near.length).toBeGreaterThan(0);
      for (const { at, off: wanted } of near)
        for (const [id, far] of Object.entries(wanted))
          expect(Math.abs(distance(nearest(drawing, id, at), at) - far)).toBeLessThan(SEEN * 3);
    });
    test('what hangs together is what the core takes for a chain', () => {
      expect(Object.keys(chains).length).toBeGreaterThan(0);
      for (const [id, wanted] of Object.entries(chains)) expect(chainOf(drawing, id).sort()).toEqual(wanted);
    });
  },
);
