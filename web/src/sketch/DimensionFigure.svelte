<script lang="ts">
  /** The figure of a dimension, above its line. Click to change it, drag to move it. */
  import type { Flat } from '../api/types';
  import type { Board } from './board.svelte';
  import type { Figure } from './figures';
  import { turnOf } from './strokes';

  let { figure, colour, screen, plane, board }: { figure: Figure; colour: string; screen: (p: Flat) => Flat; plane: (e: MouseEvent) => Flat; board: Board } = $props();

  let from: { x: number; y: number } | null = null;
  function down(event: PointerEvent) {
    if (event.button !== 0 || board.tool) return;
    event.stopPropagation();
    from = { x: event.clientX, y: event.clientY };
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
  }
  function move(event: PointerEvent) {
    if (!from || (!board.placing && Math.hypot(event.clientX - from.x, event.clientY - from.y) < 5)) return;
    event.stopPropagation();
    board.placing = { id: figure.id, at: plane(event) };
  }
  function up(event: PointerEvent) {
    if (!from) return;
    event.stopPropagation();
    from = null;
    if (board.placing) void board.placed();
    else if (event.shiftKey) board.pickThing(figure.id, true);
    else if (!figure.shown.startsWith('(')) board.typing = figure.id;
    else board.pickThing(figure.id, false);
  }

  const text = $derived(screen(figure.text));
  const angle = $derived(turnOf(figure, screen));
</script>

<text
  role="button"
  tabindex="-1"
  transform="translate({text[0].toFixed(2)} {text[1].toFixed(2)}) rotate({angle.toFixed(2)})"
  y="-5"
  text-anchor="middle"
  class="figures cursor-pointer fill-current {colour} [paint-order:stroke] [stroke-width:4] [stroke:var(--color-stage)]"
  data-testid="figure"
  onpointerdown={down}
  onpointermove={move}
  onpointerup={up}
  onpointerenter={() => (board.hovered = figure.id)}
  onpointerleave={() => board.hovered === figure.id && (board.hovered = '')}
  onkeydown={(e) => e.key === 'Enter' && (board.typing = figure.id)}>{figure.shown}</text
>
