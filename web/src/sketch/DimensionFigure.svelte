<script lang="ts">
  /** The figure of a dimension, above its line. Click to change it, drag to move it. */
  import type { Flat } from '../api/types';
  import type { Board } from './board.svelte';
  import type { Figure } from './figures';
  import { roved } from '../ui/roving';
  import { turnOf } from './strokes';

  let {
    figure,
    words,
    stop,
    focused,
    typed,
    colour,
    screen,
    plane,
    board,
  }: {
    figure: Figure;
    words: string;
    stop: boolean;
    focused: () => void;
    typed: () => void;
    colour: string;
    screen: (p: Flat) => Flat;
    plane: (e: MouseEvent) => Flat;
    board: Board;
  } = $props();

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
    else if (!figure.reference) board.typing = figure.id;
    else board.pickThing(figure.id, false);
  }

  /** Enter types its value, space picks it, arrows go to the figures before and after it. */
  function key(event: KeyboardEvent) {
    if (roved(event, [...document.querySelectorAll<SVGElement>('[data-testid=figure]')])) return;
    if (event.key === 'Enter' && !figure.reference) typed();
    else if (event.key === ' ') board.pickThing(figure.id, event.shiftKey);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  const text = $derived(screen(figure.text));
  const angle = $derived(turnOf(figure, screen));
</script>

<text
  role="button"
  tabindex={stop ? 0 : -1}
  aria-label={words}
  onfocus={() => ((board.hovered = figure.id), focused())}
  onblur={() => board.hovered === figure.id && (board.hovered = '')}
  transform="translate({text[0].toFixed(2)} {text[1].toFixed(2)}) rotate({angle.toFixed(2)})"
  y="-5"
  text-anchor="middle"
  class="figures cursor-pointer fill-current {colour} [paint-order:stroke] [stroke-width:4] [stroke:var(--color-stage)]"
  data-testid="figure"
  data-figure={figure.id}
  onpointerdown={down}
  onpointermove={move}
  onpointerup={up}
  onpointerenter={() => (board.hovered = figure.id)}
  onpointerleave={() => board.hovered === figure.id && (board.hovered = '')}
  onkeydown={key}>{figure.shown}</text
>
