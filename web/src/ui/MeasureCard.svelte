<script lang="ts">
  /** Measuring: the way drawn on the stage with its figure, and all figures beside it. */
  import { tick } from 'svelte';
  import { Vector3 } from 'three';
  import type { Measured, Spot } from '../api/types';
  import { OTHER } from '../state/action';
  import type { Measuring } from '../state/measuring.svelte';
  import { useWorkplace } from '../state/workplace.svelte';
  import Card from './Card.svelte';

  let { measuring, turn }: { measuring: Measuring; turn: number } = $props();
  const work = useWorkplace();
  $effect(() => measuring.follow(work.hovered));
  $effect(() => {
    void work.session.scene;
    measuring.again();
  });
  const ends = $derived.by(() => {
    void turn;
    const { meaning } = measuring;
    if (!work.stage || !meaning?.feet.length) return null;
    return meaning.feet.map((f) => work.stage!.view.screen(new Vector3(...(f as Spot))));
  });
  const names = $derived(measuring.of.map((t) => t.brief ?? t.words));
  /** The field has its text only after it is there. */
  const begin = (field: HTMLInputElement) => (field.focus(), void tick().then(() => field.select()));
  async function anew() {
    if (await measuring.take()) work.stopMeasuring();
  }
  async function copy() {
    try {
      await navigator.clipboard.writeText(measuring.text);
      work.session.note('The figures were copied.');
    } catch {
      work.session.note('The browser did not let them be copied. Select them with the mouse.', true);
    }
  }
</script>

{#snippet keep(figure: Measured['figures'][number])}
  {#if !measuring.anew}<button
      class="text-[0.78125rem] text-brass underline opacity-0 group-hover:opacity-100 focus:opacity-100"
      aria-label="Keep {figure.words}"
      title="Keep it under a tag, for formulas"
      onclick={() => measuring.keep(figure)}>keep</button
    >{/if}
{/snippet}
{#if ends}
  {@const [a, b] = ends}
  {@const [mx, my] = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]}
  <svg class="pointer-events-none absolute inset-0 z-10 h-full w-full text-carmine" data-testid="way">
    <line x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} stroke="currentColor" stroke-width="1.6" />
    {#each [a, b] as [x, y], i (i)}<circle cx={x} cy={y} r="3.5" fill="currentColor" />{/each}
    <text
      x={mx}
      y={my - 7}
      text-anchor="middle"
      class="figures fill-current [paint-order:stroke] [stroke-width:5] [stroke:var(--color-stage)]"
      >{measuring.meaning?.shown}</text
    >
  </svg>
{/if}
<Card
  title={measuring.anew ? `Measure ${measuring.anew} anew` : 'Measure'}
  close="Close measuring"
  onclose={() => work.stopMeasuring()}
  name="measure"
>
  <div class="px-3 py-2" aria-live="polite">
    {#if names.length}
      <p class="text-graphite">{names.join(' – ')}</p>
    {:else}
      <p class="text-graphite">Pick one thing, or two. Shift adds more: edges and faces are summed.</p>
    {/if}
    {#if measuring.trouble}<p class="mt-1 text-carmine" role="alert">{measuring.trouble}</p>{/if}
    {#if measuring.meaning}
      <p class="mt-1 flex items-baseline justify-between gap-2">
        <span class="font-medium">{measuring.meaning.words}</span>
        <span class="figures text-[0.9375rem] font-semibold" data-testid="measured"
          >{measuring.meaning.shown}</span
        >
      </p>
      {#each measuring.meaning.parts ?? [] as p (p.words)}
        <p class="group flex items-baseline gap-2 text-graphite">
          <span class="flex-1">{p.words}</span>
          {@render keep(p)}
          <span class="figures">{p.shown}</span>
        </p>
      {/each}
    {/if}
    {#each measuring.answer?.figures ?? [] as f (f.words)}
      <p class="group flex items-baseline gap-2" data-testid="figure-of">
        <span class="flex-1">{f.words}</span>
        {@render keep(f)} <span class="figures">{f.shown}</span>
      </p>
    {/each}
    {#if measuring.keeping}
      <form
        class="mt-2 border-t border-rule pt-2"
        data-testid="keeping"
        onsubmit={(e) => (e.preventDefault(), void measuring.kept())}
      >
        <label class="flex items-baseline gap-2"
          >keep {measuring.keeping.words} as
          <input
            use:begin
            class="figures min-w-0 flex-1 border border-brass bg-white px-1"
            aria-label="tag of the measure"
            bind:value={measuring.tag}
            onkeydown={(e) => {
              e.stopPropagation();
              if (e.key === 'Escape') measuring.keeping = null;
            }}
          /></label
        >
        {#if measuring.refused}<p class="mt-1 text-carmine" role="alert">{measuring.refused}</p>{/if}
      </form>
    {:else if measuring.answer}
      <p class="mt-2 flex flex-wrap gap-2">
        {#if measuring.anew}<button class="button !py-0" onclick={anew}>Take these</button>
        {:else}<button class="button !py-0" onclick={() => measuring.keep()}
            >Keep <span class="figures">Enter</span></button
          >{/if}
        <button class="button !py-0" onclick={copy}>Copy</button>
        {#if measuring.things.length === 2 && !measuring.greatest}<button
            class="button !py-0"
            onclick={() => measuring.askGreatest()}>Greatest distance</button
          >{/if}
        {#if measuring.answer.meanings.length > 1}<button
            class="button !py-0"
            onclick={() => measuring.other()}>Other meaning <span class="figures">{OTHER}</span></button
          >{/if}
      </p>
    {/if}
  </div>
</Card>
