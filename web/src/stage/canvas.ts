/**
 * One canvas for all stages, one after the other. A new one has the machine make its drawing programs again,
 * which takes most of the time until a part is seen; and a browser takes away the oldest of some sixteen.
 */
import { WebGLRenderer } from 'three';
import { finesse } from './finesse';
import { giveBack } from './paints';

let spare: WebGLRenderer | null = null;

/** The canvas of the stage before, or a new one. */
export function takeCanvas(): WebGLRenderer {
  const kept = spare;
  spare = null;
  if (kept && !kept.getContext().isContextLost()) return kept;
  if (kept) end(kept);
  const { antialias, ratio } = finesse();
  const made = new WebGLRenderer({ antialias, alpha: false, stencil: true });
  made.setPixelRatio(ratio);
  made.localClippingEnabled = true;
  if (!antialias) made.domElement.style.imageRendering = 'pixelated'; // laid onto the page by copying
  return made;
}

/** Keep the canvas of a stage that closes for the next one. */
export function giveCanvas(used: WebGLRenderer): void {
  used.domElement.remove();
  used.renderLists.dispose();
  if (spare) end(used);
  else spare = used;
}

function end(renderer: WebGLRenderer): void {
  giveBack(); // a material holds on to every renderer that has drawn it
  renderer.dispose();
  renderer.forceContextLoss();
}
