<script lang="ts">
  /** A small mark where one may be stuck: it opens the page of the handbook that helps. */
  import { handbook } from '../state/handbook.svelte';

  let { page, words }: { page: string; words: string } = $props();
</script>

<button
  class="text-[0.8125rem] text-graphite underline decoration-rule underline-offset-2 hover:text-ink"
  data-testid="help"
  onclick={() => (handbook.page = page)}>{words}</button
>
