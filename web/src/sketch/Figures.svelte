<script lang="ts">
  /** All dimensions by ISO 129: thin lines and arrows of one colour as one path each, and the figures. */
  import { tick } from 'svelte';
  import type { Drawing, Flat, SketchView } from '../api/types';
  import type { Board } from './board.svelte';
  import DimensionFigure from './DimensionFigure.svelte';
  import { figuresOf, type Figure } from './figures';
  import { arrowsOf, thinOf } from './strokes';

  let {
    board,
    drawing,
    view,
    scale,
    screen,
    plane,
  }: {
    board: Board;
    drawing: Drawing;
    view: SketchView | null;
    scale: number;
    screen: (p: Flat) => Flat;
    plane: (e: MouseEvent) => Flat;
  } = $props();

  const figures = $derived.by(() => {
    const rows = (view?.constraints ?? [])
      .filter((r) => r.dimension)
      .map((r) => (board.placing?.id === r.id ? { ...r, at: board.placing.at } : r));
    return figuresOf(rows, drawing, 1 / scale);
  });
  const words = $derived(Object.fromEntries((view?.constraints ?? []).map((r) => [r.id, r.words])));
  /**
   * One figure is where Tab stops: the one that had the focus last, else the first; the arrows lead to the
   * others.
   */
  let last = $state('');
  const stop = $derived(figures.some((f) => f.id === last) ? last : figures[0]?.id);
  /** The figure whose value is typed, begun by keys: it has the focus again when that is done. */
  let byKeys = '';
  $effect(() => {
    if (board.typing || !byKeys) return;
    const figure = document.querySelector<SVGElement>(`[data-figure="${byKeys}"]`);
    byKeys = '';
    void tick().then(() => document.activeElement === document.body && figure?.focus());
  });
  const fighting = $derived(new Set(board.binding.fights.map((f) => f.id)));
  const colour = (id: string) =>
    fighting.has(id)
      ? 'text-carmine'
      : board.hovered === id || board.typing === id || board.picked.includes(id)
        ? 'text-brass'
        : 'text-ink';
  /** By colour, carmine and brass above ink. */
  const groups = $derived.by(() => {
    const found: Record<string, Figure[]> = { 'text-ink': [], 'text-brass': [], 'text-carmine': [] };
    for (const f of figures) found[colour(f.id)].push(f);
    return Object.entries(found).filter(([, own]) => own.length);
  });
</script>

{#each groups as [look, own] (look)}
  <g class="pointer-events-none {look}">
    <path d={thinOf(own, screen)} stroke="currentColor" stroke-width="0.8" fill="none" />
    <path d={arrowsOf(own, screen)} fill="currentColor" />
  </g>
{/each}
{#each figures as f (f.id)}
  <DimensionFigure
    figure={f}
    words={`${words[f.id]}: ${f.shown}`}
    stop={f.id === stop}
    focused={() => (last = f.id)}
    typed={() => (board.typing = byKeys = f.id)}
    colour={colour(f.id)}
    {screen}
    {plane}
    {board}
  />
{/each}
