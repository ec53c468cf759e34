<script lang="ts">
  /** A formula typed in place. Enter accepts, Esc gives up, arrows nudge a plain number by a round amount. */
  import { untrack } from 'svelte';
  import { OTHER } from '../state/action';
  import { nudged } from './nudge';
  import Suggest from './Suggest.svelte';

  let {
    formula,
    begun = '',
    label,
    accept,
    cancel,
    change,
    other,
    fault = null,
    words = true,
  }: {
    formula: string;
    /** What was typed for it before it was there; it is typed on. */
    begun?: string;
    label: string;
    accept: (text: string) => unknown;
    cancel: () => void;
    change?: (text: string) => void;
    /** The key for the other answer: the same picks, measured another way. */
    other?: () => unknown;
    /** The character at which the text was refused; it is marked from there. */
    fault?: number | null;
    /** Whether it is a formula, in which words can be completed. */
    words?: boolean;
  } = $props();

  // The field starts from the formula and is then the typist's own.
  // svelte-ignore state_referenced_locally
  let text = $state(begun || formula);
  let field = $state<HTMLInputElement>();
  let suggest = $state<Suggest>();
  $effect(() => {
    field?.focus();
    if (untrack(() => begun)) untrack(() => field?.setSelectionRange(text.length, text.length));
    else field?.select();
  });

  // Marked once, when it is refused: while it is typed anew, nothing is selected again.
  $effect(() => {
    const at = fault;
    if (at !== null) untrack(() => at < text.length && field?.setSelectionRange(at, text.length));
  });

  function nudge(up: boolean) {
    const next = nudged(text, up);
    if (next === null) return;
    text = next;
    change?.(text);
  }
  function key(event: KeyboardEvent) {
    if (suggest?.key(event)) return;
    if (event.key === 'Enter') void accept(text);
    else if (event.key === 'Escape') cancel();
    else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') nudge(event.key === 'ArrowUp');
    else if (event.key === OTHER && other) void other();
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<input
  bind:this={field}
  bind:value={text}
  oninput={() => change?.(text)}
  onkeydown={key}
  aria-label={label}
  data-testid="formula"
  class="figures w-36 border border-brass bg-white px-1.5 py-0.5"
  style:width="{Math.min(Math.max(text.length + 3, 8), 26)}ch"
  spellcheck="false"
  autocomplete="off"
/>
{#if words}<Suggest
    bind:this={suggest}
    field={field ?? null}
    {text}
    put={(made) => {
      text = made;
      change?.(made);
    }}
  />{/if}
