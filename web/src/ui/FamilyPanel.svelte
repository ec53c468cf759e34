<script lang="ts">
  /** The family: members by name, each with values of its own for some dimensions; checked, seen, taken, written. */
  import { api } from '../api/client';
  import { Refusal } from '../api/types';
  import { useWorkplace } from '../state/workplace.svelte';
  import Panel from './Panel.svelte';
  import { figure } from './figures';
  import { tableIn } from './csv';

  const work = useWorkplace();
  const { session, trust } = work;
  const family = $derived(session.part?.family ?? []);
  const known = $derived(session.ledger.filter((r) => !r.kept).map((r) => r.tag));
  const tags = $derived.by(() => {
    const used = new Set(family.flatMap((m) => Object.keys(m.values ?? {})));
    return [...known.filter((t) => used.has(t)), ...[...used].filter((t) => !known.includes(t))];
  });
  const free = $derived(known.filter((t) => !tags.includes(t)));
  const told = $derived(session.family);
  const report = $derived(told?.report);
  const running = $derived(report?.state === 'running');
  const old = $derived(!!told && told.version !== session.version);
  const found = (name: string) => report?.members?.find((m) => m.name === name && m.judgement);
  const figures = $derived(Object.keys(report?.units ?? {}));
  let chosen = $state('');
  const shown = $derived(
    figures.includes(chosen) ? chosen : (figures.find((f) => f.endsWith(': volume')) ?? figures[0] ?? ''),
  );
  const worth = (name: string) => found(name)?.figures?.[shown];
  /** The member that is seen on the stage: others can be compared with it. */
  const seen = $derived(family.find((m) => m.name === trust.trying?.title));
  /** Two members over one another; they take the place of the one that is seen. */
  function compare(one: (typeof family)[number], other: (typeof family)[number]) {
    trust.leave();
    void work.versions.compareWith(one.values ?? {}, one.name, other.values ?? {}, other.name);
  }
  let trouble = $state({ at: '', words: '' });
  let busy = $state('');
  let adding = $state('');
  let file = $state<HTMLInputElement>();
  let table = $state<HTMLElement>();
  const now = (tag: string) => session.ledger.find((r) => r.tag === tag)?.formula ?? '';

  async function doing(command: object, at = ''): Promise<boolean> {
    trouble = { at, words: '' };
    try {
      await session.command(command as never);
      return true;
    } catch (error) {
      if (error instanceof Refusal) trouble = { at, words: error.message };
      else session.refused(error);
      return false;
    }
  }
  async function cell(row: string, tag: string, input: HTMLInputElement) {
    const before = family.find((m) => m.name === row)?.values?.[tag] ?? '';
    if (input.value.trim() === before) return;
    // What is refused stays in its field, to be put right.
    await doing({ do: 'edit_family_row', row, values: { [tag]: input.value } }, `${row} ${tag}`);
  }
  async function rename(row: string, input: HTMLInputElement) {
    const name = input.value.trim();
    if (name !== row) await doing({ do: 'edit_family_row', row, name }, `${row} name`);
  }
  /** Enter and the arrows go from cell to cell; Escape puts back what was there. */
  function keys(e: KeyboardEvent & { currentTarget: HTMLInputElement }, before: string) {
    const cells = [...(table?.querySelectorAll<HTMLInputElement>('input[data-cell]') ?? [])];
    const [row, column] = e.currentTarget.dataset.cell!.split(' ').map(Number);
    const go = (by: number) =>
      cells.find((c) => c.dataset.cell === `${row + by} ${column}`)?.focus() ?? e.currentTarget.blur();
    if (e.key === 'Escape' && e.currentTarget.value !== before) {
      e.currentTarget.value = before;
      trouble = { at: '', words: '' };
      e.stopPropagation();
    } else if (e.key === 'Escape') e.currentTarget.blur();
    else if (e.key === 'Enter' || e.key === 'ArrowDown') (go(1), e.preventDefault());
    else if (e.key === 'ArrowUp') (go(-1), e.preventDefault());
    if (e.key !== 'Escape') e.stopPropagation();
  }
  /** Several cells from a spreadsheet: with a head they are members, without they fill from here on. */
  async function paste(e: ClipboardEvent, row: string, tag: string) {
    const text = e.clipboardData?.getData('text') ?? '';
    if (!/[\t\n]/.test(text.trim())) return;
    e.preventDefault();
    const lines = text
      .replace(/\r/g, '')
      .replace(/\n+$/, '')
      .split('\n')
      .map((l) => l.split('\t'));
    if (/^(name)?$/i.test(lines[0][0].trim()) && lines[0].slice(1).every((t) => known.includes(t.trim())))
      return void (await doing({ do: 'read_family', text }, 'table'));
    const at = family.findIndex((m) => m.name === row);
    const names = ['name', ...tags];
    const first = names.indexOf(tag);
    const rows = lines.map((cells, i) => [family[at + i]?.name ?? `Member ${at + i + 1}`, cells] as const);
    const wide = Math.max(...lines.map((l) => l.length));
    const head = names.slice(first, first + wide).filter((n) => n !== 'name');
    if (first + wide > names.length)
      return void (trouble = {
        at: 'table',
        words: `There are ${wide} columns, and only ${names.length - first} from here on.`,
      });
    const made = [
      ['name', ...head],
      ...rows.map(([name, cells]) =>
        first === 0 ? [cells[0] || name, ...cells.slice(1)] : [name, ...cells],
      ),
    ];
    await doing({ do: 'read_family', text: made.map((r) => r.join('\t')).join('\n') }, 'table');
  }
  async function read() {
    const chosen = file?.files?.[0];
    if (!chosen) return;
    file!.value = '';
    const text = await tableIn(chosen).catch((error) => session.refused(error));
    if (typeof text === 'string' && (await doing({ do: 'read_family', text }, 'table')))
      session.note('The family was taken from the file.');
  }
  async function write(format: string) {
    busy = format;
    const names = family.map((m) => m.name);
    try {
      const size = await api.writeFamily(session.id, [{ format }], names, session.past);
      session.note(`${names.length} members are written (${size}), with a table of them.`);
    } catch (error) {
      session.refused(error);
    }
    busy = '';
  }
  const STATE: Record<string, string> = {
    ...{ good: 'stands', refused: 'refused', stopped: 'stops', held: 'in doubt', kind: 'nothing left' },
    ...{ outside: 'out of range', slow: 'too slow', died: 'ended the kernel' },
  };
  const failing = $derived(family.filter((m) => found(m.name) && found(m.name)!.judgement !== 'good'));
