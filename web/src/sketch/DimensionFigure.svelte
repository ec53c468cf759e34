<script lang="ts">
  /** One dimension by ISO 129: extension lines, dimension line, arrows, the figure above the line. Click to change it, drag to move it. */
  import type { Flat } from '../api/types';
  import type { Board } from './board.svelte';
  import type { Figure } from './figures';

  let { figure, screen, plane, board }: { figure: Figure; screen: (p: Flat) => Flat; plane: (e: MouseEvent) => Flat; board: Board } = $props();

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

  const arrow = (tip: Flat, to: Flat) => {
    const [p, q] = [screen(tip), screen([tip[0] + to[0], tip[1] + to[1]])];
    const n = Math.hypot(q[0] - p[0], q[1] - p[1]) || 1;
    const [ux, uy] = [(q[0] - p[0]) / n, (q[1] - p[1]) / n];
    const [bx, by] = [p[0] - 10 * ux, p[1] - 10 * uy];
    return `M${p.join(' ')}L${bx - 2 * uy} ${by + 2 * ux}L${bx + 2 * uy} ${by - 2 * ux}Z`;
  };
  const arc = $derived.by(() => {
    if (!figure.arc) return '';
    const { centre, radius, from, to } = figure.arc;
    const steps = Array.from({ length: 25 }, (_, i) => from + ((to - from) * i) / 24);
    return `M${steps.map((t) => screen([centre[0] + radius * Math.cos(t), centre[1] + radius * Math.sin(t)]).join(' ')).join('L')}`;
  });
  /** All thin lines as one path: while dragging, every element less is felt. */
  const thin = $derived(figure.lines.map((l) => `M${l.map((p) => screen(p).map((v) => v.toFixed(2)).join(' ')).join('L')}`).join('') + arc);
  const text = $derived(screen(figure.text));
  const angle = $derived.by(() => {
    const line = figure.lines[0];
    if (!line || figure.arrows.length < 2) return 0;
    const [p, q] = line.map(screen);
    let a = (Math.atan2(q[1] - p[1], q[0] - p[0]) * 180) / Math.PI;
    // Figures are read from below or from the right (ISO 129).
    if (a > 89.9) a -= 180;
    if (a < -90.1) a += 180;
    return a;
  });
  const lit = $derived(board.hovered === figure.id || board.typing === figure.id || board.picked.includes(figure.id));
  const fights = $derived(board.binding.fights.some((f) => f.id === figure.id));
</script>

<g class="pointer-events-none {fights ? 'text-carmine' : lit ? 'text-brass' : 'text-ink'}">
  <path d={thin} stroke="currentColor" stroke-width="0.8" fill="none" />
  <path d={figure.arrows.map((a) => arrow(a.at, a.to)).join('')} fill="currentColor" />
  <g transform="translate({text.join(' ')}) rotate({angle})">
    <text
      role="button"
      tabindex="-1"
      y="-5"
      text-anchor="middle"
      class="figures pointer-events-auto cursor-pointer fill-current [paint-order:stroke] [stroke-width:4] [stroke:var(--color-stage)]"
      data-testid="figure"
      onpointerdown={down}
      onpointermove={move}
      onpointerup={up}
      onpointerenter={() => (board.hovered = figure.id)}
      onpointerleave={() => board.hovered === figure.id && (board.hovered = '')}
      onkeydown={(e) => e.key === 'Enter' && (board.typing = figure.id)}>{figure.shown}</text
    >
  </g>
</g>
