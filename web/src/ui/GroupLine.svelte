<script lang="ts">
  /** A heading over steps of the route: folded, renamed, suppressed, dragged and copied as one. */
  import type { Part } from '../api/types';
  import { useWorkplace } from '../state/workplace.svelte';
  import type { RouteDrag } from './routeDrag.svelte';
  import DeedsMenu from './DeedsMenu.svelte';
  import { focused } from './focused';

  type Group = NonNullable<Part['groups']>[number];
  let { group, drag }: { group: Group | null; drag?: RouteDrag } = $props();
  const work = useWorkplace();
  const { session, route } = work;
  const naming = $derived(route.heading === (group?.name ?? '*'));
  const states = $derived(
    ['stopped', 'held', 'waiting'].flatMap((s) => {
      const n = group?.steps.filter((id) => session.report(id)?.state === s).length ?? 0;
      return n ? [`${n} ${s}`] : [];
    }),
  );
  const edit = (fields: { folded?: boolean; gone?: boolean }) =>
    session.try({ do: 'edit_group', name: group!.name, to: '', folded: null, gone: false, ...fields });
  /** Its steps as picks, while the step under edit wants steps. */
  const given = $derived(
    session.steps
      .filter((s) => group?.steps.includes(s.id))
      .map((s) => work.gives(s))
      .filter((t) => t?.kind === 'step'),
  );
  function open() {
    if (!given.length) route.marked = group!.steps;
    for (const thing of given) work.pick(thing!, true);
  }
  const items = $derived(
    group
      ? [
          { title: group.folded ? 'Unfold' : 'Fold', run: () => edit({ folded: !group.folded }) },
          { title: 'Rename', run: () => (route.heading = group.name) },
          { title: 'Mark its steps', run: () => (route.marked = group.steps) },
          { title: 'Suppress or build again', run: () => route.suppress(group.steps) },
          { title: 'Copy its steps', run: () => route.copy(group.steps) },
          { title: 'Delete its steps', run: () => route.remove(group.steps) },
          { title: 'Take the heading away', run: () => edit({ gone: true }) },
        ]
      : [],
  );
</script>

<li
  class="border-b border-rule {given.length ? 'bg-wash' : 'bg-stage/60'}"
  data-testid="heading"
  data-name={group?.name ?? ''}
>
  <div class="flex items-center gap-2 py-1 pr-3 pl-3">
    {#if group}<button
        class="w-7 cursor-grab touch-none text-right text-graphite"
        aria-label="{group.folded ? 'Unfold' : 'Fold'} {group.name}"
        aria-expanded={!group.folded}
        onpointerdown={(e) => drag?.group(e, group.steps)}
        onclick={() => !drag?.moved && edit({ folded: !group.folded })}>{group.folded ? '▸' : '▾'}</button
      >{/if}
    {#if naming}
      <input
        use:focused
        class="min-w-0 flex-1 border border-brass bg-white px-1 font-semibold"
        value={group?.name ?? ''}
        maxlength="80"
        placeholder="words for the heading"
        aria-label="Heading"
        onblur={(e) => naming && route.nameHeading(group?.name ?? '*', e.currentTarget.value)}
        onkeydown={(e) => {
          e.stopPropagation();
          if (e.key === 'Enter') void route.nameHeading(group?.name ?? '*', e.currentTarget.value);
          if (e.key === 'Escape') route.heading = '';
        }}
      />
    {:else if group}
      <button
        class="min-w-0 flex-1 truncate text-left font-semibold"
        ondblclick={() => (route.heading = group.name)}
        title={given.length
          ? `Takes ${given.length === 1 ? 'its step' : `all ${given.length} of its steps`}`
          : ''}
        onclick={open}>{group.name}</button
      >
      <span class="text-[0.8125rem] text-graphite">{[group.steps.length, ...states].join(', ')}</span>
      <DeedsMenu
        label="What to do with the heading {group.name}"
        deeds={items}
        keeps={() => route.heading === group.name}
      />
    {/if}
  </div>
</li>
