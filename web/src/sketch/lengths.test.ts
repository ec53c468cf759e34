import { describe, expect, test } from 'vitest';
import { lengthOf, placeOf, shown, step } from './lengths';

describe('lengths', () => {
  test.each([
    ['20', 'mm', 20],
    ['20', 'in', 508],
    ['1 in', 'mm', 25.4],
    ['-.5in', 'mm', -12.7],
    ['−3 mm', 'in', -3],
    ['2 cm', 'in', 20],
    ['1 ft', 'in', 304.8],
  ])('%s in a part in %s', (text, unit, mm) => expect(lengthOf(text, unit)).toBeCloseTo(mm, 9));
  test.each(['', 'wide', '3 furlongs', '1 2', '4 deg'])('“%s” is no length', (text) =>
    expect(lengthOf(text, 'mm')).toBeNull(),
  );
  test.each([
    ['20, 10', 'mm', [20, 10]],
    ['20, 10', 'in', [508, 254]],
    ['1 in, 5 mm', 'mm', [25.4, 5]],
    ['(1; -2)', 'in', [25.4, -50.8]],
    ['3 -4', 'mm', [3, -4]],
  ])('the place %s in a part in %s', (text, unit, at) => {
    const found = placeOf(text, unit)!;
    expect(found[0]).toBeCloseTo(at[0], 9);
    expect(found[1]).toBeCloseTo(at[1], 9);
  });
  test('no place', () => expect(placeOf('20', 'mm')).toBeNull());
  test('shown', () => {
    expect(shown(-1e-9, 'mm')).toBe('0.000');
    expect([shown(25.4, 'in'), shown(25.4, 'mm'), step(2.54, 'in'), step(1, 'mm')]).toEqual([
      '1.0000',
      '25.400',
      '0.1 in',
      '1 mm',
    ]);
  });
});
