<script lang="ts">
  /** Over the stage while a version is looked at as it was: which, and the ways on from there. */
  import { useWorkplace } from '../state/workplace.svelte';
  import { when } from './dates';

  const work = useWorkplace();
  const { session, versions } = work;
  void versions.refresh();
  const own = $derived(versions.list?.versions.find((v) => v.number === session.past));
</script>

<div
  class="flex flex-wrap items-center gap-x-4 gap-y-1 border-b-2 border-brass bg-wash px-4 py-1.5 text-[0.875rem]"
  role="status"
  data-testid="past"
>
  <span class="min-w-0"
    ><strong>v{session.past} as it was</strong>{#if own}&ensp;· {own.name
        ? `“${own.name}” · `
        : ''}{own.summary} · {when(own.made)}{/if}</span
  >
  <span class="flex-1"></span>
  <button class="button !py-0.5" onclick={() => versions.backTo(session.past)}>Back to this</button>
  <button class="button !py-0.5" onclick={() => versions.branch(session.past)}>Branch</button>
  <button class="button !py-0.5" onclick={() => versions.compare(session.id)}>Compare</button>
  <button class="button-strong !py-0.5" onclick={() => versions.look(0)}>To the present</button>
  {#if versions.trouble}<span class="w-full text-carmine" role="alert">{versions.trouble}</span>{/if}
</div>
