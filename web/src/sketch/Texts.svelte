<script lang="ts">
  /**
   * Texts on the board, letter by letter as the server sets them. Pencilled with its base line, inked with
   * it.
   */
  import type { Board } from './board.svelte';

  let { board }: { board: Board } = $props();

  const pencilled = $derived(new Set(board.view?.pencilled ?? []));
  const look = (id: string, base: string) => {
    if (board.picked.includes(id) || board.form?.all.includes(id))
      return 'fill-brass/25 stroke-brass [stroke-width:2.2]';
    if (board.hovered === id && (!board.tool || board.form))
      return 'fill-brass/15 stroke-brass [stroke-width:1.5]';
    return pencilled.has(base)
      ? 'fill-brass/8 stroke-pencil [stroke-width:1.2]'
      : 'fill-brass/8 stroke-ink [stroke-width:1.3]';
  };
</script>

<g class="pointer-events-none">
  {#each board.view?.texts ?? [] as t (t.id)}
    <path
      d={board.moving.moved?.texts[t.id] ?? t.path}
      fill-rule="evenodd"
      vector-effect="non-scaling-stroke"
      class={look(t.id, t.base)}
      data-testid="text"
      data-words={t.words}
    />
  {/each}
</g>
