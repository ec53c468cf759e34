<script lang="ts">
  /** All versions of the part: named, looked at, gone back to, branched from, compared. */
  import type { VersionSummary } from '../api/types';
  import { useWorkplace } from '../state/workplace.svelte';
  import { when } from './dates';
  import Panel from './Panel.svelte';
  import { focused } from './focused';

  const work = useWorkplace();
  const { session, versions } = work;
  let naming = $state(0);
  let onlyNamed = $state(false);
  let sought = $state('');
  const MOST = 300;
  let shown = $state(MOST);
  // The list follows what is done meanwhile.
  $effect(() => {
    void session.edition;
    void versions.refresh();
  });
  const fits = (v: VersionSummary) =>
    (!onlyNamed || v.name) &&
    `v${v.number} ${v.name} ${v.summary}`.toLowerCase().includes(sought.trim().toLowerCase());
  const rows = $derived((versions.list?.versions ?? []).filter(fits));
  const looked = $derived(session.past || session.version);

  async function named(v: VersionSummary, name: string) {
    if (naming !== v.number) return;
    naming = 0;
    if (name.trim() !== v.name) await versions.name(v.number, name);
  }
</script>

<Panel
  title="Versions"
  of={versions.list ? `${versions.list.versions.length}` : ''}
  close="Close the versions"
  onclose={() => versions.close()}
  name="versions"
  width="430px"
>
  {#snippet buttons()}
    <button class="button !py-0.5" onclick={() => versions.openCompare()}>Compare</button>
    <button class="button !py-0.5" onclick={() => work.together.open()}>Bring together</button>
  {/snippet}
  <div class="flex items-center gap-4 border-b border-rule px-4 py-2 text-[0.875rem]">
    <input
      class="min-w-0 flex-1 border-b border-line bg-transparent py-0.5"
      placeholder="words or number"
      aria-label="Look for a version"
      bind:value={sought}
    />
    <label class="flex items-center gap-1.5"
      ><input type="checkbox" bind:checked={onlyNamed} /> only named ones</label
    >
  </div>
  {#if versions.list?.origin}<p class="border-b border-rule px-4 py-1.5 text-[0.875rem]">
      Branched from <a class="blank" href="#part/{versions.list.origin[0]}/v{versions.list.origin[1]}"
        >v{versions.list.origin[1]} of part {versions.list.origin[0]}</a
      >
    </p>{/if}
  {#if versions.trouble}<p class="px-4 py-2 text-carmine" role="alert">{versions.trouble}</p>{/if}
  <ol class="min-h-0 flex-1 overflow-y-auto text-[0.875rem]" aria-label="Versions">
    {#each rows.slice(0, shown) as v (v.number)}
      <li
        class="group border-b border-l-4 border-b-rule px-3 py-1.5 {v.present
          ? 'border-l-verdigris'
          : v.number === looked
            ? 'border-l-brass'
            : 'border-l-transparent'} {v.line ? '' : 'bg-stage/60'}"
        data-testid="version-row"
        data-number={v.number}
      >
        <div class="flex items-baseline gap-3">
          <span class="figures w-12 shrink-0 {v.line ? '' : 'text-graphite'}">v{v.number}</span>
          <div class="min-w-0 flex-1">
            {#if naming === v.number}
              <input
                use:focused
                class="w-full border border-brass bg-white px-1 font-semibold"
                value={v.name}
                maxlength="80"
                aria-label="Name of v{v.number}"
                onblur={(e) => named(v, e.currentTarget.value)}
                onkeydown={(e) => {
                  e.stopPropagation();
                  if (e.key === 'Enter') void named(v, e.currentTarget.value);
                  if (e.key === 'Escape') naming = 0;
                }}
              />
            {:else if v.name}<p class="font-semibold">{v.name}</p>{/if}
            <p class="break-words {v.line ? '' : 'text-graphite'}">
              {v.summary}
              {#if v.present}<span class="text-verdigris">· the present</span>{/if}
              {#if !v.line}<span title="Something else was done after an undo; it is kept here."
                  >· beside</span
                >{/if}
              {#if v.other}<span class="text-graphite">· with v{v.other[1]} of part {v.other[0]}</span>{/if}
            </p>
          </div>
          <span class="shrink-0 text-[0.8125rem] text-graphite">{when(v.made)}</span>
        </div>
        <p class="mt-0.5 ml-15 flex flex-wrap gap-x-3 text-[0.84375rem]">
          <button class="blank" disabled={v.number === looked} onclick={() => versions.look(v.number)}
            >Look</button
          >
          <button class="blank" disabled={v.present} onclick={() => versions.backTo(v.number)}
            >Back to this</button
          >
          <button class="blank" onclick={() => versions.branch(v.number)}>Branch</button>
          <button
            class="blank"
            disabled={v.number === looked}
            onclick={() => versions.compare(session.id, v.number)}>Compare</button
          >
          <button class="blank" onclick={() => (naming = v.number)}>{v.name ? 'Rename' : 'Name'}</button>
        </p>
      </li>
    {:else}
      <li class="px-4 py-3 text-graphite">
        {versions.list ? 'No version has these words.' : 'Reading …'}
      </li>
    {/each}
    {#if rows.length > shown}<li class="px-4 py-2">
        <button class="blank" onclick={() => (shown += MOST)}>{rows.length - shown} more</button>
      </li>{/if}
  </ol>
</Panel>
