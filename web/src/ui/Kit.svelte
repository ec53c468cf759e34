<script lang="ts">
  /** Four drawers along the left edge, each a list with a line of explanation. */
  import { useWorkplace } from '../state/workplace.svelte';

  const work = useWorkplace();
  const drawers = [
    { name: 'Datum', key: 'd', groups: ['datum'] },
    { name: 'Sketch', key: 'k', groups: ['sketch', 'constrain'] },
    { name: 'Build', key: 'b', groups: ['build'] },
    { name: 'Look', key: 'l', groups: ['look'] },
  ];
  const open = $derived(drawers.find((d) => d.name === work.drawer));
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
      onclick={() => (work.drawer = work.drawer === drawer.name ? '' : drawer.name)}
    >
      <span class="rotate-180 whitespace-nowrap [writing-mode:vertical-rl]"
        >{drawer.name}&nbsp; <span class="figures text-brass">{drawer.key}</span></span
      >
    </button>
  {/each}
  {#if open}
    <div
      class="absolute top-0 left-full max-h-full w-80 overflow-y-auto border-r border-b border-ink bg-paper py-2"
      data-testid="drawer"
    >
      {#each work.actions.filter((a) => open.groups.includes(a.group)) as action (action.key)}
        {@const barred = action.barred?.() ?? ''}
        <button
          class="flex w-full items-start gap-3 px-4 py-1.5 text-left hover:bg-wash"
          onclick={() => work.run(action)}
          title={barred}
        >
          <span class="figures w-7 shrink-0 pt-0.5 text-brass">{action.key}</span>
          <span class={barred ? 'opacity-60' : ''}>
            <span class="block font-medium">{action.title}</span>
            <span class="block text-[13px] text-graphite">{action.explains}</span>
          </span>
        </button>
      {/each}
    </div>
  {/if}
</nav>
