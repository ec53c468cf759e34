<script lang="ts">
  /** After the first stroke of a key pair: what the second one can be. */
  import { useWorkplace } from '../state/workplace.svelte';

  const work = useWorkplace();
  const names: Record<string, string> = {
    d: 'Datum',
    k: 'Sketch',
    c: 'Constrain',
    b: 'Build',
    l: 'Look',
    r: 'Route',
  };
  const shown = $derived(work.stroke ? work.actions.filter((a) => a.key.startsWith(work.stroke)) : []);
</script>

{#if work.stroke}
  <div
    class="absolute bottom-28 left-1/2 z-20 -translate-x-1/2 border border-ink bg-paper px-4 py-3"
    data-card
    data-testid="key-card"
  >
    <p class="mb-1 font-medium">
      <span class="figures text-brass">{work.stroke}</span>
      {names[work.stroke]}, then …
    </p>
    <ul class="grid grid-cols-2 gap-x-6 text-[0.875rem]">
      {#each shown as action (action.key)}
        <li>
          <button class="flex min-h-[24px] gap-2 py-0.5 hover:underline" onclick={() => work.run(action)}>
            <span class="figures w-4 pt-0.5 text-brass">{action.key.slice(2)}</span>{action.title}
          </button>
        </li>
      {/each}
    </ul>
  </div>
{/if}
