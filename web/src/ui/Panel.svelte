<script lang="ts">
  /** A wide panel over the right side: trials and what they come to. */
  import type { Snippet } from 'svelte';

  let {
    title,
    of = '',
    close,
    onclose,
    name,
    width,
    buttons,
    children,
  }: {
    title: string;
    of?: string;
    close: string;
    onclose: () => void;
    name: string;
    width: string;
    buttons: Snippet;
    children: Snippet;
  } = $props();
</script>

<section
  class="fixed top-[44px] right-0 bottom-8 z-30 flex max-w-[60vw] flex-col border-l border-ink bg-paper"
  style:width
  aria-label={title}
  data-testid={name}
>
  <header class="flex items-center gap-3 border-b-2 border-ink px-4 py-2.5">
    <h2 class="font-semibold whitespace-nowrap">{title}</h2>
    <span class="min-w-0 flex-1 truncate text-[0.875rem] text-graphite" title={of}>{of}</span>
    {@render buttons()}
    <button aria-label={close} onclick={onclose}>×</button>
  </header>
  {@render children()}
</section>
