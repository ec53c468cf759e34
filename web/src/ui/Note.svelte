<script lang="ts">
  /**
   * A note as drawings have it: the signs for counterbore, countersink and depth are drawn, since few fonts
   * have them.
   */
  let { text }: { text: string } = $props();
  const SIGNS: Record<string, [string, string]> = {
    '⌴': ['counterbore', 'M1 2.5V10.5H11V2.5'],
    '⌵': ['countersink', 'M1 2.5L6 10.5L11 2.5'],
    '↧': ['deep', 'M2 2H10M6 2V11M3 8L6 11L9 8'],
  };
  const pieces = $derived(text.split(/([⌴⌵↧])/));
</script>

{#each pieces as piece, i (i)}{#if SIGNS[piece]}<svg
      class="mx-0.5 inline-block h-[0.8em] w-[0.8em] align-[-0.05em]"
      viewBox="0 0 12 12"
      role="img"
      aria-label={SIGNS[piece][0]}
      ><path d={SIGNS[piece][1]} fill="none" stroke="currentColor" stroke-width="1.3" /></svg
    >{:else}{piece}{/if}{/each}
