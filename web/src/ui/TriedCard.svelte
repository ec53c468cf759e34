<script lang="ts">
  /** Over the stage while other values are tried on: which, what they come to, and the ways on. */
  import { useWorkplace } from '../state/workplace.svelte';
  import { figure } from './figures';

  const work = useWorkplace();
  const { trust } = work;
  const told = $derived(trust.tried);
  const trying = $derived(trust.trying!);
  const values = $derived(Object.entries(trying.values).map(([t, f]) => `${t} = ${f}`));
  const volumes = $derived(
    (told?.bodies ?? []).reduce((sum, b) => [sum[0] + b.volumes[0], sum[1] + b.volumes[1]], [0, 0]),
  );
  const playing = $derived(trust.playing !== '');
  /** The two over one another take the place of the one that is tried on. */
  function compare() {
    const { values, title } = trying;
    go(() => work.versions.compareWith(values, title));
  }
  function go(run: () => unknown) {
    trust.leave();
    run();
  }
</script>

<div
  class="absolute top-4 right-4 left-36 z-20 max-w-[34rem] border border-ink bg-paper px-4 py-3 text-[0.875rem]"
  role="status"
  data-testid="tried"
  data-card
>
  <p>
    <strong>{trying.title}</strong>
    {#if values.length > 1 || (values.length === 1 && !trying.title.startsWith(`${Object.keys(trying.values)[0]} =`))}<span
        class="figures text-graphite"
        >{values.slice(0, 4).join(', ')}{values.length > 4 ? ` and ${values.length - 4} more` : ''}</span
      >{/if}
  </p>
  {#if trust.waiting && !playing}<p class="text-graphite">Being built …</p>
  {:else if told}
    {#if told.judgement === 'good'}
      <p>
        <span class="text-verdigris">It is built.</span>
        {#if told.other}<span class="text-brass">{told.other}</span>{/if}
        Volume <span class="figures">{figure(volumes[0])}</span> →
        <span class="figures">{figure(volumes[1])}</span> mm³.
      </p>
    {:else}
      <p class="text-carmine">{told.at ? `${told.at}: ` : ''}{told.why}</p>
    {/if}
    <p class="text-[0.8125rem] text-graphite">
      The part as it is: thin lines. Nothing is kept until it is taken.
    </p>
  {/if}
  {#if !playing}<p class="mt-2 flex flex-wrap gap-2">
      {#if trying.accept}<button class="button-strong !py-0.5" onclick={() => go(trying.accept!.run)}
          >{trying.accept.words}</button
        >
      {:else if told?.judgement === 'good' && values.length}<button
          class="button-strong !py-0.5"
          onclick={() => trust.take()}>Take these values</button
        >
        <button class="button !py-0.5" onclick={compare}>Compare</button>{/if}
      {#if trying.good}<button
          class="button !py-0.5"
          onclick={() => trust.tryOn({ values: trying.good!, title: 'The last that holds' })}
          >Show the last that holds</button
        >{/if}
      {#if trying.back}<button class="button !py-0.5" onclick={() => go(trying.back!.run)}
          >{trying.back.words}</button
        >
      {:else}<button class="button !py-0.5" onclick={() => trust.leave()}>Back to the part</button>{/if}
    </p>{/if}
</div>
