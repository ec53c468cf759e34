<script lang="ts">
  /** Typed measures of the shape in hand; they become its dimensions. */
  import type { Board } from './board.svelte';

  let { board }: { board: Board } = $props();
</script>

<form
  class="absolute bottom-28 left-4 flex gap-3 border border-rule bg-paper px-3 py-2"
  onsubmit={(e) => {
    e.preventDefault();
    void board.acceptTyped();
  }}
>
  {#each board.measures as name, i (name)}
    <label class="flex items-center gap-2 text-[13.5px]">
      {name}
      <input
        class="figures w-24 border-b-[1.5px] border-brass bg-transparent px-1"
        bind:value={board.typed[name]}
        placeholder="type …"
        data-measure={i}
        onkeydown={(e) => {
          if (e.key === 'Escape') {
            e.stopPropagation();
            e.currentTarget.blur();
            board.stepBack();
          }
        }}
      />
    </label>
  {/each}
  <button class="button">Draw</button>
</form>
