<script lang="ts">
  /** What could be made of the selection, likeliest first. */
  import { untrack } from 'svelte';
  import { useWorkplace } from '../state/workplace.svelte';

  const work = useWorkplace();
  const board = $derived(work.board);
  $effect(() => {
    void [work.picked, board?.picked];
    untrack(() => void work.offers.ask());
  });
  const summary = $derived.by(() => {
    if (board) {
      const n = board.picked.length;
      return n === 0 ? '' : n === 1 ? board.called(board.picked[0]) : `${n} things`;
    }
    const n = work.picked.length;
    return n === 0 ? '' : n === 1 ? work.picked[0].words : `${n} things`;
  });
  const offers = $derived(work.offers.list);
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
  <div
    bind:this={strip}
    class="pointer-events-auto flex w-fit {all
      ? 'max-h-[40vh] overflow-y-auto'
      : board
        ? 'max-h-[1.9rem]'
        : 'max-h-[4.2rem]'} flex-wrap items-center gap-2 overflow-hidden"
    data-testid="offers"
  >
    <span class="text-[0.875rem] text-graphite">{summary} picked:</span>
    {#each offers ?? [] as offer, i (offer.title)}
      <button
        class="border bg-paper px-3 py-0.5 text-[0.875rem] hover:bg-wash {i === 0
          ? 'border-b-[3px] border-brass'
          : 'border-rule'}"
        onpointerdown={(e) => e.stopPropagation()}
        onpointerup={(e) => e.stopPropagation()}
        title={offer.explains}
        onpointerenter={() => offer.hover?.()}
        onpointerleave={() => work.offers.noGhost()}
        onclick={offer.run}
      >
        {offer.title} <span class="figures ml-1 text-brass">{offer.key}</span>
      </button>
    {:else}
      {#if offers}<span class="text-[0.875rem] text-graphite">nothing is made of just this.</span>{/if}
    {/each}
  </div>
  {#if over}<button
      class="blank pointer-events-auto self-start text-[0.8125rem]"
      onpointerdown={(e) => e.stopPropagation()}
      onpointerup={(e) => e.stopPropagation()}
      onclick={() => (all = !all)}
      data-testid="more-offers">{all ? 'fewer' : 'more offers'}</button
    >{/if}
{/if}
