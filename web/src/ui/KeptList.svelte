<script lang="ts">
  /** Kept measures, under the route: what each comes to, whether it is there and within what is allowed. */
  import { keptIn, type KeptRow } from '../state/measuring.svelte';
  import { markOf } from './marks';
  import { useWorkplace } from '../state/workplace.svelte';

  const work = useWorkplace();
  const { session } = work;
  const rows = $derived(keptIn(session.ledger));
  /** The measure whose range is being typed. */
  let ranging = $state('');
  let limits = $state({ least: '', most: '' });
  let trouble = $state('');
  const step = (id: string) => session.step(id)?.name ?? 'the end';
  const range = (r: KeptRow) => (r.least || r.most ? `${r.least || '…'} to ${r.most || '…'}` : '');
  const begin = (field: HTMLInputElement) => field.focus();
  function open(row: KeptRow) {
    [ranging, trouble] = [row.tag, ''];
    limits = { least: row.least, most: row.most };
  }
  async function set(row: KeptRow) {
    const { note, values, tolerance } = row;
    try {
      await session.command({ do: 'set_remark', tag: row.tag, note, values, tolerance, ...limits });
      ranging = '';
    } catch (error) {
      trouble = error instanceof Error ? error.message : String(error);
    }
  }
  const store = (row: KeptRow, things: unknown[]) =>
    session.try({ do: 'edit_kept', tag: row.tag, things, after: null } as never);
  const instead = (row: KeptRow, ref: unknown) =>
    store(
      row,
      row.kept.things.map((t, i) => (i === row.kept.thing ? ref : t)),
    );
</script>

{#if rows.length}
  <section class="max-h-44 shrink-0 overflow-y-auto border-t border-rule" data-testid="kept">
    <h3 class="px-4 pt-1.5 text-[0.8125rem] text-graphite">
      {rows.length === 1 ? '1 kept measure' : `${rows.length} kept measures`}
    </h3>
    {#each rows as row (row.tag)}
      {@const state = row.kept.outside ? 'outside' : row.kept.state}
      {@const [mark, colour] = markOf(state)}
      <div class="group px-4 py-1 text-[0.875rem]" data-kept={row.tag} data-state={row.kept.state}>
        <p class="flex items-baseline gap-2">
          <span class={colour} role="img" aria-label={state}>{mark}</span>
          <button
            class="figures truncate hover:underline"
            title="{row.kept.words}: {row.kept.of.join(' – ')}, after {step(row.kept.after)}"
            onclick={() => work.showKept(row)}>{row.tag}</button
          >
          <span class="figures flex-1 text-right whitespace-nowrap">{row.shown || '–'}</span>
          <button
            class="text-[0.78125rem] whitespace-nowrap hover:underline {range(row)
              ? ''
              : 'text-graphite italic'}"
            aria-label="What {row.tag} may be"
            onclick={() => open(row)}>{range(row) || 'any'}</button
          >
          <button
            class="text-graphite hover:text-carmine"
            aria-label="Remove {row.tag}"
            onclick={() => session.try({ do: 'remove_tag', tag: row.tag })}>×</button
          >
        </p>
        {#if ranging === row.tag}
          <form class="mt-1 flex gap-1" onsubmit={(e) => (e.preventDefault(), void set(row))}>
            <input
              use:begin
              class="figures w-20 border border-brass bg-white px-1"
              placeholder="least"
              aria-label="least of {row.tag}"
              bind:value={limits.least}
            />
            <input
              class="figures w-20 border border-brass bg-white px-1"
              placeholder="most"
              aria-label="most of {row.tag}"
              bind:value={limits.most}
            />
            <button class="button !py-0">Set</button>
            <button type="button" class="text-graphite" aria-label="Give up" onclick={() => (ranging = '')}
              >×</button
            >
          </form>
          {#if trouble}<p class="text-carmine" role="alert">{trouble}</p>{/if}
        {/if}
        {#if row.kept.outside}<p class="text-[0.8125rem] text-carmine">{row.kept.outside}</p>{/if}
        {#if row.kept.state === 'lost' || row.kept.state === 'held'}
          <p class="text-[0.8125rem] {colour}">{row.kept.message}</p>
          <p class="flex flex-wrap gap-2">
            {#each row.kept.candidates.slice(0, 3) as c, i (i)}<button
                class="button !py-0"
                onclick={() => instead(row, c.ref)}>{c.words}</button
              >{/each}
            {#if row.kept.now.length}<button class="button !py-0" onclick={() => store(row, row.kept.now)}
                >Confirm</button
              >{/if}
            <button class="button !py-0" onclick={() => work.showKept(row, true)}>Pick again</button>
          </p>
        {/if}
      </div>
    {/each}
  </section>
{/if}
