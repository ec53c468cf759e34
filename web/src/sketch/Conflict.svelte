<script lang="ts">
  /** What stands against a constraint, or keeps the sketch unsolved, newest first, each with its ways out. */
  import type { Board } from './board.svelte';

  let { board }: { board: Board } = $props();
  const fights = $derived(board.binding.fights);
  const refused = $derived(board.binding.refused);
</script>

{#if refused?.spare}
  <button class="blank mt-2 block text-[0.84375rem]" onclick={() => board.binding.keepAsReference()}
    >Keep it as a reference dimension</button
  >
{/if}
{#if fights.length}
  <div class="mt-2 text-[0.84375rem]" data-testid="conflict">
    <p class="text-graphite">
      {refused ? 'Or let one of these give way:' : 'Any one of these may give way:'}
    </p>
    <ul class="mt-1 space-y-1">
      {#each fights as f (f.id)}
        <li
          class="flex items-start gap-2"
          onpointerenter={() => (board.hovered = f.id)}
          onpointerleave={() => (board.hovered = '')}
        >
          <span class="w-4 text-center text-carmine">{f.symbol}</span>
          <span class="min-w-0 flex-1">{f.words}{f.shown ? ` (${f.shown})` : ''}</span>
          {#if f.dimension && !f.reference}<button
              class="button !px-1.5 !py-0 !text-[0.75rem]"
              title="It only tells its value from now on"
              onclick={() => board.binding.giveWay(f, true)}>only tell</button
            >{/if}
          <button class="button !px-1.5 !py-0 !text-[0.75rem]" onclick={() => board.binding.giveWay(f, false)}
            >drop</button
          >
        </li>
      {/each}
    </ul>
  </div>
{/if}
