<script lang="ts">
  /** Six drawers along the left edge: actions by what the hand wants, a line of explanation under them. */
  import { PICTOGRAMS } from '../sketch/pictograms';
  import type { Action } from '../state/action';
  import { useWorkplace } from '../state/workplace.svelte';
  import { OTHERS } from './pictures';
  import Picture from './Picture.svelte';

  const work = useWorkplace();
  const drawers = [
    { name: 'Datum', key: 'd', groups: ['datum'] },
    { name: 'Sketch', key: 'k', groups: ['sketch', 'constrain'] },
    { name: 'Build', key: 'b', groups: ['build'] },
    { name: 'Look', key: 'l', groups: ['look'] },
    { name: 'Route', key: 'r', groups: ['route'] },
    { name: 'Drawing', key: 'g', groups: ['drawing'] },
  ];
  const open = $derived(drawers.find((d) => d.name === work.drawer));
  const shelves = $derived.by(() => {
    const found = new Map<string, Action[]>();
    for (const action of work.actions.filter((a) => open?.groups.includes(a.group))) {
      const shelf = action.shelf || action.rail || open!.name;
      found.set(shelf, [...(found.get(shelf) ?? []), action]);
    }
    // The common ones first.
    for (const [shelf, own] of found)
      if (own[0].kind)
        found.set(
          shelf,
          own.sort((a, b) => often(a) - often(b)),
        );
    return [...found].sort(([a], [b]) => SHELVES.indexOf(a) - SHELVES.indexOf(b));
  });
  const often = (a: Action) => 'erwlinhfc1sdpmjkvoybgxuaqzt'.indexOf(a.key[2]);
  const MOST = 40; // lines of two columns
  const SHELVES = [
    ...['Shape from a sketch', 'Holes', 'Edges', 'Walls', 'Copies', 'Bodies', 'Faces', 'Sheets'],
    ...['Sketch', 'Draw', 'Change', 'Take in', 'Constrain', 'Ask', 'Trust', 'See', 'Show'],
    ...['Steps', 'The past', 'Versions', 'Pages', 'Views', 'Dimensions', 'Marks'],
  ];
  /** Columns of about the same length, so that a whole drawer is seen at once. */
  const columns = $derived.by(() => {
    const tall = (s: [string, Action[]]) => s[1].length + 1.6;
    const total = shelves.reduce((n, s) => n + tall(s), 0);
    const each = total / (total > MOST ? 3 : shelves.length > 1 ? 2 : 1);
    const found: (typeof shelves)[] = [[]];
    let sum = 0;
    for (const shelf of shelves) {
      if (sum > 0 && sum + tall(shelf) / 2 > each * found.length) found.push([]);
      found.at(-1)!.push(shelf);
      sum += tall(shelf);
    }
    return found;
  });
  let over = $state<Action | null>(null);
  const told = $derived(over ?? shelves[0]?.[1][0] ?? null);
  const lacks = (action: Action) => action.barred?.() || work.lacks(action);
</script>

<nav
  class="relative z-20 flex min-h-0 flex-col items-center gap-2 border-r border-rule bg-paper pt-3"
  aria-label="Kit"
>
  {#each drawers as drawer (drawer.name)}
    <button
      class="flex h-24 min-h-0 w-10 shrink items-center justify-center border {work.drawer === drawer.name
        ? 'border-ink bg-stage font-medium'
        : 'border-transparent hover:bg-stage'}"
      aria-expanded={work.drawer === drawer.name}
      onclick={() => ((over = null), (work.drawer = work.drawer === drawer.name ? '' : drawer.name))}
    >
      <span class="rotate-180 whitespace-nowrap [writing-mode:vertical-rl]"
        >{drawer.name}&nbsp; <span class="figures text-brass">{drawer.key}</span></span
      >
    </button>
  {/each}
  {#if open}
    <div
      class="absolute top-0 left-full flex max-h-full flex-col border-r border-b border-ink bg-paper {[
        'w-80',
        'w-[470px]',
        'w-[700px]',
      ][columns.length - 1]}"
      data-testid="drawer"
    >
      <div class="flex min-h-0 gap-5 overflow-y-auto px-4 py-2">
        {#each columns as column, i (i)}
          <div class="min-w-0 flex-1">
            {#each column as [shelf, actions] (shelf)}
              <h3 class="mt-2 border-b border-rule pb-0.5 text-[0.8125rem] font-semibold">{shelf}</h3>
              {#each actions as action (action.key)}
                {@const missing = lacks(action)}
                <button
                  class="flex min-h-[24px] w-full items-center gap-2.5 px-1 text-left text-[0.875rem] hover:bg-wash focus-visible:bg-wash {missing
                    ? 'text-graphite'
                    : ''}"
                  aria-describedby="kit-told"
                  onpointerenter={() => (over = action)}
                  onfocus={() => (over = action)}
                  onclick={() => work.run(action)}
                >
                  <Picture picture={OTHERS[action.key] ?? PICTOGRAMS[action.key]} faint={!!missing} />
                  <span class="flex-1 {missing ? 'opacity-75' : ''}">{action.title}</span>
                  <span class="figures text-[0.8125rem] text-brass">{action.key}</span>
                </button>
              {/each}
            {/each}
          </div>
        {/each}
      </div>
      <p id="kit-told" class="min-h-16 border-t-2 border-ink px-4 py-2 text-[0.84375rem]" aria-live="polite">
        {#if told}<span class="font-semibold">{told.title}.</span>
          {told.explains}
          {#if lacks(told)}<span class="text-carmine">{lacks(told)}</span>{/if}{/if}
      </p>
    </div>
  {/if}
</nav>
