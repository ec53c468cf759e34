<script lang="ts">
  /** A card on the stage: its title, a way to close it, and what it holds. */
  import type { Snippet } from 'svelte';

  let {
    title,
    close,
    onclose,
    name,
    wide = 'w-72',
    children,
  }: {
    title: string;
    close: string;
    onclose: () => void;
    name: string;
    wide?: string;
    children: Snippet;
  } = $props();
</script>

<section
  class="absolute top-3 right-3 z-20 flex max-h-[calc(100%-1.5rem)] {wide} flex-col overflow-y-auto border border-ink bg-paper text-[0.84375rem]"
  aria-label={title}
  data-card
  data-testid={name}
  onpointerdown={(e) => e.stopPropagation()}
  onpointerup={(e) => e.stopPropagation()}
>
  <header class="flex items-baseline justify-between border-b border-rule px-3 py-1.5">
    <h2 class="font-semibold">{title}</h2>
    <button aria-label={close} onclick={onclose}>×</button>
  </header>
  {@render children()}
</section>
