import { describe, expect, test } from 'vitest';
import { Ahead } from './ahead';

function typed(...keys: string[]) {
  const ahead = new Ahead();
  ahead.begin();
  const taken = keys.map((key) => ahead.takes(key));
  let turns = 0;
  while (ahead.turned()) turns++;
  return { ...ahead.end(), turns, taken: taken.every(Boolean), after: ahead.takes('1') };
}

describe('typed ahead', () => {
  test.each([
    [[...'25 mm'], '25 mm', false, 0],
    [[...'25 mm', 'Enter'], '25 mm', true, 0],
    [[...';31', 'Enter'], '31', true, 1],
    [[...'3;1;'], '31', false, 2],
    [[...'2x', 'Backspace', '6'], '26', false, 0],
    [[...'25', 'Escape'], '', true, 0],
    [['Enter'], '', true, 0],
  ])('%j', (keys, text, accepted, turns) =>
    expect(typed(...keys)).toEqual({ text, accepted, turns, taken: true, after: false }),
  );

  test('nothing is taken while no field is awaited, nor after Enter, nor keys that write nothing', () => {
    const ahead = new Ahead();
    expect(ahead.takes('2')).toBe(false);
    ahead.begin();
    expect([ahead.takes('Shift'), ahead.takes('Tab'), ahead.takes('2'), ahead.takes('Enter')]).toEqual([
      false,
      false,
      true,
      true,
    ]);
    expect(ahead.takes('3')).toBe(false);
  });

  test('what was typed into a field that goes is in the one that comes', () => {
    const ahead = new Ahead();
    ahead.begin('19');
    ahead.begin(); // it is awaited already
    ahead.takes('5');
    expect(ahead.end().text).toBe('195');
  });
});
