<script lang="ts">
  /** Curves and points. Pencilled: light, finely dashed, open rings. Inked: full line, closed points. */
  import type { Drawing, Flat, SketchView } from '../api/types';
  import type { Board } from './board.svelte';
  import { cutAway, hiddenPoints, pointsOf } from './bent';
  import { place } from './geometry';
  import { pathOf, tickOf } from './paths';

  let {
    board,
    drawing,
    view,
    scale,
  }: { board: Board; drawing: Drawing; view: SketchView | null; scale: number } = $props();

  const picked = $derived(
    new Set(board.form ? board.form.all : [...board.picked, ...board.given.map((g) => g.on)]),
  );
  /** What the constraint under the pointer binds. */
  const bound = $derived(
    new Set([...(view?.constraints.find((c) => c.id === board.hovered)?.of ?? []), ...board.lit]),
  );
  /** Taken in from what is not there any more. */
  const lost = $derived(new Set(board.lostTakings.map((r) => r.field.replace('taken:', ''))));
  const fighting = $derived(new Set(board.binding.fights.flatMap((f) => f.of)));
  const pencilled = $derived(new Set(view?.pencilled ?? []));
  function look(id: string, construction: boolean): string {
    if (picked.has(id)) return 'stroke-brass [stroke-width:3.2]';
    if (bound.has(id) || (board.hovered === id && (!board.tool || board.form)))
      return 'stroke-brass [stroke-width:1.8]';
    if (fighting.has(id)) return 'stroke-carmine [stroke-width:2] [stroke-dasharray:1_2.5]';
    if (drawing.taken?.[id])
      return `${lost.has(id) ? 'stroke-carmine' : 'stroke-verdigris'} [stroke-width:${construction ? 1.2 : 2}] [stroke-dasharray:11_3]`;
    if (construction)
      return `${pencilled.has(id) ? 'stroke-pencil' : 'stroke-ink'} [stroke-width:0.9] [stroke-dasharray:14_3_2_3]`;
    return pencilled.has(id)
      ? 'stroke-pencil [stroke-width:1.5] [stroke-dasharray:5_2.5]'
      : 'stroke-ink [stroke-width:2]';
  }
  const takenPoints = $derived(
    new Set(
      Object.keys(drawing.taken ?? {}).flatMap((e) => {
        const c = drawing.curves?.[e];
        return c ? pointsOf(c) : [e];
      }),
    ),
  );
  const hidden = $derived(hiddenPoints(drawing));
  /** Points by their look, each look one path, points that stand on each other once. */
  const dots = $derived.by(() => {
    const found: Record<string, Map<string, string>> = {
      'fill-ink stroke-ink': new Map(),
      'fill-paper stroke-pencil': new Map(),
      'fill-verdigris stroke-verdigris': new Map(),
      'fill-brass stroke-brass': new Map(),
    };
    for (const [id, p] of [
      ...(Object.entries(drawing.points ?? {}) as [string, Flat][]),
      ['origin', [0, 0]] as [string, Flat],
    ]) {
      if (hidden.has(id)) continue;
      const hot = picked.has(id) || bound.has(id) || (board.hovered === id && (!board.tool || board.form));
      const taken = takenPoints.has(id);
      const look = hot
        ? 'fill-brass stroke-brass'
        : taken
          ? 'fill-verdigris stroke-verdigris'
          : pencilled.has(id)
            ? 'fill-paper stroke-pencil'
            : 'fill-ink stroke-ink';
      const r = (hot ? 4.5 : taken ? 2 : 3) / scale;
      found[look].set(
        `${p[0].toFixed(6)} ${p[1].toFixed(6)}`,
        `M${p[0] - r} ${p[1]}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`,
      );
    }
    return Object.entries(found)
      .filter(([, own]) => own.size)
      .map(([look, own]) => [look, [...own.values()].join('')]);
  });
  const far = $derived(4000 / scale);
</script>

<g fill="none" stroke-linecap="round">
  <path
    d="M{-far} 0H{far}"
    vector-effect="non-scaling-stroke"
    class={picked.has('x_axis') || board.hovered === 'x_axis' ? 'stroke-brass' : 'stroke-graphite'}
    stroke-width="0.8"
    stroke-dasharray="18 4 3 4"
  />
  <path
    d="M0 {-far}V{far}"
    vector-effect="non-scaling-stroke"
    class={picked.has('y_axis') || board.hovered === 'y_axis' ? 'stroke-brass' : 'stroke-graphite'}
    stroke-width="0.8"
    stroke-dasharray="18 4 3 4"
  />
  {#each Object.keys(drawing.taken ?? {}).filter((e) => drawing.curves?.[e]) as id (id)}
    <!-- The model's own edge lies beneath: cover it, so that the dashes show. -->
    <path
      d={pathOf(drawing, id)}
      vector-effect="non-scaling-stroke"
      class="stroke-stage [stroke-linecap:butt] [stroke-width:5]"
    />
    {#each tickOf(drawing, id) as t, i (i)}
      <path
        d="M{t.at[0] - (5 * t.across[0]) / scale} {t.at[1] - (5 * t.across[1]) / scale}L{t.at[0] +
          (5 * t.across[0]) / scale} {t.at[1] + (5 * t.across[1]) / scale}"
        vector-effect="non-scaling-stroke"
        class="{lost.has(id) ? 'stroke-carmine' : 'stroke-verdigris'} [stroke-width:1.4]"
      />
    {/each}
  {/each}
  {#each Object.values(drawing.curves ?? {}) as c, i (i)}
    {#if c.kind === 'spline' && (c.start || c.end)}
      {#each cutAway(drawing, c) as piece, j (j)}
        <path
          d="M{piece.map((p) => p.join(' ')).join('L')}"
          vector-effect="non-scaling-stroke"
          class="stroke-graphite/70 [stroke-dasharray:1_4] [stroke-width:1]"
        />
      {/each}
    {/if}
    {#if c.kind === 'spline' && c.manner === 'pulled' && !hidden.has(c.over[1])}
      <path
        d="M{c.over.map((p) => place(drawing, p).join(' ')).join('L')}"
        vector-effect="non-scaling-stroke"
        class="stroke-graphite/60 [stroke-dasharray:2_4] [stroke-width:0.8]"
      />
    {/if}
  {/each}
  {#each Object.entries(drawing.curves ?? {}) as [id, c] (id)}
    <path
      d={pathOf(drawing, id)}
      vector-effect="non-scaling-stroke"
      class={look(id, c.construction ?? false)}
      data-testid="curve"
      data-inked={!pencilled.has(id)}
    />
  {/each}
  {#each dots as [look, d] (look)}<path
      {d}
      vector-effect="non-scaling-stroke"
      class="{look} [stroke-width:1.2]"
    />{/each}
</g>
