<script lang="ts">
  /** What could be made of the selection, likeliest first. */
  import { fitting, fittingTools } from '../sketch/fitting';
  import { useWorkplace } from '../state/workplace.svelte';

  const work = useWorkplace();
  const board = $derived(work.board);
  $effect(() => {
    void work.picked;
    work.noGhost();
    if (!board) void work.askOffers();
  });
  const summary = $derived.by(() => {
    if (board) {
      const n = board.picked.length;
      return n === 0 ? '' : n === 1 ? board.called(board.picked[0]) : `${n} things`;
    }
    const n = work.picked.length;
    return n === 0 ? '' : n === 1 ? work.picked[0].words : `${n} things`;
  });
  const offers = $derived.by(() => {
    if (!board) return work.offers.map((a) => ({ title: a.title, key: a.key, explains: a.explains, run: () => work.run(a), hover: a.hover }));
    const found: { title: string; key: string; explains: string; run: () => void; hover?: () => void }[] = board.binding.ways.length ? [{ title: 'Dimension', key: 'c d', explains: '', run: () => void board.binding.dimension() }] : [];
    for (const c of fitting(board)) found.push({ title: c.title, key: c.key, explains: '', run: () => void board.binding.constrain(c.kind) });
    for (const name of fittingTools(board)) {
      const action = work.actions.find((a) => a.group === 'sketch' && a.title === name);
      if (action) found.push({ title: action.title, key: action.key, explains: action.explains, run: () => work.run(action) });
    }
    return found;
  });
  let strip = $state<HTMLElement>();
  let over = $state(false);
  let all = $state(false);
  $effect(() => {
    void summary;
    all = false;
  });
  $effect(() => {
    void offers;
    if (strip && !all) over = strip.scrollHeight > strip.clientHeight + 4;
  });
</script>

{#if summary}
  <div bind:this={strip} class="pointer-events-auto flex w-fit {all ? 'max-h-[40vh] overflow-y-auto' : board ? 'max-h-[1.9rem]' : 'max-h-[4.2rem]'} flex-wrap items-center gap-2 overflow-hidden" data-testid="offers">
    <span class="text-[14px] text-graphite">{summary} picked:</span>
    {#each offers as offer, i (offer.title)}
      <button class="border bg-paper px-3 py-0.5 text-[14px] hover:bg-wash {i === 0 ? 'border-b-[3px] border-brass' : 'border-rule'}" onpointerdown={(e) => e.stopPropagation()} onpointerup={(e) => e.stopPropagation()} title={offer.explains} onpointerenter={() => offer.hover?.()} onpointerleave={() => work.noGhost()} onclick={offer.run}>
        {offer.title} <span class="figures ml-1 text-brass">{offer.key}</span>
      </button>
    {:else}
      <span class="text-[14px] text-graphite">nothing is made of just this.</span>
    {/each}
  </div>
  {#if over}<button class="blank pointer-events-auto self-start text-[13px]" onpointerdown={(e) => e.stopPropagation()} onpointerup={(e) => e.stopPropagation()} onclick={() => (all = !all)} data-testid="more-offers">{all ? 'fewer' : 'more offers'}</button>{/if}
{/if}
