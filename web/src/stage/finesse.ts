/**
 * How finely the stage is drawn. Where no graphics card draws, every pixel is the processor's work:
 * `localStorage['wendal.drawing'] = 'coarse'` draws a quarter of the pixels each way, smooths nothing and leaves
 * out what does not stand for a moment, for tests in which pixels do not matter.
 */
export interface Finesse {
  antialias: boolean;
  ratio: number; // pixels drawn for one of the page
  stands: number; // ms for which nothing may have changed before it is drawn
}

const KEPT = 'wendal.drawing';

/** Whether pixels matter. */
export const drawsFinely = () => localStorage.getItem(KEPT) !== 'coarse';

/** Return how finely to draw here. */
export function finesse(): Finesse {
  if (!drawsFinely()) return { antialias: false, ratio: 0.25, stands: 120 };
  return { antialias: true, ratio: Math.min(devicePixelRatio, 2), stands: 0 };
}
