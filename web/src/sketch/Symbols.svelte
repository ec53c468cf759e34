<script lang="ts">
  /** The symbols of constraints beside what they bind: hover explains, click picks, Delete removes. */
  import type { Drawing, Flat, SketchView } from '../api/types';
  import type { Board } from './board.svelte';
  import { jointOf, spotOf } from './paths';

  let {
    board,
    drawing,
    view,
    screen,
  }: { board: Board; drawing: Drawing; view: SketchView | null; screen: (p: Flat) => Flat } = $props();

  const SIDE = 13; // px
  const CLEAR = 11; // px that a symbol keeps from every point, so that a click at one takes it
  const points = $derived(
    [...Object.values(drawing.points ?? {}), [0, 0] as Flat].map((p) => screen(p as Flat)),
  );
  /** A place along a way that no point lies under; after a few steps any will do. */
  function clear(x: number, y: number, u: number, v: number): Flat {
    for (let i = 0; i < 4 && points.some(([a, b]) => Math.hypot(a - x, b - y) < CLEAR); i++)
      [x, y] = [x + (u * SIDE) / 2, y + (v * SIDE) / 2];
    return [x, y];
  }
  const symbols = $derived.by(() => {
    const count: Record<string, number> = {};
    return (view?.constraints ?? [])
      .filter((c) => !c.dimension && c.kind !== 'coincident')
      .flatMap((c) => {
        // A touch at its joint, a point on a curve at the point, the rest at the curves they bind.
        const joint = c.kind === 'tangent' ? jointOf(drawing, c.of[0], c.of[1]) : null;
        const curves = c.of.filter((e) => drawing.curves?.[e]);
        const at =
          c.kind === 'on_curve'
            ? c.of.slice(0, 1)
            : c.kind === 'tangent'
              ? [c.of[1]]
              : curves.length
                ? curves.slice(0, 2)
                : c.of.slice(0, 1);
        return at.flatMap((on) => {
          const spot = joint
            ? { at: joint, away: spotOf(drawing, c.of[0])?.away ?? [0, 1] }
            : spotOf(drawing, on);
          if (!spot) return [];
          const place = joint ? joint.map((v) => v.toFixed(3)).join() : on;
          const n = (count[place] = (count[place] ?? 0) + 1) - 1;
          const [x, y] = screen(spot.at);
          const [u, v] = screen([spot.at[0] + spot.away[0], spot.at[1] + spot.away[1]]);
          const size = Math.hypot(u - x, v - y) || 1;
          const [ax, ay] = [(u - x) / size, (v - y) / size];
          const [px, py] = clear(x + ax * 13 - ay * n * SIDE, y + ay * 13 + ax * n * SIDE, ax, ay);
          return [{ key: `${c.id}${on}`, row: c, x: px, y: py }];
        });
      });
  });
</script>

<g data-testid="symbols">
  {#each symbols as s (s.key)}
    {@const hot = board.hovered === s.row.id || board.picked.includes(s.row.id)}
    {@const fights = board.binding.fights.some((f) => f.id === s.row.id)}
    <g
      role="button"
      tabindex="-1"
      aria-label={s.row.words}
      class="cursor-pointer {fights ? 'text-carmine' : hot ? 'text-brass' : 'text-graphite'} {board.tool
        ? 'pointer-events-none'
        : ''}"
      transform="translate({s.x} {s.y})"
      onpointerdown={(e) => e.stopPropagation()}
      onpointerenter={() => (board.hovered = s.row.id)}
      onpointerleave={() => board.hovered === s.row.id && (board.hovered = '')}
      onclick={(e) => board.pickThing(s.row.id, e.shiftKey)}
      onkeydown={(e) => e.key === 'Enter' && board.pickThing(s.row.id, e.shiftKey)}
    >
      <rect
        x="-7"
        y="-7"
        width="14"
        height="14"
        class={hot ? 'fill-wash' : 'fill-transparent'}
        stroke={hot ? 'currentColor' : 'none'}
      />
      <text
        y="4"
        text-anchor="middle"
        class="fill-current text-[0.75rem] [paint-order:stroke] [stroke-width:3] [stroke:var(--color-stage)]"
        >{s.row.symbol}</text
      >
    </g>
  {/each}
</g>
