<script lang="ts">
  /** All parts with small pictures: make, read, look for, rename, file, copy, delete, bring back. */
  import { AlertDialog } from 'bits-ui';
  import { api, HISTORY } from '../api/client';
  import type { PartSummary } from '../api/types';
  import { handbook } from '../state/handbook.svelte';
  import { Parts } from '../state/parts.svelte';
  import { BODIES, partFrom } from '../state/sent';
  import { when } from './dates';

  const parts = new Parts();
  let renaming = $state(0);
  let filing = $state.raw<number[]>([]);
  let doomed = $state.raw<PartSummary[]>([]);
  let files = $state<HTMLInputElement>();
  /** The file that is being read, which takes seconds. */
  let reading = $state('');
  void parts.refresh();

  async function create() {
    const names = new Set(parts.all?.map((p) => p.name));
    let name = 'New part';
    for (let n = 2; names.has(name); n++) name = `New part ${n}`;
    const made = await parts.doing(() => api.create(name));
    if (made) location.hash = `#part/${made.id}`;
  }
  async function rename(part: PartSummary, name: string) {
    if (name.trim() === part.name) return (renaming = 0);
    if (await parts.doing(() => api.rename(part.id, name))) renaming = 0;
    return parts.refresh();
  }
  async function read() {
    const file = files?.files?.[0];
    if (file) await take(file);
    files!.value = '';
  }
  async function take(file: File) {
    if (BODIES.test(file.name)) {
      reading = file.name;
      const made = await parts.doing(() => partFrom(file));
      reading = '';
      if (made) location.hash = `#part/${made}`;
      return;
    }
    if (!/\.(json|wendal-part)$/i.test(file.name) && !file.name.endsWith(`.${HISTORY}`)) {
      parts.trouble = 'A part of Wendal (.json), or a STEP or STL file (.step, .stp, .stl) is read here.';
      return;
    }
    const whole = file.name.endsWith(`.${HISTORY}`);
    await parts.doing<unknown>(async () => (whole ? api.readHistory(file) : api.read(await file.text())));
    if (!parts.trouble) await parts.refresh();
  }
  async function file(labels: string) {
    const of = filing;
    filing = [];
    await parts.each(of, (id) => api.label(id, labels));
  }
  const labelsNow = $derived(parts.all?.find((p) => p.id === filing[0])?.labels ?? '');
  let copied = $state<string | null>(null);
  void api.copied().then(
    (at) => (copied = at),
    () => (copied = null),
  );
  const shown = $derived(parts.shown);
  const chosen = $derived(parts.chosen);
</script>

<main
  class="h-full overflow-y-auto"
  ondragover={(e) => e.preventDefault()}
  ondrop={(e) => {
    e.preventDefault();
    const file = e.dataTransfer?.files[0];
    if (file) void take(file);
  }}
