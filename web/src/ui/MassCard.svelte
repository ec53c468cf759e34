<script lang="ts">
  /** Mass and size of each body and of all: figures in the active system, materials chosen here. */
  import { Vector3 } from 'three';
  import { Refusal, type BodyMass, type MassesAndSizes, type Spot } from '../api/types';
  import { look } from '../state/deeds';
  import { useWorkplace } from '../state/workplace.svelte';
  import Card from './Card.svelte';
  import type { Cell } from './csv';
  import SaveTable from './SaveTable.svelte';
  import WallLine from './WallLine.svelte';
  import { choosing } from './choosing';

  let { turn }: { turn: number } = $props();
  const work = useWorkplace();
  const { session } = work;
  let found = $state.raw<MassesAndSizes | null>(null);
  let trouble = $state('');
  let chosen = $state<string | null>(null);
  const shown = $derived(chosen ?? work.weighed);
  let asked = 0;
  $effect(() => {
    void [session.scene, session.part?.looks, session.part?.active_system];
    const number = ++asked;
    session.socket.ask({ type: 'ask', ask: { of: 'mass' } } as never).then(
      (told) => {
        if (number !== asked || told.type !== 'answer' || told.answer.of !== 'mass') return;
        [found, trouble] = [told.answer, ''];
      },
      (error) => {
        if (number === asked)
          [found, trouble] = [null, error instanceof Refusal ? error.message : String(error)];
      },
    );
  });
  const all = $derived(found ? [...found.bodies, ...(found.all ? [found.all] : [])] : []);
  const one = $derived(all.find((b) => b.id === shown && (shown || chosen !== null)) ?? all[0]);
  const inch = $derived(session.part?.units?.length === 'in');
  const unit = $derived(inch ? 'in' : 'mm');
  const size = $derived(inch ? 25.4 : 1);
  const figure = (v: number) =>
    Math.abs(v) >= 1e6 || (Math.abs(v) > 1e-9 && Math.abs(v) < 1e-3)
      ? v.toExponential(5)
      : Number(v.toFixed(4)).toString();
  /** A matrix's figures; what is nothing beside the greatest is nothing. */
  const cells = (m: readonly (readonly number[])[]) => {
    const most = Math.max(...m.flat().map(Math.abs));
    return m.map((row) => row.map((v) => figure(Math.abs(v) < 1e-10 * most ? 0 : v)));
  };
  const length = (v: number) => figure(v / size);
  const weight = (g: number) => (g >= 1000 ? `${figure(g / 1000)} kg` : `${figure(g)} g`);
  const rows = (b: BodyMass): [string, string, string][] => [
    ['mass', b.density || b.mass ? weight(b.mass) : 'choose a material', ''],
    ['volume', figure(b.volume / size ** 3), `${unit}³`],
    ['area', figure(b.area / size ** 2), `${unit}²`],
    ['centre', b.centre.map(length).join('  '), unit],
    ['box from', b.low.map(length).join('  '), unit],
    ['to', b.high.map(length).join('  '), unit],
    ['size', b.high.map((v, i) => length(v - b.low[i])).join(' × '), unit],
  ];
  const inertia = (b: BodyMass) => (b.mass ? 'g·mm²' : 'mm⁵');
  /** The feet of the least wall, where it was found. */
  let feet = $state.raw<Spot[] | null>(null);
  const wall = $derived.by(() => {
    void turn;
    return feet && work.stage ? feet.map((f) => work.stage!.view.screen(new Vector3(...f))) : null;
  });
  const materials = $derived(work.about.materials);

  function table(): Cell[][] {
    const centre = ['centre_x_mm', 'centre_y_mm', 'centre_z_mm'];
    return [
      [
        ...['body', 'material', 'mass_g', 'volume_mm3', 'area_mm2', ...centre],
        ...['ixx', 'iyy', 'izz', 'ixy', 'ixz', 'iyz'],
      ],
      ...all.map((b) => [
        ...[b.name, b.material, b.mass, b.volume, b.area, ...b.centre],
        ...[0, 1, 2].map((i) => b.inertia[i][i]),
        ...[b.inertia[0][1], b.inertia[0][2], b.inertia[1][2]],
      ]),
    ];
  }
</script>

{#if wall}
  {@const [[ax, ay], [bx, by]] = wall}
  <svg
    class="pointer-events-none absolute inset-0 z-10 h-full w-full text-carmine"
    data-testid="wall"
    fill="none"
    stroke="currentColor"
  >
    <path d="M{ax} {ay}L{bx} {by}" stroke-width="2.5" />
    <circle cx={(ax + bx) / 2} cy={(ay + by) / 2} r={Math.hypot(ax - bx, ay - by) / 2 + 9} />
  </svg>
{/if}
<Card
  title="Mass and size"
  close="Close mass and size"
  onclose={() => (work.weighing = false)}
  name="mass"
  wide="w-80"
>
  {#if trouble}<p class="px-3 py-2 text-graphite">{trouble}</p>{/if}
  {#if one}
    {#if all.length > 1}
      <div class="flex flex-wrap gap-1.5 border-b border-rule px-3 py-1.5">
        {#each all as b (b.id)}
          <button
            class="border px-1.5 {b === one ? 'border-ink bg-wash' : 'border-rule text-graphite'}"
            aria-pressed={b === one}
            onclick={() => (chosen = b.id)}>{b.name}</button
          >
        {/each}
        {#if !found?.all}<span class="text-graphite">all together: when every body has a material</span>{/if}
      </div>
    {/if}
    <div class="px-3 py-2">
      {#if one.id}
        {@const body = session.scene?.bodies.find((b) => b.id === one.id)}
        <label class="mb-1 flex justify-between gap-2"
          >material
          <select
            class="border-b border-brass bg-transparent"
            aria-label="material"
            use:choosing={{ value: one.material, set: (v) => body && look(session, body, { material: v }) }}
          >
            <option value="">not chosen</option>
            {#each Object.entries(materials) as [name, density] (name)}<option value={name}
                >{name}, {density} g/cm³</option
              >{/each}
          </select></label
        >
      {/if}
      {#each rows(one) as [what, value, of] (what)}
        <p class="flex justify-between gap-2">
          <span class="text-graphite">{what}</span>
          <span class="figures" data-testid="mass-{what}">{value} {of}</span>
        </p>
      {/each}
      {#if one.id}<WallLine body={one.id} bind:feet />{/if}
      {#each [['inertia about the centre', one.inertia], ['inertia about the system’s origin', one.about]] as const as [title, m] (title)}
        <p class="mt-2 text-graphite">{title}, {inertia(one)}</p>
        <table class="figures w-full text-right">
          <tbody>
            {#each cells(m) as row, i (i)}
              <tr
                >{#each row as v, j (j)}<td>{v}</td>{/each}</tr
              >
            {/each}
          </tbody>
        </table>
      {/each}
      <p class="mt-2 flex justify-between gap-2">
        <span class="text-graphite">principal moments</span>
        <span class="figures">{one.moments.map(figure).join('  ')}</span>
      </p>
      <p class="mt-2"><SaveTable name="mass" rows={table} small /></p>
    </div>
  {/if}
</Card>
