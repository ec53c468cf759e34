<script lang="ts">
  /** The handbook, over what is open: its pages, a search through all of them, and the tables of this Wendal. */
  import { Dialog } from 'bits-ui';
  import { api } from '../api/client';
  import type { About, HandbookPage } from '../api/types';
  import { actionsOf } from '../state/actions';
  import { handbook } from '../state/handbook.svelte';

  let { about }: { about: About } = $props();
  let pages = $state.raw<HandbookPage[]>([]);
  let trouble = $state('');
  let sought = $state('');
  let text = $state<HTMLElement>();
  const open = $derived(handbook.page !== '');
  $effect(() => {
    if (open && !pages.length)
      api.handbook().then(
        (found) => (pages = found),
        (e: Error) => (trouble = e.message),
      );
  });
  const page = $derived(pages.find((p) => p.id === handbook.page) ?? pages[0]);
  const words = $derived(sought.toLowerCase().split(/\s+/).filter(Boolean));
  const found = $derived(
    pages.filter((p) => words.every((w) => `${p.title} ${p.text}`.toLowerCase().includes(w))),
  );
  /** A little of what stands around the first word that is looked for. */
  function around(p: HandbookPage): string {
    const at = p.text.toLowerCase().indexOf(words[0] ?? '');
    return words.length && at >= 0 ? `… ${p.text.slice(Math.max(at - 30, 0), at + 50)} …` : '';
  }
  $effect(() => {
    void page;
    text?.scrollTo(0, 0);
  });
  const actions = $derived(actionsOf({ about } as Parameters<typeof actionsOf>[0]));
  const GROUPS = [
    ['datum', 'Datum'],
    ['sketch', 'Sketch'],
    ['constrain', 'Constrain'],
    ['build', 'Build'],
    ['look', 'Look'],
    ['route', 'Route'],
  ] as const;
</script>

<Dialog.Root bind:open={() => open, (on) => (handbook.page = on ? handbook.page || 'ideas' : '')}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-ink/25" />
    <Dialog.Content
      class="fixed inset-x-8 inset-y-6 z-50 mx-auto grid max-w-6xl grid-cols-[270px_minmax(0,1fr)] border border-ink bg-paper"
      data-testid="handbook"
      onkeydown={(e) => e.key !== 'Escape' && e.stopPropagation()}
    >
      <nav class="flex min-h-0 flex-col border-r border-rule" aria-label="Pages">
        <Dialog.Title class="border-b-2 border-ink px-4 py-3 font-semibold">Handbook</Dialog.Title>
        <input
          class="border-b border-rule bg-transparent px-4 py-2 text-[0.875rem]"
          placeholder="Look for words"
          aria-label="Look through the handbook"
          bind:value={sought}
          onkeydown={(e) => {
            if (e.key === 'Enter' && found.length) handbook.page = found[0].id;
          }}
        />
        <ol class="min-h-0 flex-1 overflow-y-auto py-1 text-[0.875rem]">
          {#each found as p (p.id)}
            <li>
              <button
                class="w-full border-l-4 px-3 py-1 text-left hover:bg-wash {p.id === page?.id
                  ? 'border-brass bg-wash'
                  : 'border-transparent'}"
                aria-current={p.id === page?.id ? 'page' : undefined}
                onclick={() => (handbook.page = p.id)}
                >{p.title}{#if around(p)}<span class="block text-[0.78125rem] text-graphite">{around(p)}</span
                  >{/if}</button
              >
            </li>
          {:else}
            <li class="px-4 py-2 text-graphite">
              {trouble || (pages.length ? 'No page has all of these words.' : 'Opening …')}
            </li>
          {/each}
        </ol>
      </nav>
      <div class="relative min-h-0">
        <Dialog.Close class="absolute top-2.5 right-4 z-10 text-[1.125rem]" aria-label="Close the handbook"
          >×</Dialog.Close
        >
        <article bind:this={text} class="pages h-full overflow-y-auto px-8 py-4" data-testid="handbook-page">
          {#if page}
            <h2>{page.title}</h2>
            <!-- eslint-disable-next-line svelte/no-at-html-tags -->
            {@html page.html}
            {#if page.id === 'keys'}
              <div class="columns-2 gap-8">
                {#each GROUPS as [group, name] (group)}
                  <section class="mb-4 break-inside-avoid">
                    <h3>{name}</h3>
                    {#each actions.filter((a) => a.group === group) as a (a.key + a.title)}
                      <p class="!my-0 flex gap-3">
                        <span class="figures w-10 shrink-0 pt-0.5 text-brass">{a.key}</span>{a.title}
                      </p>
                    {/each}
                  </section>
                {/each}
              </div>
            {:else if page.id === 'formulas'}
              <table>
                <tbody>
                  {#each about.formula.functions as f (f.name)}
                    <tr><td><code>{f.name}</code></td><td>{f.words}</td></tr>
                  {/each}
                </tbody>
              </table>
              <p>Units: <code>{about.formula.units.join(', ')}</code></p>
            {/if}
          {/if}
        </article>
      </div>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>

<style>
  .pages :global(h2) {
    font-size: 1.25rem;
    font-weight: 600;
    margin: 0.6rem 0 0.5rem;
  }
  .pages :global(h2:first-child) {
    border-bottom: 2px solid var(--color-ink);
    margin: 0 0 0.75rem;
    padding-bottom: 0.4rem;
  }
  .pages :global(h3) {
    font-weight: 600;
    margin: 0.5rem 0 0.2rem;
  }
  .pages :global(p),
  .pages :global(li) {
    max-width: 44rem;
    margin: 0.35rem 0;
  }
  .pages :global(ol) {
    list-style: decimal;
    padding-left: 1.4rem;
  }
  .pages :global(ul) {
    list-style: disc;
    padding-left: 1.4rem;
  }
  .pages :global(img) {
    border: 1px solid var(--color-rule);
    max-width: min(100%, 40rem);
    margin: 0.6rem 0;
  }
  .pages :global(code) {
    font-family: var(--font-mono);
    font-size: 0.8rem;
    color: var(--color-brass);
    white-space: nowrap;
  }
  .pages :global(td),
  .pages :global(th) {
    border-bottom: 1px solid var(--color-rule);
    padding: 0.2rem 1rem 0.2rem 0;
    text-align: left;
    vertical-align: top;
    font-weight: 400;
  }
</style>
