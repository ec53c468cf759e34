<script lang="ts">
  /** Two branches of one part become one: what is taken, what both changed, how it would stand. */
  import { figure } from './figures';
  import { useWorkplace } from '../state/workplace.svelte';
  import Panel from './Panel.svelte';

  const work = useWorkplace();
  const { together } = work;
  const told = $derived(together.told);
  const sides = ['this one', 'the other', 'together'];
  const WAS: Record<string, string> = {
    ...{ added: 'comes in', removed: 'goes', moved: 'stands elsewhere', changed: 'is changed' },
  };
  const amiss = $derived(told?.steps.filter((s) => ['stopped', 'held'].includes(s.state)) ?? []);
  const picture = (svg: string) => `data:image/svg+xml;utf8,${encodeURIComponent(svg)}`;
  const volume = (v: number | null | undefined) => (v == null ? 'not there' : `${figure(v, 8)} mm³`);
</script>

<Panel
  title="Bring together"
  of={told ? `with v${told.of.version}; both come from v${told.base.version}` : ''}
  close="Close"
  onclose={() => together.close()}
  name="together"
  width="430px"
>
  {#snippet buttons()}
    {#if told}<button
        class="button-strong !py-0.5 whitespace-nowrap"
        disabled={together.open_ > 0 || together.busy}
        title={together.open_ ? 'Choose first what both sides changed' : ''}
        onclick={() => together.accept()}>Bring together</button
      >{/if}
  {/snippet}
  <div class="min-h-0 flex-1 overflow-y-auto px-4 py-3 text-[0.875rem]">
    {#if together.trouble}<p class="mb-2 text-carmine" role="alert">{together.trouble}</p>{/if}
    <h3 class="font-semibold">What to bring in</h3>
    {#each together.branches ?? [] as b (`${b.part} ${b.version}`)}
      <p>
        <button
          class="blank text-left {together.of === b ? 'font-semibold' : ''}"
          onclick={() => together.look(b)}>{b.words}</button
        >
      </p>
    {:else}
      <p class="text-graphite">
        {together.branches
          ? 'Nothing yet. Branch a version (in the list of versions), change either part, and bring them together here.'
          : 'Looking …'}
      </p>
    {/each}
    {#if together.busy}<p class="mt-2 text-graphite" aria-live="polite">Building what it comes to …</p>{/if}
    {#if told}
      <div class="mt-3 grid grid-cols-3 gap-2">
        {#each told.pictures as svg, i (i)}
          <figure class="border border-rule">
            <img src={picture(svg)} alt="" class="aspect-[3/2] w-full bg-stage" />
            <figcaption class="px-2 text-[0.8125rem] text-graphite">{sides[i]}</figcaption>
          </figure>
        {/each}
      </div>
      {#if told.conflicts.length}
        <h3 class="mt-4 border-t border-ink pt-2 font-semibold">
          Changed on both sides: {told.conflicts.length}
        </h3>
        {#each told.conflicts as c (c.key)}
          <fieldset class="mt-2 border-l-2 border-brass pl-2" data-testid="conflict">
            <legend class="float-left mb-0.5 w-full"
              ><strong>{c.where}</strong>, {c.field}
              <span class="text-graphite">(it was {c.base || 'another'})</span></legend
            >
            {#each [['ours', 'this one', c.ours], ['theirs', 'the other', c.theirs]] as const as [side, words, value] (side)}
              <label class="mr-4 inline-flex items-baseline gap-1.5"
                ><input
                  type="radio"
                  name={c.key}
                  checked={together.chosen[c.key] === side}
                  onchange={() => together.choose(c.key, side)}
                />
                {words}: <span class="figures">{value}</span></label
              >
            {/each}
          </fieldset>
        {/each}
      {/if}
      <h3 class="mt-4 border-t border-ink pt-2 font-semibold">What comes in</h3>
      {#each told.changes as s (s.was + s.id)}
        <p>
          <strong>{s.name}</strong>
          {WAS[s.was]}{#if s.fields?.length}:
            {s.fields.map((f) => `${f.tag || f.field} ${f.before} → ${f.after}`).join('; ')}{/if}
        </p>
      {:else}<p class="text-graphite">No step is another one for it.</p>{/each}
      {#if Object.keys(told.renamed).length}<p class="mt-1 text-graphite">
          Called otherwise, since both sides had the name: {Object.entries(told.renamed)
            .filter(([a, b]) => a !== b)
            .map(([a, b]) => `${a} is ${b}`)
            .join(', ') || 'none'}.
        </p>{/if}
      <h3 class="mt-4 border-t border-ink pt-2 font-semibold">How it would stand</h3>
      {#if !amiss.length}<p class="text-verdigris">
          All that it reaches is built, all references are sound.
        </p>{/if}
      {#each amiss as s (s.id)}
        <p class={s.state === 'stopped' ? 'text-carmine' : ''}>
          <strong>{s.name}</strong> is {s.state}: {s.message}
        </p>
      {/each}
      {#each told.bodies as b (b.name)}
        <p class="figures">{b.name}: {volume(b.before)} → {volume(b.after)}</p>
      {/each}
    {/if}
  </div>
</Panel>