>
  <header class="flex items-center gap-6 border-b border-rule px-10 py-3">
    <h1 class="border-b-2 border-brass text-[1.0625rem] leading-tight font-semibold">Wendal</h1>
    <span class="text-graphite">{parts.binned ? 'Bin' : 'Parts'}</span>
    {#if copied !== null}<span class="text-[0.8125rem] text-graphite" data-testid="copied"
        >{copied ? `last copy of all parts: ${when(copied)}` : 'no copy of all parts is made by itself'}</span
      >{/if}
    <span class="flex-1"></span>
    <input
      bind:this={files}
      type="file"
      accept=".json,.wendal-part,application/json,.step,.stp,.stl,.STEP,.STP,.STL"
      class="hidden"
      onchange={read}
      data-testid="read-file"
    />
    <button class="hover:underline" onclick={() => (handbook.page = 'ideas')}>Handbook</button>
    <button class="hover:underline" onclick={() => parts.turn(!parts.binned)}
      >{parts.binned ? 'To the parts' : 'Bin'}</button
    >
    <button class="button" onclick={() => files?.click()}>Read a part …</button>
    <button class="button-strong" onclick={create}>New part</button>
  </header>
  {#if parts.all?.length}
    <div
      class="flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-rule px-10 py-2 text-[0.875rem]"
    >
      <input
        class="w-64 border-b border-line bg-transparent py-0.5"
        placeholder="name, number or label"
        aria-label="Look for a part"
        bind:value={parts.sought}
        onkeydown={(e) => e.key === 'Escape' && (parts.sought = '')}
      />
      <label class="text-graphite"
        >sorted by
        <select class="open-blank text-ink" bind:value={parts.by} aria-label="Sorted by">
          <option value="time">time</option>
          <option value="name">name</option>
          <option value="number">number</option>
        </select></label
      >
      {#each parts.labels as label (label)}
        <button
          class={parts.label === label ? 'border-b-2 border-brass font-medium' : 'hover:underline'}
          aria-pressed={parts.label === label}
          onclick={() => (parts.label = parts.label === label ? '' : label)}>{label}</button
        >
      {/each}
      <span class="flex-1"></span>
      {#if chosen.length}
        <span data-testid="chosen">{chosen.length} chosen</span>
        {#if parts.binned}
          <button
            class="blank"
            disabled={parts.busy}
            onclick={() => parts.each(chosen, (id) => api.bringBack(id))}>Bring back</button
          >
        {:else}
          <button class="blank" disabled={parts.busy} onclick={() => parts.each(chosen, (id) => api.copy(id))}
            >Copy</button
          >
          <button class="blank" onclick={() => (filing = chosen)}>Label</button>
          <button
            class="blank"
            disabled={parts.busy}
            onclick={() => parts.each(chosen, (id) => api.download(id, 'json'))}>Write as JSON</button
          >
        {/if}
        <button class="blank" onclick={() => (doomed = parts.all!.filter((p) => chosen.includes(p.id)))}
          >Delete</button
        >
        <button aria-label="Choose none" onclick={() => (parts.chosen = [])}>×</button>
      {:else}<span class="text-graphite">{shown.length} of {parts.all.length}</span>{/if}
    </div>
  {/if}
  {#if reading}<p class="mx-10 mt-4 text-graphite" role="status">Reading {reading} …</p>{/if}
  {#if parts.trouble}<p class="mx-10 mt-4 border-l-2 border-carmine pl-3 text-carmine" role="alert">
      {parts.trouble}
    </p>{/if}
  {#if parts.all && !parts.all.length}
    <p class="m-10 text-graphite">
      {#if parts.binned}The bin is empty. What is deleted lies here until it is deleted for good.{:else}
        No parts yet. Make one with <em>New part</em>, or read one: a part of Wendal, a STEP or an STL file.{/if}
    </p>
  {:else if parts.all && !shown.length}
    <p class="m-10 text-graphite">No part has these words.</p>
  {/if}
  <ul class="grid grid-cols-[repeat(auto-fill,minmax(230px,1fr))] gap-6 px-10 py-8">
    {#each shown as part (part.id)}
      {@const on = chosen.includes(part.id)}
      <li
        class="group relative border bg-white/40 [contain-intrinsic-size:230px_250px] [content-visibility:auto] hover:border-ink {on
          ? 'border-brass'
          : 'border-rule'}"
        data-testid="part"
      >
        <label
          class="absolute top-1.5 left-1.5 z-10 p-1 {on || chosen.length
            ? ''
            : 'opacity-0 group-focus-within:opacity-100 group-hover:opacity-100'}"
          ><input
            type="checkbox"
            checked={on}
            aria-label="Choose {part.name}"
            onchange={() => parts.choose(part.id)}
          /></label
        >
        {#if parts.binned}
          <div class="aspect-[3/2] w-full bg-stage"></div>
        {:else}
          <a href="#part/{part.id}" class="block" aria-label="Open {part.name}">
            <img
              src={api.picture(part)}
              loading="lazy"
              alt=""
              width="240"
              height="160"
              class="aspect-[3/2] w-full bg-stage"
            />
          </a>
        {/if}
        <div class="px-3 pt-2">
          {#if renaming === part.id}
            <!-- svelte-ignore a11y_autofocus -->
            <input
              autofocus
              class="w-full border border-brass bg-white px-1 font-medium"
              value={part.name}
              aria-label="Name"
              onblur={(e) => renaming && rename(part, e.currentTarget.value)}
              onkeydown={(e) => {
                if (e.key === 'Enter') void rename(part, e.currentTarget.value);
                if (e.key === 'Escape') renaming = 0;
              }}
            />
          {:else if parts.binned}<p class="truncate font-medium" title={part.name}>{part.name}</p>
          {:else}
            <a href="#part/{part.id}" class="block truncate font-medium hover:underline" title={part.name}
              >{part.name}</a
            >
          {/if}
          <p class="truncate text-[0.8125rem] text-graphite">
            {part.number ? `${part.number}, ` : ''}v{part.version}, {part.gone
              ? `deleted ${when(part.gone)}`
              : when(part.changed)}
          </p>
          {#if part.labels}<p class="truncate text-[0.8125rem] text-brass">{part.labels}</p>{/if}
        </div>
        <div class="flex flex-wrap gap-x-4 gap-y-1 px-3 pt-1 pb-2 text-[0.84375rem]">
          {#if parts.binned}
            <button class="blank" onclick={() => parts.each([part.id], (id) => api.bringBack(id))}
              >Bring back</button
            >
          {:else}
            <button class="blank" onclick={() => (renaming = part.id)}>Rename</button>
            <button class="blank" onclick={() => parts.each([part.id], (id) => api.copy(id))}>Copy</button>
            <button class="blank" onclick={() => (filing = [part.id])}>Label</button>
          {/if}
          <button class="blank" onclick={() => (doomed = [part])}>Delete</button>
        </div>
      </li>
    {/each}
  </ul>
</main>

<AlertDialog.Root open={doomed.length > 0} onOpenChange={(open) => !open && (doomed = [])}>
  <AlertDialog.Portal>
    <AlertDialog.Overlay class="fixed inset-0 bg-ink/30" />
    <AlertDialog.Content class="fixed top-1/3 left-1/2 w-96 -translate-x-1/2 border border-ink bg-paper p-5">
      <AlertDialog.Title class="font-semibold"
        >Delete {doomed.length > 1 ? `${doomed.length} parts` : `“${doomed[0]?.name}”`}{parts.binned
          ? ' for good'
          : ''}?</AlertDialog.Title
      >
      <AlertDialog.Description class="mt-1 text-[0.875rem]"
        >{parts.binned
          ? 'All versions go with it, and this can not be undone.'
          : 'It goes into the bin, from which it can be brought back.'}</AlertDialog.Description
      >
      <div class="mt-4 flex gap-3">
        <AlertDialog.Action
          class="button-strong"
          onclick={() => {
            const of = doomed.map((p) => p.id);
            doomed = [];
            void parts.each(of, (id) => api.remove(id, parts.binned));
          }}>Delete</AlertDialog.Action
        >
        <AlertDialog.Cancel class="button">Keep</AlertDialog.Cancel>
      </div>
    </AlertDialog.Content>
  </AlertDialog.Portal>
</AlertDialog.Root>

<AlertDialog.Root open={filing.length > 0} onOpenChange={(open) => !open && (filing = [])}>
  <AlertDialog.Portal>
    <AlertDialog.Overlay class="fixed inset-0 bg-ink/30" />
    <AlertDialog.Content
      onOpenAutoFocus={(e) => {
        e.preventDefault();
        document.querySelector<HTMLInputElement>('[data-labels]')?.select();
      }}
      class="fixed top-1/3 left-1/2 w-96 -translate-x-1/2 border border-ink bg-paper p-5"
    >
      <AlertDialog.Title class="font-semibold">Labels</AlertDialog.Title>
      <AlertDialog.Description class="mt-1 text-[0.875rem]"
        >By commas. Parts are filtered by them.</AlertDialog.Description
      >
      <input
        class="mt-3 w-full border border-brass bg-white px-1"
        aria-label="Labels"
        maxlength="200"
        value={labelsNow}
        data-labels
        onkeydown={(e) => {
          if (e.key !== 'Enter') return;
          e.preventDefault();
          void file(e.currentTarget.value);
        }}
      />
      <div class="mt-4 flex gap-3">
        <AlertDialog.Action
          class="button-strong"
          onclick={() => file(document.querySelector<HTMLInputElement>('[data-labels]')?.value ?? '')}
          >File</AlertDialog.Action
        >
        <AlertDialog.Cancel class="button">Leave them</AlertDialog.Cancel>
      </div>
    </AlertDialog.Content>
  </AlertDialog.Portal>
</AlertDialog.Root>
