<script lang="ts">
  /** A table to be saved: as CSV, or as a spreadsheet. */
  import { useWorkplace } from '../state/workplace.svelte';
  import { saveCsv, saveSheet, type Cell } from './csv';

  let { name, rows, small = false }: { name: string; rows: () => Cell[][]; small?: boolean } = $props();
  const work = useWorkplace();
  const called = $derived(`${work.session.part?.name ?? 'part'} ${name}`);
  const look = $derived(`button ${small ? '!py-0' : '!py-0.5'}`);
  const sheet = () => saveSheet(called, rows()).catch((error) => work.session.refused(error));
</script>

<button class={look} onclick={() => saveCsv(called, rows())}>CSV</button>
<button class={look} onclick={sheet}>Spreadsheet</button>
