<script lang="ts">
  /** Part and version, undo and redo, units, find, exchange. */
  import { DropdownMenu } from 'bits-ui';
  import { api, HISTORY } from '../api/client';
  import { useWorkplace } from '../state/workplace.svelte';

  const work = useWorkplace();
  const { session } = work;
  const id = Number(location.hash.split('/')[1]);
  let renaming = $state(false);
  const systems = $derived(session.steps.filter((s) => s.kind === 'system'));

  const save = (ending: string) => api.download(id, ending, session.past).catch((e) => session.refused(e));
  async function rename(name: string) {
    renaming = false;
    if (name.trim() !== session.part?.name) await session.try({ do: 'rename_part', name });
  }
  const saying = $derived(
    !session.linked
      ? 'no line to Wendal, trying again …'
      : session.cancelled
        ? 'cancelled; showing what is built …'
        : !session.scene
          ? 'opening …'
          : session.saving
            ? session.building && !session.trouble
              ? `building ${session.building} …`
              : 'saving …'
            : session.outdated
              ? `building${session.building ? ` ${session.building}` : ''} …`
              : 'saved',
  );
</script>

<header class="flex h-full items-center gap-5 px-3.5">
  <a href="#parts" class="border-b-2 border-brass leading-tight font-semibold" title="All parts">Wendal</a>
  {#if renaming}
    <!-- svelte-ignore a11y_autofocus -->
    <input
      autofocus
      class="border border-brass bg-white px-1 font-medium"
      value={session.part?.name}
      aria-label="Part name"
      onblur={(e) => renaming && rename(e.currentTarget.value)}
      onkeydown={(e) => {
        e.stopPropagation();
        if (e.key === 'Enter') void rename(e.currentTarget.value);
        if (e.key === 'Escape') renaming = false;
      }}
    />
  {:else}
    <h1 class="min-w-0 max-w-72">
      <button
        class="max-w-full truncate font-medium hover:underline"
        title="Rename"
        onclick={() => (renaming = true)}
        data-testid="part-name">{session.part?.name ?? ''}</button
      >
    </h1>
  {/if}
  <span class="figures whitespace-nowrap text-graphite" data-testid="version"
    ><button
      class="hover:text-ink hover:underline"
      title="All versions (r v)"
      onclick={() => work.versions.toggle()}>v{session.version}</button
    > <span class={session.linked ? '' : 'text-carmine'}>{saying}</span></span
  >
  {#if session.trouble}<span
      class="min-w-0 truncate text-[0.84375rem] text-carmine"
      role="alert"
      title={session.trouble}
      data-testid="store-trouble">{session.trouble}</span
    >{/if}
  {#if (session.outdated || (session.saving && !session.trouble)) && session.building}
    <button class="blank text-[0.84375rem]" onclick={() => session.socket.say({ type: 'cancel' })}
      >Cancel</button
    >
  {/if}
  <span class="flex gap-1 text-[1.0625rem]">
    <button
      class="px-1 disabled:opacity-30"
      disabled={!session.undoes}
      onclick={() => work.undo()}
      aria-label="Undo"
      title={session.undoes ? `Undo: ${session.undoes} (Ctrl+Z)` : 'Nothing to undo'}>↶</button
    >
    <button
      class="px-1 disabled:opacity-30"
      disabled={!session.redoes}
      onclick={() => session.move('redo')}
      aria-label="Redo"
      title={session.redoes ? `Redo: ${session.redoes} (Ctrl+Shift+Z)` : 'Nothing to redo'}>↷</button
    >
  </span>
  <span class="flex-1"></span>
  <button
    class="flex w-60 min-w-0 shrink items-baseline justify-between gap-2 overflow-hidden border-b whitespace-nowrap border-rule pb-0.5 text-left text-graphite hover:border-ink"
    onclick={() => work.find()}
  >
    Find an action <span class="figures">ctrl k</span>
  </button>
  {#if systems.length}
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        class="max-w-44 truncate text-[0.875rem] hover:underline"
        title="The coordinate system that read-out and files follow"
        data-testid="active-system"
      >
        <span class="text-graphite">system</span>
        {session.step(session.part?.active_system ?? '')?.name ?? 'part'}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          class="z-30 border border-ink bg-paper py-1 text-[0.875rem]"
          sideOffset={8}
          align="end"
        >
          {#each [{ id: '', name: "the part's own" }, ...systems] as s (s.id)}
            <DropdownMenu.Item
              class="cursor-pointer px-4 py-1.5 data-highlighted:bg-wash"
              onSelect={() => session.try({ do: 'set_active_system', step: s.id })}
              >Work in {s.name}</DropdownMenu.Item
            >
          {/each}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  {/if}
  <DropdownMenu.Root>
    <DropdownMenu.Trigger class="figures whitespace-nowrap" title="Units of bare numbers"
      >{session.part?.units?.length} {session.part?.units?.angle}</DropdownMenu.Trigger
    >
    <DropdownMenu.Portal>
      <DropdownMenu.Content
        class="z-30 border border-ink bg-paper py-1 text-[0.875rem]"
        sideOffset={8}
        align="end"
      >
        {#each ['mm', 'in'] as const as length (length)}
          <DropdownMenu.Item
            class="cursor-pointer px-4 py-1.5 data-highlighted:bg-wash"
            onSelect={() =>
              session.try({ do: 'set_units', units: { length, angle: session.part?.units?.angle ?? 'deg' } })}
          >
            Lengths in {length === 'mm' ? 'millimetres' : 'inches'}
          </DropdownMenu.Item>
        {/each}
      </DropdownMenu.Content>
    </DropdownMenu.Portal>
  </DropdownMenu.Root>
  <DropdownMenu.Root>
    <DropdownMenu.Trigger class="whitespace-nowrap hover:underline" data-testid="exchange"
      >Exchange ▾</DropdownMenu.Trigger
    >
    <DropdownMenu.Portal>
      <DropdownMenu.Content
        class="z-30 border border-ink bg-paper py-1 text-[0.875rem]"
        sideOffset={8}
        align="end"
      >
        <DropdownMenu.Item
          class="cursor-pointer px-4 py-1.5 font-medium data-highlighted:bg-wash"
          onSelect={() => work.exchange.show()}>Write files …</DropdownMenu.Item
        >
        {#each work.about.formats.filter((f) => f.subjects.includes('part')) as format (format.ending)}
          <DropdownMenu.Item
            class="cursor-pointer px-4 py-1.5 data-highlighted:bg-wash"
            onSelect={() => save(format.ending)}>Write {format.title}</DropdownMenu.Item
          >
        {/each}
        <DropdownMenu.Item
          class="cursor-pointer px-4 py-1.5 data-highlighted:bg-wash"
          onSelect={() => save(HISTORY)}>Write the part with all its versions</DropdownMenu.Item
        >
        <DropdownMenu.Item
          class="cursor-pointer px-4 py-1.5 data-highlighted:bg-wash"
          onSelect={() => (location.hash = '#parts')}>Read a part: on the list of parts</DropdownMenu.Item
        >
      </DropdownMenu.Content>
    </DropdownMenu.Portal>
  </DropdownMenu.Root>
</header>
