/** The mouse on the stage: right turns, middle slides, the wheel zooms to the pointer. */
import type { View } from './view';

export function connectControls(host: HTMLElement, view: View): () => void {
  let held: { button: number; x: number; y: number } | null = null;

  const down = (e: PointerEvent) => {
    if (e.button !== 2 && e.button !== 1) return;
    held = { button: e.button, x: e.clientX, y: e.clientY };
    host.setPointerCapture(e.pointerId);
    e.preventDefault();
  };
  const move = (e: PointerEvent) => {
    if (!held) return;
    const [dx, dy] = [e.clientX - held.x, e.clientY - held.y];
    [held.x, held.y] = [e.clientX, e.clientY];
    if (held.button === 2) view.turn(dx, dy);
    else view.slide(dx, dy);
  };
  const up = () => (held = null);
  const wheel = (e: WheelEvent) => {
    e.preventDefault();
    const box = host.getBoundingClientRect();
    view.zoom(e.clientX - box.left, e.clientY - box.top, Math.exp(-e.deltaY * 0.0014));
  };
  const menu = (e: Event) => e.preventDefault();

  host.addEventListener('pointerdown', down);
  host.addEventListener('pointermove', move);
  host.addEventListener('pointerup', up);
  host.addEventListener('pointercancel', up);
  host.addEventListener('wheel', wheel, { passive: false });
  host.addEventListener('contextmenu', menu);
  return () => {
    host.removeEventListener('pointerdown', down);
    host.removeEventListener('pointermove', move);
    host.removeEventListener('pointerup', up);
    host.removeEventListener('pointercancel', up);
    host.removeEventListener('wheel', wheel);
    host.removeEventListener('contextmenu', menu);
  };
}
