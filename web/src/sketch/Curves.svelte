<script lang="ts">
  /** Curves and points. Pencilled: light, finely dashed, open rings. Inked: full line, closed points. */
  import type { Drawing, Flat, SketchView } from '../api/types';
  import type { Board } from './board.svelte';
  import { ends, place, sweep } from './geometry';

  let { board, drawing, view, scale }: { board: Board; drawing: Drawing; view: SketchView | null; scale: number } = $props();

  const pencilled = $derived(new Set(view?.pencilled ?? []));
  function path(id: string): string {
    const c = drawing.curves![id];
    if (c.kind === 'line') return `M${ends(drawing, id).map((p) => p.join(' ')).join('L')}`;
    const o = place(drawing, c.centre);
    const [t0, t1] = sweep(drawing, id);
    const on = (t: number): Flat => [o[0] + c.radius * Math.cos(t), o[1] + c.radius * Math.sin(t)];
    const stops = [t0, (t0 + t1) / 2, t1].map(on);
    return `M${stops[0].join(' ')}` + stops.slice(1).map((p) => `A${c.radius} ${c.radius} 0 ${(t1 - t0) / 2 > Math.PI ? 1 : 0} 1 ${p.join(' ')}`).join('');
  }
  function look(id: string, construction: boolean): string {
    if (board.picked.includes(id)) return 'stroke-brass [stroke-width:3.2]';
    if (board.hovered === id && !board.tool) return 'stroke-brass [stroke-width:1.8]';
    if (construction) return `${pencilled.has(id) ? 'stroke-pencil' : 'stroke-ink'} [stroke-width:0.9] [stroke-dasharray:14_3_2_3]`;
    return pencilled.has(id) ? 'stroke-pencil [stroke-width:1.5] [stroke-dasharray:5_2.5]' : 'stroke-ink [stroke-width:2]';
  }
  const far = $derived(4000 / scale);
</script>

<g fill="none" stroke-linecap="round">
  <path d="M{-far} 0H{far}" vector-effect="non-scaling-stroke" class={board.picked.includes('x_axis') || board.hovered === 'x_axis' ? 'stroke-brass' : 'stroke-graphite'} stroke-width="0.8" stroke-dasharray="18 4 3 4" />
  <path d="M0 {-far}V{far}" vector-effect="non-scaling-stroke" class={board.picked.includes('y_axis') || board.hovered === 'y_axis' ? 'stroke-brass' : 'stroke-graphite'} stroke-width="0.8" stroke-dasharray="18 4 3 4" />
  {#each Object.entries(drawing.curves ?? {}) as [id, c] (id)}
    <path d={path(id)} vector-effect="non-scaling-stroke" class={look(id, c.construction ?? false)} data-testid="curve" data-inked={!pencilled.has(id)} />
  {/each}
  {#each [...Object.entries(drawing.points ?? {}), ['origin', [0, 0]] as [string, Flat]] as [id, p] (id)}
    {@const hot = board.picked.includes(id) || (board.hovered === id && !board.tool)}
    <circle
      cx={p[0]}
      cy={p[1]}
      r={(hot ? 4.5 : 3) / scale}
      vector-effect="non-scaling-stroke"
      class="{hot ? 'fill-brass stroke-brass' : pencilled.has(id) ? 'fill-paper stroke-pencil' : 'fill-ink stroke-ink'} [stroke-width:1.2]"
    />
  {/each}
</g>
