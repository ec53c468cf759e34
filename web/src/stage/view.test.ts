/** The view against the renderer's own projection: orthographic and in perspective, from places by chance. */
import { Quaternion, Vector3 } from 'three';
import { expect, test, vi } from 'vitest';
import { View } from './view';

vi.stubGlobal('matchMedia', () => ({ matches: true })); // no motion
let seed = 7;
const chance = (low: number, high: number) => {
  seed = (seed * 16807) % 2147483647;
  return low + ((high - low) * seed) / 2147483647;
};
const place = (far: number) => new Vector3(chance(-far, far), chance(-far, far), chance(-far, far));

for (const perspective of [false, true]) {
  test(`places lie where the renderer draws them, perspective ${perspective}`, () => {
    for (let i = 0; i < 200; i++) {
      const view = new View(() => undefined);
      view.resize(chance(300, 1600), chance(300, 1200));
      view.perspective = perspective;
      view.target.copy(place(50));
      view.scale = Math.exp(chance(-1, 2.5));
      view.camera.quaternion.copy(new Quaternion(chance(-1, 1), chance(-1, 1), chance(-1, 1), 1).normalize());
      view.apply();
      const far = view.height / view.scale / 2;
      const p = view.target.clone().add(place(far));
      const own = view.screen(p);
      const drawn = p.clone().project(view.camera);
      expect(own[0]).toBeCloseTo(((drawn.x + 1) * view.width) / 2, 4);
      expect(own[1]).toBeCloseTo(((1 - drawn.y) * view.height) / 2, 4);
      const flat: [number, number] = [0, 0];
      view.flat()(p.x, p.y, p.z, flat);
      expect(flat[0]).toBeCloseTo(own[0], 6);
      expect(flat[1]).toBeCloseTo(own[1], 6);
      // What is found under a pixel is drawn at it.
      const [x, y] = [chance(0, view.width), chance(0, view.height)];
      const back = view.screen(view.place(x, y));
      expect(back[0]).toBeCloseTo(x, 5);
      expect(back[1]).toBeCloseTo(y, 5);
    }
  });
}

test('views are gone back to and on to, one by one', () => {
  const view = new View(() => undefined);
  view.resize(800, 600);
  const turns = () => view.pose.turn.toArray().map((v) => Number(v.toFixed(6)));
  const [front, top] = [new Vector3(0, -1, 0), new Vector3(0, 0, 1)];
  const began = turns();
  view.lookFrom(front, new Vector3(0, 0, 1));
  const first = turns();
  view.lookFrom(top, new Vector3(0, 1, 0));
  const second = turns();
  expect(view.step('back')).toBe(true);
  expect(turns()).toEqual(first);
  expect(view.step('back')).toBe(true);
  expect(turns()).toEqual(began);
  expect(view.step('back')).toBe(false);
  expect([view.step('on'), view.step('on')]).toEqual([true, true]);
  expect(turns()).toEqual(second);
  expect(view.step('on')).toBe(false);
});
