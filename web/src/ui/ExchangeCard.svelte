<script lang="ts">
  /** What goes out: formats, what of the part, and how; several at once as a zip. */
  import { onDestroy } from 'svelte';
  import { inMm } from '../sketch/lengths';
  import { useWorkplace } from '../state/workplace.svelte';
  import Card from './Card.svelte';

  const work = useWorkplace();
  const { session, exchange } = work;
  const OF: Record<string, string> = {
    ...{ part: 'the whole part', bodies: 'the picked bodies', sketch: 'a sketch' },
    ...{
      face: 'the picked face',
      section: 'a section at the picked plane',
      view: 'a view',
      table: 'the table',
    },
    ...{ drawing: 'all pages of the drawing', page: 'the first page of the drawing' },
  };
  const WAYS: Record<string, string> = {
    ...{ front: 'from the front', back: 'from the back', left: 'from the left', right: 'from the right' },
    ...{ top: 'from above', bottom: 'from below', picked: 'square to the picked plane' },
  };
  const { beforehand } = exchange;
  $effect(() => {
    const soon = setTimeout(() => exchange.look(), 200);
    void [session.version, session.past, JSON.stringify(exchange.chosen), exchange.off, work.picked];
    return () => clearTimeout(soon);
  });
  onDestroy(() => beforehand.end());
  /** How large what is written as a whole is, in the part's unit. */
  const size = $derived.by(() => {
    const box = session.scene?.bodies.length ? work.stage?.box() : null;
    if (!box) return '';
    const unit = session.part?.units?.length ?? 'mm';
    const [x, y, z] = box[1].clone().sub(box[0]).toArray();
    return `${[x, y, z].map((v) => Number((v / inMm(unit)).toPrecision(5))).join(' × ')} ${unit}`;
  });
  const sketches = $derived(session.steps.filter((s) => s.kind === 'sketch'));
</script>

{#snippet before(ending: string)}
  {@const look = beforehand.looks[ending]}
  {#if look?.picture}<img
      src={look.picture}
      alt="What is written as {ending}"
      class="max-h-36 max-w-full justify-self-start border border-rule bg-white p-1"
    />{/if}
  {#if look?.said}<p class="text-graphite" data-testid="beforehand-{ending}">{look.said}</p>{/if}
{/snippet}

<Card
  title="Write files"
  close="Close"
  onclose={() => (exchange.open = false)}
  name="write-files"
  wide="w-96"
>
  <div class="px-3 py-2">
    {#each exchange.formats as format (format.ending)}
      {@const choice = exchange.chosen.find((c) => c.format === format.ending)}
      <div class="border-b border-rule py-1">
        <label class="flex items-baseline gap-2"
          ><input type="checkbox" checked={!!choice} onchange={() => exchange.toggle(format.ending)} /><span
            class="figures w-11 text-brass">{format.ending}</span
          >
          {format.title}</label
        >
        {#if choice}
          <div class="mt-1 mb-1 ml-6 grid gap-1">
            {#if format.subjects.length > 1}
              <select
                class="open-blank"
                bind:value={choice.of}
                aria-label="What is written as {format.ending}"
              >
                {#each format.subjects as of (of)}<option value={of}>{OF[of]}</option>{/each}
              </select>
            {/if}
            {#if choice.of === 'sketch'}
              <select
                class="open-blank"
                bind:value={choice.step}
                aria-label="Sketch written as {format.ending}"
              >
                {#each sketches as s (s.id)}<option value={s.id}>{s.name}</option>{/each}
              </select>
            {:else if choice.of === 'section'}
              <label class="flex items-baseline gap-2"
                >in front of it by <input
                  class="open-blank w-16"
                  bind:value={exchange.off}
                  onkeydown={(e) => e.key !== 'Escape' && e.stopPropagation()}
                /> mm</label
              >
            {/if}
            {#if choice.of === 'view'}
              <select
                class="open-blank"
                bind:value={choice.way}
                aria-label="Whence the view is seen that is written as {format.ending}"
              >
                {#each Object.entries(WAYS) as [way, words] (way)}<option value={way}>{words}</option>{/each}
              </select>
            {/if}
            {#each exchange.options(choice) as o (o.name)}
              {#if o.choices.length}
                <label class="flex items-baseline gap-2"
                  >{o.title}
                  <select
                    class="open-blank"
                    value={choice.options[o.name]}
                    onchange={(e) => (choice.options[o.name] = e.currentTarget.value)}
                    >{#each o.choices as c (c)}<option value={c}>{c}</option>{/each}</select
                  ></label
                >
              {:else}
                <label class="flex items-baseline gap-2"
                  ><input
                    type="checkbox"
                    checked={choice.options[o.name] === true}
                    onchange={(e) => (choice.options[o.name] = e.currentTarget.checked)}
                  />
                  {o.title}</label
                >
              {/if}
            {/each}
            {#if exchange.missing(choice)}<p class="text-brass">{exchange.missing(choice)}</p>{/if}
            {@render before(format.ending)}
          </div>
        {/if}
      </div>
    {/each}
    {#if exchange.trouble}<p class="mt-2 text-carmine" role="alert">{exchange.trouble}</p>{/if}
    <div class="mt-3 flex items-baseline gap-3">
      <button
        class="button-strong"
        disabled={!exchange.chosen.length || exchange.busy}
        onclick={() => exchange.write()}
        >{exchange.chosen.length > 1 ? `Write ${exchange.chosen.length} files` : 'Write'}</button
      >
      {#if exchange.busy}<span class="text-graphite" aria-live="polite">Writing …</span>
        <button class="button !py-0" onclick={() => exchange.cancel()}>Cancel</button>
      {:else if size}<span class="text-graphite">the bodies are {size}</span>{/if}
    </div>
  </div>
</Card>
