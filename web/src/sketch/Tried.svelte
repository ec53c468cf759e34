<script lang="ts">
  /** How the edit in hand would turn out: what goes in carmine, what comes in verdigris dots. */
  import type { Drawing } from '../api/types';
  import type { Board } from './board.svelte';
  import { pathOf } from './paths';

  let { board, drawing }: { board: Board; drawing: Drawing } = $props();

  const change = $derived.by(() => {
    const tried = board.trial.drawing;
    if (!tried) return { gone: [], come: [], written: [] };
    if (board.tool === 'spline point')
      return {
        gone: [],
        come: [],
        written: [],
        points: Object.entries(tried.points ?? {}).filter(
          ([id, [x, y]]) => drawing.points?.[id]?.[0] !== x || drawing.points[id][1] !== y,
        ),
      };
    const written = board.view?.texts ?? [];
    const was = new Map(written.map((t) => [t.id, t.path]));
    const now = board.trial.texts;
    const [old, fresh] = [drawing.curves ?? {}, tried.curves ?? {}];
    const before = new Map(Object.keys(old).map((id) => [id, pathOf(drawing, id)]));
    const after = new Map(Object.keys(fresh).map((id) => [id, pathOf(tried, id)]));
    return {
      gone: [
        ...[...before].filter(([id, d]) => after.get(id) !== d).map(([, d]) => d),
        ...written.filter((t) => !(t.id in now)).map((t) => t.path),
      ],
      come: [...after].filter(([id, d]) => before.get(id) !== d).map(([, d]) => d),
      written: Object.entries(now)
        .filter(([id, d]) => was.get(id) !== d)
        .map(([, d]) => d),
    };
  });
</script>

<g fill="none" class="pointer-events-none" data-testid="tried">
  {#each change.gone as d, i (i)}<path
      {d}
      vector-effect="non-scaling-stroke"
      class="stroke-carmine [stroke-width:2.5]"
    />{/each}
  {#each change.come as d, i (i)}
    <path {d} vector-effect="non-scaling-stroke" class="stroke-stage [stroke-width:4]" />
    <path
      {d}
      vector-effect="non-scaling-stroke"
      stroke-linecap="round"
      class="stroke-verdigris [stroke-width:2.5] [stroke-dasharray:0.1_5]"
    />
  {/each}
  {#each change.points ?? [] as [id, [x, y]] (id)}
    <path
      d="M{x} {y}h0"
      vector-effect="non-scaling-stroke"
      stroke-linecap="round"
      class="stroke-verdigris [stroke-width:9]"
    />
  {/each}
  {#each change.written as d, i (i)}<path
      {d}
      fill-rule="evenodd"
      vector-effect="non-scaling-stroke"
      class="fill-verdigris/25 stroke-verdigris [stroke-width:1.2]"
      data-testid="tried-text"
    />{/each}
</g>
