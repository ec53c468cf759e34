<script lang="ts">
  /** The texts of the open sketch: words, height, font and place, each changed where it stands. */
  import { useWorkplace } from '../state/workplace.svelte';
  import FormulaField from '../ui/FormulaField.svelte';
  import type { Board } from './board.svelte';
  import { PLACES } from './forms';
  import { choosing } from '../ui/choosing';

  let { board }: { board: Board } = $props();
  const work = useWorkplace();
  const rows = $derived(board.view?.texts ?? []);
  const text = (id: string) => board.view?.drawing.texts?.[id];
  const set = (id: string, change: Record<string, unknown>) =>
    board.edit({ op: 'set_text', text: id, ...change });
  const start = (field: HTMLInputElement) => field.select();

  async function written(id: string, words: string) {
    if (words === text(id)?.words || (await set(id, { words }))) board.typing = '';
  }
  async function sized(id: string, height: string) {
    if (await set(id, { height })) board.typing = '';
  }
  function key(event: KeyboardEvent & { currentTarget: HTMLInputElement }, id: string) {
    if (event.key === 'Enter') void written(id, event.currentTarget.value);
    else if (event.key === 'Escape') board.typing = '';
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

{#if rows.length}
  <section data-testid="texts">
    <h3 class="px-4 pt-3 pb-1 font-medium">Texts</h3>
    {#each rows as t (t.id)}
      {@const held = text(t.id)}
      <div
        role="group"
        class="border-b border-rule px-4 py-1.5 text-[0.875rem] {board.hovered === t.id ||
        board.picked.includes(t.id)
          ? 'bg-wash'
          : ''}"
        onpointerenter={() => (board.hovered = t.id)}
        onpointerleave={() => (board.hovered = '')}
      >
        <div class="flex items-center gap-3">
          <span class="w-4 text-center text-graphite">T</span>
          {#if board.typing === t.id}
            <!-- svelte-ignore a11y_autofocus -->
            <input
              class="min-w-0 flex-1 border-b-[1.5px] border-brass bg-transparent"
              value={t.words}
              use:start
              autofocus
              aria-label="Words"
              data-testid="words"
              spellcheck="false"
              onkeydown={(e) => key(e, t.id)}
            />
          {:else}
            <button
              class="blank min-w-0 flex-1 truncate text-left"
              title={t.words}
              onclick={() => (board.typing = t.id)}>{t.words}</button
            >
          {/if}
          {#if board.typing === `${t.id}:height`}
            <FormulaField
              formula={t.formula}
              label={t.tag || 'height'}
              accept={(f) => sized(t.id, f)}
              change={(f) => t.tag && board.binding.foresee(t.tag, f)}
              cancel={() => (board.typing = '')}
              fault={board.fault}
            />
          {:else}
            <button
              class="figures blank"
              title="{t.tag || 'Height of a capital'}: {t.formula}"
              aria-label="Height of {t.words}"
              onclick={() => (board.typing = `${t.id}:height`)}>{t.shown}</button
            >
          {/if}
          <button
            class="min-h-[24px] min-w-[24px] text-graphite hover:text-carmine"
            aria-label="Remove the text {t.words}"
            title="Remove"
            onclick={() => board.edit({ op: 'remove', entities: [t.id] })}>×</button
          >
        </div>
        <div class="mt-0.5 ml-7 flex items-center gap-3 text-[0.8125rem]">
          <select
            class="blank bg-transparent"
            aria-label="Font of {t.words}"
            use:choosing={{ value: held?.font ?? 'barlow', set: (font) => set(t.id, { font }) }}
          >
            {#each Object.entries(work.about.fonts) as [value, words] (value)}<option {value}>{words}</option
              >{/each}
          </select>
          <select
            class="blank bg-transparent"
            aria-label="Place of {t.words}"
            use:choosing={{ value: held?.place ?? 'start', set: (place) => set(t.id, { place }) }}
          >
            {#each Object.entries(PLACES) as [value, words] (value)}<option {value}>at {words}</option>{/each}
          </select>
          <button
            class="text-graphite hover:text-brass"
            title="Turn it over to the other side of its base line"
            aria-label="Turn {t.words} over"
            onclick={() => set(t.id, { turned: !held?.turned })}>⇄</button
          >
        </div>
        {#if t.trouble}<p class="mt-1 ml-7 text-[0.8125rem] text-carmine">{t.trouble}</p>{/if}
      </div>
    {/each}
  </section>
{/if}
