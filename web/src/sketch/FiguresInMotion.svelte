<script lang="ts">
  /**
   * All dimensions while geometry moves, painted at one go: hundreds of elements would be felt under the
   * pointer.
   */
  import type { Drawing, Flat, SketchView } from '../api/types';
  import { figuresOf } from './figures';
  import { arrowsOf, thinOf, turnOf } from './strokes';

  let {
    drawing,
    view,
    scale,
    screen,
  }: { drawing: Drawing; view: SketchView | null; scale: number; screen: (p: Flat) => Flat } = $props();

  let canvas = $state<HTMLCanvasElement>();
  const figures = $derived(
    figuresOf(
      (view?.constraints ?? []).filter((r) => r.dimension),
      drawing,
      1 / scale,
    ),
  );

  /** What the figures are painted with: their font and colours, and the canvas in device pixels. */
  const pen = $derived.by(() => {
    const to = canvas?.getContext('2d', { willReadFrequently: true });
    if (!canvas || !to) return null;
    const { width, height } = canvas.getBoundingClientRect();
    const fine = window.devicePixelRatio;
    [canvas.width, canvas.height] = [width * fine, height * fine];
    const style = getComputedStyle(canvas);
    [to.font, to.textAlign, to.lineJoin] = [`${style.fontSize} ${style.fontFamily}`, 'center', 'round'];
    return { to, width, height, fine, ink: style.color, stage: style.getPropertyValue('--color-stage') };
  });
  $effect(() => {
    if (!pen) return;
    const { to, width, height, fine, ink, stage } = pen;
    to.setTransform(fine, 0, 0, fine, 0, 0);
    to.clearRect(0, 0, width, height);
    [to.strokeStyle, to.fillStyle, to.lineWidth] = [ink, ink, 0.8];
    to.stroke(new Path2D(thinOf(figures, screen)));
    to.fill(new Path2D(arrowsOf(figures, screen)));
    [to.strokeStyle, to.lineWidth] = [stage, 4];
    for (const f of figures) {
      const [x, y] = screen(f.text);
      const turn = (turnOf(f, screen) * Math.PI) / 180;
      const [c, s] = [Math.cos(turn) * fine, Math.sin(turn) * fine];
      to.setTransform(c, s, -s, c, x * fine, y * fine);
      to.strokeText(f.shown, 0, -5);
      to.fillText(f.shown, 0, -5);
    }
  });
</script>

<canvas
  bind:this={canvas}
  class="figures pointer-events-none absolute inset-0 h-full w-full text-ink"
  data-testid="figures-in-motion"
></canvas>
