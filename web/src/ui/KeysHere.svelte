<script lang="ts">
  /** The keys of where one is: on the drawing board, or in the part. Any key puts the sheet away. */
  import { OTHER } from '../state/action';
  import { handbook } from '../state/handbook.svelte';
  import { useWorkplace } from '../state/workplace.svelte';

  const work = useWorkplace();
  const board = $derived(!!work.board);
  const everywhere = [
    ['Enter', 'Accept'],
    ['Esc', 'Step back: value, tool, selection'],
    ['Tab', 'Next blank'],
    ['Delete', 'Delete'],
    ['ctrl z', 'Undo'],
    ['ctrl shift z', 'Redo'],
    ['ctrl k', 'Find an action'],
    [OTHER, 'Other answer'],
    ['?', 'Keys here; once more: handbook'],
  ];
  const mouse = $derived(
    board
      ? [
          ['click', 'Pick, or give a place'],
          ['shift click', 'Pick more'],
          ['drag', 'Pull what is free; a box beside all'],
          ['shift drag', 'Lasso'],
          ['hold q', 'Quiet: catch nothing'],
          ['double click', 'Type a text anew'],
          ['wheel', 'Nearer, farther'],
          ['middle drag', 'Slide'],
        ]
      : [
          ['click', 'Pick'],
          ['shift click', 'Pick more'],
          ['drag', 'Box; with shift a lasso'],
          ['right click', 'List what is here'],
          ['right drag', 'Turn'],
          ['middle drag', 'Slide'],
          ['wheel', 'Nearer, farther'],
          ['drag a flag', 'Plane at a distance'],
        ],
  );
  const NAMES: Record<string, string> = {
    datum: 'Datum',
    sketch: 'Sketch',
    constrain: 'Constrain',
    build: 'Build',
    look: 'Look',
    route: 'Route',
  };
  const groups = $derived(
    (board ? ['sketch', 'constrain', 'look'] : ['datum', 'sketch', 'build', 'look', 'route']).map((g) => ({
      name: NAMES[g],
      actions: work.actions.filter((a) => a.group === g && !(g === 'sketch' && !board && a.barred?.())),
    })),
  );
</script>

{#snippet table(name: string, rows: string[][])}
  <section class="mb-3 break-inside-avoid">
    <h3 class="mb-1 font-medium">{name}</h3>
    {#each rows as [key, words] (key)}
      <p class="flex gap-2 text-[0.84375rem]">
        <span class="figures w-[6.6rem] shrink-0 pt-0.5 text-brass">{key}</span>{words}
      </p>
    {/each}
  </section>
{/snippet}

{#if work.keysShown}
  <div
    class="absolute inset-0 z-40 flex items-center justify-center bg-ink/25 p-6"
    role="presentation"
    onclick={() => (work.keysShown = false)}
  >
    <div
      class="max-h-full w-full max-w-5xl overflow-y-auto border border-ink bg-paper px-6 py-4"
      role="dialog"
      aria-modal="true"
      aria-label="Keys here"
      data-testid="keys-here"
    >
      <p class="mb-3 flex items-baseline gap-3 border-b border-rule pb-2">
        <span class="font-semibold">Keys {board ? 'on the drawing board' : 'in the part'}</span><span
          class="text-[0.8125rem] text-graphite"
          >two strokes: the group, then the action; any key puts this away</span
        ><button class="ml-auto text-[0.875rem] underline" onclick={() => (handbook.page = 'ideas')}
          >Handbook <span class="figures text-brass">?</span></button
        >
      </p>
      <div class="columns-2 gap-8 lg:columns-3">
        {@render table('Everywhere', everywhere)}
        {@render table('Mouse', mouse)}
        {#each groups as group (group.name)}{@render table(
            group.name,
            group.actions.map((a) => [a.key, a.title]),
          )}{/each}
      </div>
    </div>
  </div>
{/if}
