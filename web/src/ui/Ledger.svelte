<script lang="ts">
  /** The table of all dimensions; folded to one line it shows the first few. */
  import { Refusal, type Foreseen, type LedgerRow } from '../api/types';
  import type { KeptRow } from '../state/measuring.svelte';
  import { sayForeseen } from '../state/saying';
  import { useWorkplace } from '../state/workplace.svelte';
  import FormulaField from './FormulaField.svelte';
  import { tableIn } from './csv';

  const work = useWorkplace();
  const { session } = work;
  type Editing = { tag: string; what: 'formula' | 'tag' | 'note' | 'allowed' };
  let filter = $state('');
  let editing = $state<Editing | null>(null);
  let trouble = $state('');
  let fault = $state<number | null>(null);
  let foreseen = $state.raw<Foreseen | null>(null);
  let order = $state<'' | 'tag' | 'value' | 'home'>('');
  let adding = $state({ tag: '', formula: '' });
  let limits = $state({ least: '', most: '', values: '', tolerance: '' });
  let file = $state<HTMLInputElement>();
  let timer = 0;
  let typing = { tag: '', formula: '' };

  const home = (r: LedgerRow) => (r.step ? (session.step(r.step)?.name ?? '') : '');
  const rows = $derived.by(() => {
    const wanted = filter.toLowerCase();
    const found = session.ledger.filter((r) =>
      `${r.tag} ${r.formula} ${r.note} ${home(r)}`.toLowerCase().includes(wanted),
    );
    const by = { tag: (r: LedgerRow) => r.tag, value: (r: LedgerRow) => r.value ?? 0, home }[order || 'tag'];
    return order ? [...found].sort((a, b) => (by(a) < by(b) ? -1 : by(a) > by(b) ? 1 : 0)) : found;
  });
  const heads = [
    ['Tag', 'tag'],
    ['Formula', ''],
    ['Value', 'value'],
    ['Allowed', ''],
    ['Note', ''],
    ['Of', 'home'],
    ['Used by', ''],
    ['', ''],
  ] as const;
  const allowed = (r: LedgerRow) =>
    [
      r.tolerance,
      r.values.length
        ? r.values.join(', ')
        : r.least || r.most
          ? `${r.least || '…'} to ${r.most || '…'}`
          : '',
    ]
      .filter(Boolean)
      .join(', ');
  const isOn = (tag: string, what: Editing['what']) => editing?.tag === tag && editing.what === what;

  function begin(row: LedgerRow, what: Editing['what']) {
    [editing, trouble, foreseen] = [{ tag: row.tag, what }, '', null];
    limits = { least: row.least, most: row.most, values: row.values.join('; '), tolerance: row.tolerance };
  }
  const stop = () => ([editing, trouble, foreseen] = [null, '', null]);

  async function doing(command: Parameters<typeof session.command>[0]): Promise<boolean> {
    [trouble, fault] = ['', null];
    try {
      await session.command(command);
      stop();
      return true;
    } catch (error) {
      if (error instanceof Refusal) [trouble, fault] = [error.message, error.at];
      else session.refused(error);
      return false;
    }
  }
  /** While a formula is typed: what it would reach. */
  function typed(tag: string, formula: string) {
    typing = { tag, formula };
    clearTimeout(timer);
    foreseen = null;
    timer = window.setTimeout(async () => {
      try {
        const answer = await session.socket.ask({
          type: 'foresee',
          command: { do: 'set_formula', tag, formula },
        });
        if (editing?.tag === tag && answer.type === 'foreseen') [foreseen, trouble] = [answer, ''];
      } catch (error) {
        if (editing?.tag === tag && error instanceof Refusal) trouble = error.message;
      }
    }, 250);
  }
  function remark(
    row: LedgerRow,
    change: Partial<{ note: string; least: string; most: string; values: string[]; tolerance: string }>,
  ) {
    return doing({
      do: 'set_remark',
      tag: row.tag,
      note: row.note,
      least: row.least,
      most: row.most,
      values: row.values,
      tolerance: row.tolerance,
      ...change,
    });
  }
  const limit = (row: LedgerRow) =>
    remark(row, {
      least: limits.least.trim(),
      most: limits.most.trim(),
      values: limits.values
        .split(';')
        .map((v) => v.trim())
        .filter(Boolean),
      tolerance: limits.tolerance.trim(),
    });
  const add = async () =>
    (await doing({ do: 'add_tag', ...adding, note: '' })) && (adding = { tag: '', formula: '' });
  const dimensions = $derived(session.ledger.filter((r) => !r.kept).length);
  const own = $derived(session.ledger.filter((r) => !r.step && !r.kept).map((r) => r.tag));
  function up(tag: string) {
    const i = own.indexOf(tag);
    return doing({ do: 'move_tag', tag, after: i > 1 ? own[i - 2] : '' });
  }
  async function read() {
    const chosen = file?.files?.[0];
    if (!chosen) return;
    file!.value = '';
    const text = await tableIn(chosen).catch((error) => session.refused(error));
    if (typeof text === 'string' && (await doing({ do: 'read_ledger', text })))
      session.note('The ledger was taken from the file.');
  }
