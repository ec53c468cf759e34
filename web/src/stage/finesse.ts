/**
 * How finely the stage is drawn. Where no graphics card draws, every pixel is the processor's work, so smoothing
 * is left out. `localStorage['wendal.drawing']` says otherwise: "fine", "plain", or "coarse" (a quarter of the
 * pixels, for tests in which pixels do not matter).
 */
export interface Finesse {
  antialias: boolean;
  ratio: number; // pixels drawn for one of the page
}

const KEPT = 'wendal.drawing';
const SOFTWARE = /swiftshader|llvmpipe|software|basic render/i;

/** Return how finely to draw here. */
export function finesse(): Finesse {
  const wanted = localStorage.getItem(KEPT) ?? (drawnBySoftware() ? 'plain' : 'fine');
  if (wanted === 'coarse') return { antialias: false, ratio: 0.25 };
  return { antialias: wanted === 'fine', ratio: Math.min(devicePixelRatio, 2) };
}

let software: boolean | null = null;

/** Whether the processor draws: what the browser says of its renderer, asked once. */
function drawnBySoftware(): boolean {
  if (software === null) {
    const gl = document.createElement('canvas').getContext('webgl2');
    const told = gl?.getExtension('WEBGL_debug_renderer_info');
    software = SOFTWARE.test(String((told && gl?.getParameter(told.UNMASKED_RENDERER_WEBGL)) ?? ''));
    gl?.getExtension('WEBGL_lose_context')?.loseContext();
  }
  return software;
}
