<script lang="ts">
  /**
   * What the word that is being typed in a formula could become: tags with their values, functions, units.
   * Arrows choose, Tab or Enter takes; Esc puts the list away.
   */
  import { tick } from 'svelte';
  import { useWorkplace } from '../state/workplace.svelte';

  let { field, text, put }: { field: HTMLInputElement | null; text: string; put: (text: string) => void } =
    $props();
  const work = useWorkplace();
  const MOST = 6;
  let at = $state(-1);
  /** The text over which the list was put away, or that came of it. */
  let shut = $state('');

  const caret = $derived(text === undefined ? 0 : (field?.selectionStart ?? text.length));
  const word = $derived(/(?:^|[^\w.])([a-z_]\w*)$/i.exec(text.slice(0, caret))?.[1] ?? '');
  const measured = $derived(/[\d.)]\s*$/.test(text.slice(0, caret - word.length)));
  const found = $derived.by(() => {
    if (!word || text === shut || !field) return [];
    const { functions, units } = work.about.formula;
    const all = measured
      ? units.map((name) => ({ name, words: 'unit', end: '' }))
      : [
          ...work.session.ledger.map((r) => ({ name: r.tag, words: r.shown, end: '' })),
          ...functions.map((f) => ({ name: f.name, words: f.words, end: '(' })),
        ];
    return all
      .filter((c) => c.name.startsWith(word.toLowerCase()) && c.name !== word)
      .sort((a, b) => a.name.length - b.name.length)
      .slice(0, MOST);
  });
  const place = $derived.by(() => {
    void found.length;
    const box = field?.getBoundingClientRect();
    return box ? { left: box.left, top: box.bottom + 2 } : { left: 0, top: 0 };
  });
  $effect(() => {
    void word;
    at = -1;
  });

  function take(i: number) {
    const { name, end } = found[i];
    const start = caret - word.length;
    const made = text.slice(0, start) + name + end + text.slice(caret);
    shut = made;
    put(made);
    const to = start + name.length + end.length;
    void tick().then(() => {
      field?.focus();
      field?.setSelectionRange(to, to);
    });
  }

  /** A key that was pressed in the field; tells whether it was for the list. */
  export function key(event: KeyboardEvent): boolean {
    if (!found.length) return false;
    if (event.key === 'ArrowDown' || event.key === 'ArrowUp')
      at = (at + (event.key === 'ArrowDown' ? 1 : -1) + found.length + (at < 0 ? 1 : 0)) % found.length;
    else if (event.key === 'Tab' && !event.shiftKey) take(Math.max(at, 0));
    else if (event.key === 'Enter' && at >= 0) take(at);
    else if (event.key === 'Escape') shut = text;
    else return false;
    event.preventDefault();
    event.stopPropagation();
    return true;
  }
</script>

{#if found.length}
  <ul
    class="fixed z-40 min-w-40 border border-ink bg-paper py-0.5 text-[0.84375rem]"
    role="listbox"
    aria-label="Words for the formula"
    style:left="{place.left}px"
    style:top="{place.top}px"
    data-testid="suggest"
  >
    {#each found as c, i (c.name)}
      <li role="option" aria-selected={at === i}>
        <button
          type="button"
          tabindex="-1"
          class="flex w-full justify-between gap-6 px-2 py-0.5 text-left {at === i
            ? 'bg-wash'
            : 'hover:bg-wash'}"
          onpointerdown={(e) => {
            e.preventDefault();
            take(i);
          }}><span class="figures">{c.name}</span><span class="text-graphite">{c.words}</span></button
        >
      </li>
    {/each}
  </ul>
{/if}
