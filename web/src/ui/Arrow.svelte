<script lang="ts">
  /** The arrow of what is pulled on the stage. turn : of its direction, radians. */
  let { turn }: { turn: number } = $props();
</script>

<svg
  class="pointer-events-none h-7 w-7 text-brass"
  viewBox="-14 -14 28 28"
  aria-hidden="true"
  style:transform="rotate({turn}rad)"
>
  <path d="M-11 0H6M2 -5L10 0L2 5Z" fill="currentColor" stroke="currentColor" stroke-width="2.2" />
</svg>
