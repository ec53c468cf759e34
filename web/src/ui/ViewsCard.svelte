<script lang="ts">
  /** Views by name, laid out as on a drawing; own ones are kept with the part. */
  import { onMount } from 'svelte';
  import { VIEWS } from '../state/sights.svelte';
  import { useWorkplace } from '../state/workplace.svelte';
  import Card from './Card.svelte';
  import KeepAs from './KeepAs.svelte';

  const work = useWorkplace();
  const { sights, session } = work;
  const kept = $derived(session.part?.views ?? []);
  /** How the views lie about the front one: by the first angle, or by the third (ISO 5456-2). */
  let angle = $state<'first' | 'third'>(localStorage.getItem('wendal.angle') === 'third' ? 'third' : 'first');
  $effect(() => localStorage.setItem('wendal.angle', angle));
  const grid = $derived(
    angle === 'first'
      ? [
          ['', 'bottom', '', ''],
          ['right', 'front', 'left', 'back'],
          ['', 'top', '', ''],
        ]
      : [
          ['', 'top', '', ''],
          ['left', 'front', 'right', 'back'],
          ['', 'bottom', '', ''],
        ],
  );
  let first = $state<HTMLElement>();
  onMount(() => first?.querySelector<HTMLElement>('[data-view-name=front]')?.focus());
</script>

<Card title="Views" close="Close views" onclose={() => (sights.viewing = false)} name="views">
  <div class="px-3 py-2" bind:this={first}>
    <div class="grid grid-cols-4 gap-1">
      {#each grid.flat() as v, i (i)}
        {#if v}<button class="button !px-1 !py-0.5" data-view-name={v} onclick={() => sights.look(v)}
            >{v}</button
          >{:else}<span></span>{/if}
      {/each}
    </div>
    <p class="mt-1.5 flex flex-wrap gap-1">
      {#each VIEWS.slice(6) as [v] (v)}<button
          class="button !px-1.5 !py-0.5"
          data-view-name={v}
          onclick={() => sights.look(v)}>{v}</button
        >{/each}
    </p>
    <p class="mt-2 flex items-center gap-2 text-graphite">
      laid out by the
      <select class="border-b border-brass bg-transparent text-ink" aria-label="angle" bind:value={angle}>
        <option value="first">first angle</option>
        <option value="third">third angle</option>
      </select>
    </p>
    {#if kept.length}
      <ul class="mt-2 border-t border-rule pt-1">
        {#each kept as view (view.name)}
          <li class="flex justify-between gap-2">
            <button class="truncate hover:underline" onclick={() => sights.goTo(view)}>{view.name}</button>
            <button
              class="text-graphite hover:text-carmine"
              aria-label="Forget {view.name}"
              onclick={() => session.try({ do: 'forget_sight', kind: 'view', name: view.name })}>×</button
            >
          </li>
        {/each}
      </ul>
    {/if}
    {#if session.part?.sections?.length}
      <p class="mt-2 border-t border-rule pt-1 text-graphite">sections</p>
      {#each session.part.sections as section (section.name)}<button
          class="block truncate hover:underline"
          onclick={() => ((sights.viewing = false), sights.cutAsKept(section))}>{section.name}</button
        >{/each}
    {/if}
    <KeepAs what="view" keep={(name) => sights.keepView(name)} />
  </div>
</Card>