</script>

<section class="bg-paper" data-testid="ledger">
  <div class="flex h-8 items-center gap-7 overflow-hidden px-3.5">
    <button
      class="shrink-0 font-semibold whitespace-nowrap"
      aria-expanded={work.ledgerOpen}
      onclick={() => (work.ledgerOpen = !work.ledgerOpen)}>Ledger {work.ledgerOpen ? '▾' : '▴'}</button
    >
    <span class="text-[0.875rem] whitespace-nowrap text-graphite"
      >{dimensions} {dimensions === 1 ? 'dimension' : 'dimensions'}</span
    >
    {#if work.ledgerOpen}
      <input
        class="w-48 border-b border-rule bg-transparent text-[0.875rem]"
        placeholder="Filter"
        aria-label="Filter the ledger"
        bind:value={filter}
      />
      <span class="min-w-0 flex-1 truncate text-[0.84375rem] text-graphite" data-testid="ledger-foreseen"
        >{foreseen ? sayForeseen(foreseen) : ''}</span
      >
      {#if foreseen && editing}<button
          class="shrink-0 border border-rule px-2 text-[0.8125rem] hover:border-ink"
          title="See the part with it; nothing is kept"
          onpointerdown={(e) => e.preventDefault()}
          onclick={() =>
            work.trust.tryOn({
              values: { [typing.tag]: typing.formula },
              title: `${typing.tag} = ${typing.formula}`,
            })}>See it</button
        >{/if}
      <input
        bind:this={file}
        type="file"
        accept=".csv,.xlsx,text/csv"
        class="hidden"
        onchange={read}
        data-testid="read-ledger"
      />
      <button
        class="text-[0.84375rem] whitespace-nowrap text-graphite hover:underline"
        onclick={() => file?.click()}>Read a table …</button
      >
    {:else}
      <div
        class="flex h-full min-w-0 flex-1 items-center gap-7 overflow-x-auto overflow-y-hidden"
        onwheel={(e) => (e.currentTarget.scrollLeft += e.deltaY)}
        data-testid="ledger-strip"
      >
        {#each session.ledger as row (row.tag)}
          <button
            class="figures whitespace-nowrap"
            onclick={() =>
              row.kept ? work.showKept(row as KeptRow) : ((work.ledgerOpen = true), begin(row, 'formula'))}
            ><span class="text-graphite">{row.tag}</span> {row.shown || '–'}</button
          >
        {/each}
      </div>
    {/if}
  </div>
  {#if work.ledgerOpen}
    {#if trouble}<p
        class="mx-3.5 mb-1 border-l-2 border-carmine pl-2 text-[0.84375rem] text-carmine"
        role="alert"
        data-testid="ledger-trouble"
      >
        {trouble}
      </p>{/if}
    <div class="max-h-[min(15rem,36vh)] overflow-y-auto border-t border-rule">
      <table class="w-full table-fixed text-left text-[0.875rem]">
        <colgroup
          >{#each [17, 19, 15, 11, 15, 9, 10, 4] as w, i (i)}<col style:width="{w}%" />{/each}</colgroup
        >
        <thead class="sticky top-0 bg-paper text-[0.8125rem] text-graphite">
          <tr>
            {#each heads as [title, key], i (i)}
              <th class="px-3 py-1 font-normal" aria-sort={key && order === key ? 'ascending' : undefined}>
                {#if key}<button
                    class="hover:underline"
                    title="Tried by this; again for the part's order"
                    onclick={() => (order = order === key ? '' : key)}
                    >{title}{order === key ? ' ↓' : ''}</button
                  >{:else}{title}{/if}
              </th>
            {/each}
          </tr>
        </thead>
        <tbody>
          {#each rows as row (row.tag)}
            <tr class="border-t border-rule hover:bg-wash/50" data-tag={row.tag}>
              <td class="figures px-3 py-0.5">
                {#if isOn(row.tag, 'tag')}<FormulaField
                    formula={row.tag}
                    label="tag"
                    words={false}
                    accept={(to) => doing({ do: 'rename_tag', tag: row.tag, to })}
                    cancel={stop}
                  />
                {:else}<button
                    class="min-h-[24px] min-w-[24px] max-w-full truncate hover:underline"
                    title="Rename {row.tag} everywhere"
                    onclick={() => begin(row, 'tag')}>{row.tag}</button
                  >{/if}
              </td>
              <td class="figures max-w-80 px-3">
                {#if isOn(row.tag, 'formula')}
                  <FormulaField
                    formula={row.formula}
                    label="{row.tag} formula"
                    accept={(formula) => doing({ do: 'set_formula', tag: row.tag, formula })}
                    change={(text) => typed(row.tag, text)}
                    cancel={stop}
                    {fault}
                  />
                {:else if row.kept}<button
                    class="max-w-full truncate text-graphite italic hover:underline"
                    title="Show what is measured"
                    onclick={() => work.showKept(row as KeptRow)}>{row.kept.words || 'measured'}</button
                  >
                {:else}<button
                    class="blank min-h-[24px] min-w-[24px] max-w-full truncate"
                    title={row.formula}
                    onclick={() => begin(row, 'formula')}>{row.formula}</button
                  >{/if}
              </td>
              <td
                title={row.error || row.kept?.outside || `${row.shown} ${row.limits}`.trim()}
                class="figures truncate px-3 {row.error || row.kept?.outside ? 'text-carmine' : ''}"
                >{row.error || row.shown}
                {#if row.limits && !row.error}<span class="text-[0.78125rem] text-graphite">{row.limits}</span
                  >{/if}</td
              >
              <td class="figures px-3">
                {#if isOn(row.tag, 'allowed')}
                  <form
                    class="relative z-10 flex w-max items-center gap-1 bg-paper"
                    onsubmit={(e) => (e.preventDefault(), void limit(row))}
                  >
                    <input
                      class="w-16 border border-brass bg-white px-1"
                      placeholder="least"
                      aria-label="least"
                      bind:value={limits.least}
                    />
                    <input
                      class="w-16 border border-brass bg-white px-1"
                      placeholder="most"
                      aria-label="most"
                      bind:value={limits.most}
                    />
                    <input
                      class="w-28 border border-brass bg-white px-1"
                      placeholder="or a; b; c"
                      aria-label="allowed values"
                      bind:value={limits.values}
                    />
                    <input
                      class="w-24 border border-brass bg-white px-1"
                      placeholder="h6, ±0.1"
                      aria-label="tolerance"
                      title="Tolerance: a class by ISO 286 (H7, h6) or limits in mm (+0.1/0, ±0.05)"
                      bind:value={limits.tolerance}
                    />
                    <button class="button !py-0">Set</button><button
                      type="button"
                      class="text-graphite"
                      aria-label="Give up"
                      onclick={stop}>×</button
                    >
                  </form>
                {:else}<button
                    class="min-h-[24px] min-w-[24px] hover:underline {allowed(row)
                      ? ''
                      : 'text-graphite italic'}"
                    onclick={() => begin(row, 'allowed')}>{allowed(row) || 'any'}</button
                  >{/if}
              </td>
              <td class="max-w-64 px-3">
                {#if isOn(row.tag, 'note')}<FormulaField
                    formula={row.note}
                    label="note"
                    words={false}
                    accept={(note) => remark(row, { note })}
                    cancel={stop}
                  />
                {:else}<button
                    class="min-h-[24px] min-w-[24px] max-w-full truncate hover:underline {row.note
                      ? ''
                      : 'text-graphite italic'}"
                    title={row.note}
                    onclick={() => begin(row, 'note')}>{row.note || 'note'}</button
                  >{/if}
              </td>
              <td class="max-w-40 truncate px-3 text-graphite"
                >{home(row) || (row.kept ? 'measure' : 'ledger')}</td
              >
              <td class="figures max-w-52 truncate px-3 text-graphite" title={row.used_by.join(', ')}
                >{row.used_by.join(', ')}</td
              >
              <td class="px-3 text-right whitespace-nowrap">
                {#if !row.step}
                  {#if !order && own.indexOf(row.tag) > 0}<button
                      class="text-graphite hover:text-ink"
                      aria-label="Move {row.tag} up"
                      onclick={() => up(row.tag)}>↑</button
                    >{/if}
                  <button
                    class="ml-1 text-graphite hover:text-carmine"
                    aria-label="Remove {row.tag}"
                    onclick={() => doing({ do: 'remove_tag', tag: row.tag })}>×</button
                  >
                {/if}
              </td>
            </tr>
          {/each}
          <tr class="border-t border-rule">
            <td class="px-3 py-1"
              ><input
                class="figures w-40 border-b border-rule bg-transparent"
                placeholder="new_tag"
                aria-label="New tag"
                bind:value={adding.tag}
              /></td
            >
            <td class="px-3"
              ><input
                class="figures w-40 border-b border-rule bg-transparent"
                placeholder="formula"
                aria-label="New formula"
                bind:value={adding.formula}
                onkeydown={(e) => e.key === 'Enter' && void add()}
              /></td
            >
            <td class="px-3" colspan="6"
              ><button class="button !py-0" disabled={!adding.tag || !adding.formula} onclick={add}
                >Add</button
              ></td
            >
          </tr>
        </tbody>
      </table>
    </div>
  {/if}
</section>
