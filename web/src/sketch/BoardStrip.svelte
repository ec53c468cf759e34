<script lang="ts">
  /**
   * Under the drawing: where the pointer is and what is asked for, and the tool in hand or what the picks
   * offer. Its height stays, so that nothing drawn moves; where the drawing is narrow it has a line more.
   */
  import Offers from '../ui/Offers.svelte';
  import type { Board } from './board.svelte';
  import ToolBar from './ToolBar.svelte';

  let { board }: { board: Board } = $props();
</script>

<div
  class="flex h-[104px] shrink-0 flex-col gap-1.5 overflow-y-auto border-t border-rule bg-paper px-4 py-2 @max-[540px]:h-[152px]"
  data-testid="strip"
>
  <div class="figures flex flex-wrap gap-x-6 text-graphite" data-testid="readout">
    <div class="whitespace-pre">{board.readout[0]}</div>
    <div class="min-h-[1.35em]">{board.readout[1]}</div>
  </div>
  {#if board.tool}<ToolBar {board} />{:else}<Offers />{/if}
</div>
