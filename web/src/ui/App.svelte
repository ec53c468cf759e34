<script lang="ts">
  /** Which page is open: the list of parts, or one part. The address says it: #part/3, or #part/3/v5 for a version as it was. */
  import { api } from '../api/client';
  import type { About } from '../api/types';
  import Handbook from './Handbook.svelte';
  import PartPage from './PartPage.svelte';
  import PartsList from './PartsList.svelte';

  let hash = $state(location.hash);
  let about = $state.raw<About | null>(null);
  let trouble = $state('');
  const place = $derived(/^#part\/(\d+)(?:\/v(\d+))?$/.exec(hash));
  const part = $derived(Number(place?.[1] ?? 0));
  const past = $derived(Number(place?.[2] ?? 0));

  function ask() {
    trouble = '';
    api.about().then(
      (a) => (about = a),
      (e: Error) => (trouble = e.message),
    );
  }
  ask();
</script>

<svelte:window onhashchange={() => (hash = location.hash)} />

{#if trouble}
  <p class="m-10">{trouble} <button class="button" onclick={() => location.reload()}>Try again</button></p>
{:else if about}
  {#if part}
    {#key `${part} ${past}`}<PartPage {part} {past} {about} />{/key}
  {:else}
    <PartsList />
  {/if}
  <Handbook {about} />
{/if}
