<script lang="ts">
  /** The three dots at a line, and what can be done with it. */
  import { DropdownMenu } from 'bits-ui';
  import type { Deed } from '../state/deeds';

  let {
    label,
    deeds,
    keeps = () => false,
  }: {
    label: string;
    deeds: Deed[];
    /** Whether a field was opened that has the focus, which the menu then does not take back. */
    keeps?: () => boolean;
  } = $props();
</script>

<DropdownMenu.Root>
  <DropdownMenu.Trigger class="px-1 text-graphite hover:text-ink" aria-label={label}>⋯</DropdownMenu.Trigger>
  <DropdownMenu.Portal>
    <DropdownMenu.Content
      class="z-30 border border-ink bg-paper py-1 text-[0.875rem]"
      align="end"
      onCloseAutoFocus={(e) => keeps() && e.preventDefault()}
    >
      {#each deeds as deed (deed.title)}
        <DropdownMenu.Item
          class="cursor-pointer px-4 py-1 data-highlighted:bg-wash"
          onSelect={() => void deed.run()}>{deed.title}</DropdownMenu.Item
        >
      {/each}
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
