<script lang="ts">
  /** All parts with small pictures: make, read, rename, copy, delete. */
  import { AlertDialog } from 'bits-ui';
  import { api, HISTORY } from '../api/client';
  import type { PartSummary } from '../api/types';
  import { handbook } from '../state/handbook.svelte';

  let parts = $state.raw<PartSummary[] | null>(null);
  let trouble = $state('');
  let renaming = $state(0);
  let doomed = $state.raw<PartSummary | null>(null);
  let files = $state<HTMLInputElement>();

  async function doing<T>(work: () => Promise<T>): Promise<T | undefined> {
    trouble = '';
    try {
      return await work();
    } catch (error) {
      trouble = error instanceof Error ? error.message : String(error);
      return undefined;
    }
  }
  const refresh = () => doing(async () => (parts = await api.list()));
  void refresh();

  async function create() {
    const names = new Set(parts?.map((p) => p.name));
    let name = 'New part';
    for (let n = 2; names.has(name); n++) name = `New part ${n}`;
    const made = await doing(() => api.create(name));
    if (made) location.hash = `#part/${made.id}`;
  }
  async function rename(part: PartSummary, name: string) {
    if (name.trim() === part.name) return (renaming = 0);
    if (await doing(() => api.rename(part.id, name))) renaming = 0;
    return refresh();
  }
  async function read() {
    const file = files?.files?.[0];
    if (!file) return;
    const whole = file.name.endsWith(`.${HISTORY}`);
    await doing<unknown>(async () => (whole ? api.readHistory(file) : api.read(await file.text())));
    files!.value = '';
    if (!trouble) await refresh();
  }
  const date = (text: string) =>
    new Date(text).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
  const when = (p: PartSummary) => date(p.changed);
  let copied = $state<string | null>(null);
  void api.copied().then(
    (at) => (copied = at),
    () => (copied = null),
  );
</script>

<main class="h-full overflow-y-auto">
  <header class="flex items-center gap-6 border-b border-rule px-10 py-3">
    <h1 class="border-b-2 border-brass text-[1.0625rem] leading-tight font-semibold">Wendal</h1>
    <span class="text-graphite">Parts</span>
    {#if copied !== null}<span class="text-[0.8125rem] text-graphite" data-testid="copied"
        >{copied ? `last copy of all parts: ${date(copied)}` : 'no copy of all parts is made by itself'}</span
      >{/if}
    <span class="flex-1"></span>
    <input
      bind:this={files}
      type="file"
      accept=".json,.wendal-part,application/json"
      class="hidden"
      onchange={read}
      data-testid="read-file"
    />
    <button class="hover:underline" onclick={() => (handbook.page = 'ideas')}>Handbook</button>
    <button class="button" onclick={() => files?.click()}>Read a part …</button>
    <button class="button-strong" onclick={create}>New part</button>
  </header>
  {#if trouble}<p class="mx-10 mt-4 border-l-2 border-carmine pl-3 text-carmine" role="alert">
      {trouble}
    </p>{/if}
  {#if parts && !parts.length}
    <p class="m-10 text-graphite">
      No parts yet. Make one with <em>New part</em>, or read one from a JSON file.
    </p>
  {/if}
  <ul class="grid grid-cols-[repeat(auto-fill,minmax(230px,1fr))] gap-6 px-10 py-8">
    {#each parts ?? [] as part (part.id)}
      <li class="group border border-rule bg-white/40 hover:border-ink" data-testid="part">
        <a href="#part/{part.id}" class="block" aria-label="Open {part.name}">
          <img src={api.picture(part)} alt="" width="240" height="160" class="aspect-[3/2] w-full bg-stage" />
        </a>
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
          {:else}
            <a href="#part/{part.id}" class="block truncate font-medium hover:underline" title={part.name}
              >{part.name}</a
            >
          {/if}
          <p class="text-[0.8125rem] text-graphite">v{part.version}, {when(part)}</p>
        </div>
        <div class="flex gap-4 px-3 pt-1 pb-2 text-[0.84375rem]">
          <button class="blank" onclick={() => (renaming = part.id)}>Rename</button>
          <button class="blank" onclick={() => doing(() => api.copy(part.id)).then(refresh)}>Copy</button>
          <button class="blank" onclick={() => (doomed = part)}>Delete</button>
        </div>
      </li>
    {/each}
  </ul>
</main>

<AlertDialog.Root open={doomed !== null} onOpenChange={(open) => !open && (doomed = null)}>
  <AlertDialog.Portal>
    <AlertDialog.Overlay class="fixed inset-0 bg-ink/30" />
    <AlertDialog.Content class="fixed top-1/3 left-1/2 w-96 -translate-x-1/2 border border-ink bg-paper p-5">
      <AlertDialog.Title class="font-semibold">Delete “{doomed?.name}”?</AlertDialog.Title>
      <AlertDialog.Description class="mt-1 text-[0.875rem]"
        >All its versions go with it, and this can not be undone.</AlertDialog.Description
      >
      <div class="mt-4 flex gap-3">
        <AlertDialog.Action
          class="button-strong"
          onclick={() => doing(() => api.remove(doomed!.id)).then(() => ((doomed = null), refresh()))}
          >Delete</AlertDialog.Action
        >
        <AlertDialog.Cancel class="button">Keep</AlertDialog.Cancel>
      </div>
    </AlertDialog.Content>
  </AlertDialog.Portal>
</AlertDialog.Root>