</script>

<Panel
  title="Families"
  of={family.length ? `${family.length} ${family.length === 1 ? 'member' : 'members'}` : ''}
  close="Close the family"
  onclose={() => trust.close()}
  name="family"
  width="680px"
>
  {#snippet buttons()}
    {#if running}<button class="button !py-0.5" onclick={() => trust.cancel()}>Cancel</button>
    {:else if family.length}<button class="button-strong !py-0.5" onclick={() => trust.checkFamily()}
        >Check all</button
      >{/if}
    <button class="button !py-0.5" onclick={() => file?.click()}>Read a table</button>
    {#if family.length}<a
        class="button !py-0.5"
        href="/api/parts/{session.id}/family.csv?version={session.past}">CSV</a
      ><a class="button !py-0.5" href="/api/parts/{session.id}/family.xlsx?version={session.past}"
        >Spreadsheet</a
      >{/if}
  {/snippet}
  <input
    class="hidden"
    type="file"
    accept=".csv,.tsv,.txt,.xlsx,text/csv"
    aria-label="A table of members"
    bind:this={file}
    onchange={read}
  />
  <div class="border-b border-rule px-4 py-2 text-[0.9375rem]" aria-live="polite" data-testid="family-told">
    {#if !family.length}
      <p>
        A family is a table of named sets of values: one part, many sizes. A member says values for some
        dimensions; for all others it is as the part.
      </p>
    {:else if report?.trouble}<p class="text-carmine" role="alert">{report.trouble}</p>
    {:else if report}
      <p>
        <strong
          >{report.trials} of {report.members?.length} built in {Math.round(report.seconds ?? 0)} s{running
            ? ' …'
            : '.'}</strong
        >
        {#if report.state === 'cancelled'}Cancelled.{/if}
        {#if failing.length}<span class="text-carmine"
            >{failing.length} {failing.length === 1 ? 'does' : 'do'} not stand.</span
          >{:else if report.state === 'done' && !old}<span class="text-verdigris">All stand.</span>{/if}
        {#if old && !running}<span class="text-brass">The part has changed since; check again.</span>{/if}
      </p>
    {:else}<p class="text-graphite">Not checked yet.</p>{/if}
    {#if trouble.words}<p class="text-carmine" role="alert">{trouble.words}</p>{/if}
  </div>
  <div class="min-h-0 flex-1 overflow-auto px-4 py-2 text-[0.875rem]">
    {#if family.length}
      <table class="border-collapse text-left" bind:this={table}>
        <thead class="text-[0.8125rem] text-graphite">
          <tr>
            <th class="sticky left-0 bg-paper py-1 pr-3 font-normal">Member</th>
            {#each tags as tag (tag)}
              <th
                class="figures px-1.5 py-1 font-normal whitespace-nowrap {known.includes(tag)
                  ? ''
                  : 'text-carmine'}"
              >
                {tag}
                <button
                  aria-label="Say no {tag} any more"
                  title="Say no {tag} any more"
                  onclick={() => doing({ do: 'remove_family_tag', tag })}>×</button
                >
              </th>
            {/each}
            <th class="px-1.5 font-normal">State</th>
            <th class="px-1.5 font-normal">
              {#if figures.length}<select
                  class="max-w-36 border-b border-rule bg-transparent"
                  aria-label="figure"
                  value={shown}
                  onchange={(e) => (chosen = e.currentTarget.value)}
                  >{#each figures as f (f)}<option value={f}>{f}</option>{/each}</select
                >{/if}
            </th>
            <th></th>
          </tr>
          {#if tags.length}<tr class="border-b border-rule" data-testid="family-itself">
              <td class="sticky left-0 bg-paper py-1 pr-3">the part itself</td>
              {#each tags as tag (tag)}<td class="figures px-1.5 whitespace-nowrap">{now(tag)}</td>{/each}
              <td></td>
              <td class="figures px-1.5 text-right whitespace-nowrap"
                >{report?.itself?.figures?.[shown] !== undefined
                  ? `${figure(report.itself.figures[shown])} ${report.units?.[shown]}`
                  : ''}</td
              >
              <td></td>
            </tr>{/if}
        </thead>
        <tbody>
          {#each family as m, i (m.name)}
            {@const state = found(m.name)}
            <tr class="border-b border-rule align-baseline" data-member={m.name}>
              <td class="sticky left-0 bg-paper py-1 pr-3"
                ><input
                  class="w-32 border-b border-transparent bg-transparent font-medium focus:border-brass"
                  data-cell="{i} 0"
                  aria-label="name of {m.name}"
                  value={m.name}
                  onkeydown={(e) => keys(e, m.name)}
                  onchange={(e) => rename(m.name, e.currentTarget)}
                  onpaste={(e) => paste(e, m.name, 'name')}
                /></td
              >
              {#each tags as tag, c (tag)}
                {@const value = m.values?.[tag] ?? ''}
                <td class="px-1.5"
                  ><input
                    class="figures field-sizing-content max-w-64 min-w-24 border-b bg-transparent {trouble.at ===
                      `${m.name} ${tag}` && trouble.words
                      ? 'border-carmine text-carmine'
                      : 'border-rule focus:border-brass'}"
                    data-cell="{i} {c + 1}"
                    aria-label="{tag} of {m.name}"
                    aria-invalid={trouble.at === `${m.name} ${tag}` && !!trouble.words}
                    placeholder={now(tag)}
                    {value}
                    onkeydown={(e) => keys(e, value)}
                    onchange={(e) => cell(m.name, tag, e.currentTarget)}
                    onpaste={(e) => paste(e, m.name, tag)}
                  /></td
                >
              {/each}
              <td
                class="px-1.5 whitespace-nowrap {state
                  ? state.judgement === 'good'
                    ? 'text-verdigris'
                    : 'text-carmine'
                  : 'text-graphite'}"
                title={state?.why || state?.other}
                >{state ? STATE[state.judgement!] : running ? '…' : ''}{state?.other ? ' *' : ''}</td
              >
              <td class="figures px-1.5 text-right whitespace-nowrap"
                >{worth(m.name) !== undefined
                  ? `${figure(worth(m.name)!)} ${report?.units?.[shown]}`
                  : ''}</td
              >
              <td class="px-1.5 whitespace-nowrap">
                <button
                  class="text-brass underline"
                  aria-pressed={trust.trying?.title === m.name}
                  onclick={() => trust.tryOn({ values: m.values ?? {}, title: m.name })}>See</button
                >
                {#if seen && seen.name !== m.name}<button
                    class="ml-1 text-brass underline"
                    onclick={() => compare(m, seen!)}>Compare</button
                  >{/if}
                <button
                  class="ml-1"
                  aria-label="Take {m.name} out of the family"
                  title="Take {m.name} out of the family"
                  onclick={async () =>
                    (await doing({ do: 'remove_family_row', row: m.name })) &&
                    session.noteUndo(`${m.name} is out of the family.`)}>×</button
                >
              </td>
            </tr>
            {#if state && (state.why || state.other)}<tr
                ><td
                  colspan={tags.length + 4}
                  class="pb-1.5 pl-2 text-[0.8125rem] {state.why ? 'text-carmine' : 'text-brass'}"
                  >{state.at ? `${state.at}: ` : ''}{state.why ||
                    `* another kind of thing than the part: ${state.other}`}</td
                ></tr
              >{/if}
          {/each}
        </tbody>
      </table>
    {/if}
    <p class="mt-3 flex flex-wrap items-baseline gap-3">
      <button class="button !py-0.5" onclick={() => doing({ do: 'add_family_row' })}>Add a member</button>
      {#if family.length && free.length}
        <label
          >A value for
          <select
            class="max-w-56 border-b border-brass bg-transparent"
            aria-label="Have members say a value for"
            value={free.includes(adding) ? adding : free[0]}
            onchange={(e) => (adding = e.currentTarget.value)}
            >{#each free as t (t)}<option value={t}>{t}</option>{/each}</select
          ></label
        >
        <button
          class="button !py-0.5"
          onclick={() => doing({ do: 'add_family_tag', tag: free.includes(adding) ? adding : free[0] })}
          >Add it to all</button
        >{/if}
    </p>
    {#if family.length}
      <p class="mt-3 flex flex-wrap items-baseline gap-2 text-graphite">
        Write all as
        {#each ['step', '3mf', 'stl', ...(session.part?.pages?.length ? ['pdf'] : [])] as format (format)}
          <button class="button !py-0" disabled={busy !== ''} onclick={() => write(format)}
            >{busy === format ? 'Writing …' : format.toUpperCase()}</button
          >
        {/each}
        in one zip, with a table of them.
      </p>
    {/if}
  </div>
</Panel>
