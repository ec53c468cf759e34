<script lang="ts">
  /** The table of all dimensions; folded to one line it shows the first few. */
  import { Refusal, type LedgerRow } from '../api/types';
  import { useWorkplace } from '../state/workplace.svelte';
  import FormulaField from './FormulaField.svelte';

  const work = useWorkplace();
  const { session } = work;
  let filter = $state('');
  let changing = $state('');
  let renaming = $state('');
  let trouble = $state('');
  let adding = $state({ tag: '', formula: '' });
  const rows = $derived(session.ledger.filter((r) => `${r.tag} ${r.formula} ${r.note}`.includes(filter.toLowerCase())));
  const home = (r: LedgerRow) => (r.step ? (session.step(r.step)?.name ?? '') : r.note || 'ledger');

  async function doing(command: Parameters<typeof session.command>[0]): Promise<boolean> {
    trouble = '';
    try {
      await session.command(command);
      return true;
    } catch (error) {
      if (error instanceof Refusal) trouble = error.message;
      else session.refused(error);
      return false;
    }
  }
  const change = async (tag: string, formula: string) => (await doing({ do: 'set_formula', tag, formula })) && (changing = '');
  const rename = async (tag: string, to: string) => (await doing({ do: 'rename_tag', tag, to })) && (renaming = '');
  const add = async () => (await doing({ do: 'add_tag', ...adding, note: '' })) && (adding = { tag: '', formula: '' });
</script>

<section class="bg-paper" data-testid="ledger">
  <div class="flex h-8 items-center gap-7 overflow-hidden px-3.5">
    <button class="font-semibold whitespace-nowrap" aria-expanded={work.ledgerOpen} onclick={() => (work.ledgerOpen = !work.ledgerOpen)}>Ledger {work.ledgerOpen ? '▾' : '▴'}</button>
    <span class="text-[14px] whitespace-nowrap text-graphite">{session.ledger.length} {session.ledger.length === 1 ? 'dimension' : 'dimensions'}</span>
    {#if work.ledgerOpen}
      <input class="w-48 border-b border-rule bg-transparent text-[14px]" placeholder="Filter" aria-label="Filter the ledger" bind:value={filter} />
    {:else}
      {#each session.ledger.slice(0, 12) as row (row.tag)}
        <button class="figures whitespace-nowrap" onclick={() => ((work.ledgerOpen = true), (changing = row.tag))}><span class="text-graphite">{row.tag}</span> {row.shown || '–'}</button>
      {/each}
    {/if}
  </div>
  {#if work.ledgerOpen}
    {#if trouble}<p class="mx-3.5 mb-1 border-l-2 border-carmine pl-2 text-[13.5px] text-carmine" role="alert" data-testid="ledger-trouble">{trouble}</p>{/if}
    <div class="max-h-56 overflow-y-auto border-t border-rule">
      <table class="w-full text-left text-[14px]">
        <thead class="sticky top-0 bg-paper text-[13px] text-graphite">
          <tr>{#each ['Tag', 'Formula', 'Value', 'Of', 'Used by', ''] as h, i (i)}<th class="px-3.5 py-1 font-normal">{h}</th>{/each}</tr>
        </thead>
        <tbody>
          {#each rows as row (row.tag)}
            <tr class="border-t border-rule hover:bg-wash/50" data-tag={row.tag}>
              <td class="figures px-3.5 py-0.5">
                {#if renaming === row.tag}<FormulaField formula={row.tag} label="tag" accept={(t) => rename(row.tag, t)} cancel={() => (renaming = '')} />
                {:else}<button class="hover:underline" title="Rename everywhere" onclick={() => (renaming = row.tag)}>{row.tag}</button>{/if}
              </td>
              <td class="figures px-3.5">
                {#if changing === row.tag}<FormulaField formula={row.formula} label="{row.tag} formula" accept={(t) => change(row.tag, t)} cancel={() => ((changing = ''), (trouble = ''))} />
                {:else}<button class="blank" onclick={() => (changing = row.tag)}>{row.formula}</button>{/if}
              </td>
              <td class="figures px-3.5 {row.error ? 'text-carmine' : ''}">{row.error || row.shown}</td>
              <td class="px-3.5 text-graphite">{home(row)}</td>
              <td class="figures max-w-64 truncate px-3.5 text-graphite" title={row.used_by.join(', ')}>{row.used_by.join(', ')}</td>
              <td class="px-3.5 text-right">{#if !row.step}<button class="text-graphite hover:text-carmine" aria-label="Remove {row.tag}" onclick={() => doing({ do: 'remove_tag', tag: row.tag })}>×</button>{/if}</td>
            </tr>
          {/each}
          <tr class="border-t border-rule">
            <td class="px-3.5 py-1"><input class="figures w-40 border-b border-rule bg-transparent" placeholder="new_tag" aria-label="New tag" bind:value={adding.tag} /></td>
            <td class="px-3.5"><input class="figures w-40 border-b border-rule bg-transparent" placeholder="formula" aria-label="New formula" bind:value={adding.formula} onkeydown={(e) => e.key === 'Enter' && void add()} /></td>
            <td class="px-3.5" colspan="4"><button class="button !py-0" disabled={!adding.tag || !adding.formula} onclick={add}>Add</button></td>
          </tr>
        </tbody>
      </table>
    </div>
  {/if}
</section>
