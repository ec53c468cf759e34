<script lang="ts">
  /** Find an action by its words. */
  import { Command, Dialog } from 'bits-ui';
  import { useWorkplace } from '../state/workplace.svelte';

  const work = useWorkplace();
</script>

<Dialog.Root bind:open={work.finding}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-30 bg-ink/20" />
    <Dialog.Content
      data-finding
      onCloseAutoFocus={(e) => {
        if (!work.editing) return;
        e.preventDefault();
        work.editing.ask();
      }}
      class="fixed top-16 left-1/2 z-40 w-[460px] -translate-x-1/2 border border-ink bg-paper"
    >
      <Dialog.Title class="sr-only">Find an action</Dialog.Title>
      <Command.Root>
        <Command.Input
          bind:value={work.sought}
          class="w-full border-b border-rule bg-transparent px-4 py-2.5 outline-none"
          placeholder="What do you want to do?"
          aria-label="Find an action"
          aria-controls="found-actions"
        />
        <Command.List
          id="found-actions"
          tabindex={0}
          aria-label="Actions"
          class="max-h-96 overflow-y-auto py-1"
        >
          <Command.Empty class="px-4 py-3 text-graphite">No action has these words.</Command.Empty>
          {#each work.actions as action (action.key)}
            <Command.Item
              class="flex cursor-pointer gap-3 px-4 py-1.5 data-selected:bg-wash"
              value="{action.group} {action.title} {action.key}"
              onSelect={() => work.run(action)}
            >
              <span class="figures w-7 pt-0.5 text-brass">{action.key}</span>
              <span class="font-medium">{action.title}</span>
              <span class="min-w-0 flex-1 truncate text-[13px] text-graphite">{action.explains}</span>
            </Command.Item>
          {/each}
        </Command.List>
      </Command.Root>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
