<script lang="ts">
  /** A small drawing of an action. */
  import type { Pictogram } from '../sketch/pictograms';

  let { picture, faint = false }: { picture: Pictogram | undefined; faint?: boolean } = $props();
</script>

<svg
  viewBox="0 0 18 18"
  class="h-[18px] w-[18px] shrink-0 {faint ? 'opacity-60' : ''}"
  fill="none"
  stroke="currentColor"
  stroke-width="1.4"
  aria-hidden="true"
>
  <path d={picture?.lines ?? ''} />
  {#if picture?.dashed}<path d={picture.dashed} stroke-dasharray="2 1.6" />{/if}
  {#each picture?.dots ?? [] as [x, y], i (i)}<circle
      cx={x}
      cy={y}
      r="1.7"
      fill="currentColor"
      stroke="none"
    />{/each}
</svg>
