<script lang="ts">
  /** Which page is open: the list of parts, or one part. The address says it: #part/3. */
  import { api } from '../api/client';
  import type { About } from '../api/types';
  import Handbook from './Handbook.svelte';
  import PartPage from './PartPage.svelte';
  import PartsList from './PartsList.svelte';

  let hash = $state(location.hash);
  let about = $state.raw<About | null>(null);
  let trouble = $state('');
  const part = $derived(Number(/^#part\/(\d+)$/.exec(hash)?.[1] ?? 0));

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
    {#key part}<PartPage {part} {about} />{/key}
  {:else}
    <PartsList />
  {/if}
  <Handbook {about} />
{/if}
