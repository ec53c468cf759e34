<script lang="ts">
  /** Find an action, a menu, a step, a tag, a body or a part by its words. */
  import { Command, Dialog } from 'bits-ui';
  import { api } from '../api/client';
  import { handbook } from '../state/handbook.svelte';
  import { useWorkplace } from '../state/workplace.svelte';
  import { findables, found } from './finding';

  const work = useWorkplace();
  const id = Number(location.hash.split('/')[1]);
  let parts = $state.raw<{ id: number; name: string }[]>([]);
  $effect(() => {
    if (work.finding)
      void api
        .list()
        .then((rows) => (parts = rows.filter((p) => p.id !== id)))
        .catch(() => (parts = []));
  });
  const save = (ending: string) =>
    void api.download(id, ending, work.session.past).catch((e) => work.session.refused(e));
  const shown = $derived(work.finding ? found(findables(work, save, parts), work.sought).slice(0, 60) : []);
</script>

<Dialog.Root bind:open={work.finding}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-30 bg-ink/20" />
    <Dialog.Content
      data-finding
      onCloseAutoFocus={(e) => {
        if (!work.editing) return;
        e.preventDefault();
        if (!work.editing.typing && !work.editing.ahead) work.editing.ask();
      }}
      class="fixed top-16 left-1/2 z-40 w-[560px] -translate-x-1/2 border border-ink bg-paper"
    >
      <Dialog.Title class="sr-only">Find an action</Dialog.Title>
      <Command.Root shouldFilter={false}>
        <Command.Input
          bind:value={work.sought}
          class="w-full border-b border-rule bg-transparent px-4 py-2.5 outline-none"
          placeholder="What do you want to do, or find?"
          aria-label="Find an action"
          aria-controls="found-actions"
        />
        <Command.List
          id="found-actions"
          tabindex={0}
          aria-label="Actions"
          class="max-h-96 overflow-y-auto py-1"
        >
          {#if !shown.length}<p class="px-4 py-3 text-graphite">
              Nothing has these words. <button
                class="underline"
                onclick={() => ((work.finding = false), (handbook.page = 'keys'))}>All actions</button
              >
            </p>{/if}
          {#each shown as item (item.id)}
            <Command.Item
              class="flex cursor-pointer items-baseline gap-3 px-4 py-1.5 data-selected:bg-wash"
              value={item.id}
              onSelect={() => item.run()}
            >
              <span class="figures w-12 shrink-0 text-brass">{item.key}</span>
              <span class="shrink-0 font-medium">{item.title}</span>
              <span class="min-w-0 flex-1 truncate text-[0.8125rem] text-graphite">{item.explains}</span>
            </Command.Item>
          {/each}
        </Command.List>
      </Command.Root>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
