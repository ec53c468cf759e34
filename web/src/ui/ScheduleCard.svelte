<script lang="ts">
  /** The hole schedule: every hole numbered on the stage, with its place in the active system and its note. */
  import { Vector3 } from 'three';
  import { Refusal, type HolesListed, type Spot } from '../api/types';
  import { useWorkplace } from '../state/workplace.svelte';
  import Card from './Card.svelte';
  import type { Cell } from './csv';
  import SaveTable from './SaveTable.svelte';

  let { turn }: { turn: number } = $props();
  const work = useWorkplace();
  const { session } = work;
  let found = $state.raw<HolesListed | null>(null);
  let trouble = $state('');
  let order = $state<'route' | 'x' | 'y' | 'path'>('route');
  /** The hole that is pointed at, by its number. */
  let lit = $state(0);
  let asked = 0;
  $effect(() => {
    void [session.scene, session.part?.active_system];
    const number = ++asked;
    session.socket.ask({ type: 'ask', ask: { of: 'holes', order } } as never).then(
      (told) => {
        if (number !== asked || told.type !== 'answer' || told.answer.of !== 'holes') return;
        [found, trouble] = [told.answer, ''];
      },
      (error) => {
        if (number === asked)
          [found, trouble] = [null, error instanceof Refusal ? error.message : String(error)];
      },
    );
  });
  const unit = $derived(session.part?.units?.length ?? 'mm');
  const size = $derived(unit === 'in' ? 25.4 : 1);
  const figure = (mm: number) => Number((mm / size).toFixed(unit === 'in' ? 4 : 3)).toString();
  const system = $derived(session.step(session.part?.active_system ?? '')?.name ?? 'part');
  const marks = $derived.by(() => {
    void turn;
    if (!work.stage) return [];
    return (found?.holes ?? []).map((h) => ({
      ...h,
      on: work.stage!.view.screen(new Vector3(...(h.at as Spot))),
    }));
  });
  function table(): Cell[][] {
    const head = ['number', 'x_mm', 'y_mm', 'z_mm', 'into_x', 'into_y', 'into_z', 'diameter_mm', 'depth_mm'];
    return [
      [...head, 'thread', 'tolerance', 'note', 'step', 'body'],
      ...found!.holes.map((h) => [
        ...[h.number, ...h.place, ...h.into, h.diameter, h.depth],
        ...[h.thread, h.tolerance, h.note, h.name, h.body],
      ]),
    ];
  }
</script>

<svg class="pointer-events-none absolute inset-0 z-10 h-full w-full" data-testid="hole-numbers">
  {#each marks as m (m.number)}
    {@const [x, y] = m.on}
    <g class={lit === m.number ? 'text-carmine' : 'text-ink'}>
      <path d="M{x} {y}l9 -9" stroke="currentColor" fill="none" />
      <circle cx={x + 16} cy={y - 16} r="10" class="fill-paper" stroke="currentColor" />
      <text x={x + 16} y={y - 12} text-anchor="middle" class="figures fill-current text-[0.75rem]"
        >{m.number}</text
      >
    </g>
  {/each}
</svg>
<Card
  title="Hole schedule"
  close="Close the hole schedule"
  onclose={() => (work.scheduling = false)}
  name="schedule"
  wide="w-[26rem]"
>
  {#if trouble}<p class="px-3 py-2 text-graphite" role="alert">{trouble}</p>{/if}
  {#if found}
    <p class="flex items-baseline justify-between gap-2 border-b border-rule px-3 py-1.5">
      <span class="text-graphite"
        >{found.holes.length === 1 ? '1 hole' : `${found.holes.length} holes`}, {unit}, in {system}</span
      >
      <label class="text-graphite"
        >order
        <select class="border-b border-brass bg-transparent text-ink" aria-label="order" bind:value={order}>
          <option value="route">of the route</option>
          <option value="x">along X</option>
          <option value="y">along Y</option>
          <option value="path">a short path</option>
        </select></label
      >
    </p>
    <div class="min-h-0 flex-1 overflow-y-auto">
      <table class="w-full">
        <thead class="sticky top-0 bg-paper text-left text-[0.8125rem] text-graphite">
          <tr
            >{#each ['', 'X', 'Y', 'Z', 'Note'] as h (h)}<th
                class="px-2 py-0.5 font-normal {'XYZ'.includes(h) && h ? 'text-right' : ''}">{h}</th
              >{/each}</tr
          >
        </thead>
        <tbody>
          {#each found.holes as h (h.number)}
            <tr
              class="border-t border-rule hover:bg-wash/50"
              title="{h.name} in {h.body}"
              data-hole={h.number}
              onpointerenter={() => (lit = h.number)}
              onpointerleave={() => (lit = 0)}
            >
              <td class="figures px-2">{h.number}</td>
              {#each h.place as v, i (i)}<td class="figures px-2 text-right">{figure(v)}</td>{/each}
              <td class="px-2">{h.note}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    <div class="border-t border-rule px-3 py-1.5">
      {#each found.sizes as [note, count] (note)}<p class="flex justify-between gap-2">
          <span>{note}</span><span class="figures">{count}</span>
        </p>{/each}
      <p class="mt-1.5"><SaveTable name="holes" rows={table} small /></p>
    </div>
  {/if}
</Card>
