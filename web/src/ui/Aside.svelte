<script lang="ts">
  /** A step in hand that was left for another one: it waits here to be taken up again. */
  import { useWorkplace } from '../state/workplace.svelte';

  const work = useWorkplace();
</script>

{#if work.aside}
  <div
    class="flex items-baseline gap-3 border-y border-l-4 border-brass bg-wash py-2 pr-3 pl-3 text-[0.875rem]"
    data-testid="aside"
  >
    <span class="flex-1">{work.aside.title}, put aside.</span>
    <button class="blank" onclick={() => work.takeUp()}>Take it up again</button>
    <button
      class="min-h-[24px] min-w-[24px] text-graphite hover:text-carmine"
      aria-label="Drop what was put aside"
      title="Drop it"
      onclick={() => (work.aside = null)}>×</button
    >
  </div>
{/if}
