<script lang="ts">
  /** What would constrain the rest: all of it is taken unless something is left out. */
  import type { Board } from './board.svelte';

  let { board }: { board: Board } = $props();
  const binding = $derived(board.binding);
  const count = $derived(binding.taken.filter(Boolean).length);
</script>

{#if binding.proposals}
  <form
    class="mt-2 border border-brass px-2 py-2 text-[0.84375rem]"
    data-testid="proposals"
    onsubmit={(e) => {
      e.preventDefault();
      void binding.acceptProposals();
    }}
  >
    <p class="text-graphite">
      To constrain the rest{board.picked.length ? ', measured from what is picked' : ''}:
    </p>
    <div class="mt-1 flex gap-2">
      <button class="button-strong" disabled={!count}
        >Accept {count === binding.proposals.length ? `all ${count}` : count}</button
      >
      <button type="button" class="button" onclick={() => (binding.proposals = null)}>None</button>
    </div>
    <ul class="my-1 max-h-60 overflow-y-auto">
      {#each binding.proposals as p, i (i)}
        <li>
          <label
            class="flex items-start gap-2 py-0.5"
            onpointerenter={() => (board.hovered = p.of.at(-1) ?? '')}
            onpointerleave={() => (board.hovered = '')}
          >
            <input type="checkbox" class="mt-1" bind:checked={binding.taken[i]} />
            <span class="w-4 text-center">{p.symbol}</span>
            <span class="min-w-0 flex-1">{p.manner ? `${p.manner} ` : ''}{p.words}</span>
            <span class="figures">{p.shown}</span>
          </label>
        </li>
      {/each}
    </ul>
  </form>
{/if}
