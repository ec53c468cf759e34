<script lang="ts">
  /** The route: every step as a sentence. Editing happens in the sentence. */
  import { keptIn } from '../state/measuring.svelte';
  import { useWorkplace } from '../state/workplace.svelte';
  import Aside from './Aside.svelte';
  import BodyList from './BodyList.svelte';
  import FirstPart from './FirstPart.svelte';
  import KeptList from './KeptList.svelte';
  import StepEditor from './StepEditor.svelte';
  import StepLine from './StepLine.svelte';

  const work = useWorkplace();
  const { session } = work;
  const editing = $derived(work.editing);
  const stop = $derived(session.part?.stop_after ?? '');
  const state = $derived.by(() => {
    const count = (s: string) => session.reports.filter((r) => r.state === s).length;
    const parts = [`${session.steps.length} ${session.steps.length === 1 ? 'step' : 'steps'}`];
    for (const s of ['stopped', 'held', 'waiting']) if (count(s)) parts.push(`${count(s)} ${s}`);
    const kept = keptIn(session.ledger);
    const amiss = kept.filter((r) => r.kept.outside || ['lost', 'held'].includes(r.kept.state)).length;
    if (amiss) parts.push(`${amiss} ${amiss === 1 ? 'measure' : 'measures'} amiss`);
    if (parts.length === 1 && session.steps.length) parts.push('all built');
    return parts.join(', ');
  });
  const newAt = $derived(stop ? session.steps.findIndex((s) => s.id === stop) : session.steps.length - 1);
</script>

<aside class="flex h-full flex-col border-l border-rule bg-paper" data-testid="route">
  <header class="flex items-baseline justify-between border-b-2 border-ink px-4 py-3">
    <h2 class="font-semibold">Route</h2>
    <span class="text-[0.8125rem] text-graphite" data-testid="route-state">{state}</span>
  </header>
  <ol class="min-h-0 flex-1 overflow-y-auto">
    {#if editing?.meanwhile === 'deleted'}<StepEditor {editing} number={0} />{/if}
    {#if editing && !editing.step && newAt < 0}<StepEditor {editing} number={10} />{/if}
    {#each session.steps as step, i (step.id)}
      {#if editing?.step === step.id}
        <StepEditor {editing} number={10 * (i + 1)} />
      {:else}
        <StepLine {step} number={10 * (i + 1)} />
      {/if}
      {#if editing && !editing.step && i === newAt}<StepEditor {editing} number={10 * (i + 2)} />{/if}
      {#if stop === step.id}
        <li class="relative h-0 border-t-2 border-carmine" aria-label="Stop line">
          <button
            class="absolute right-3 -top-3 border border-carmine bg-paper px-1.5 text-[0.75rem] text-carmine"
            title="Build all steps"
            onclick={() => session.try({ do: 'set_stop_line', after: '' })}>stop line ×</button
          >
        </li>
      {/if}
    {/each}
    {#if !session.steps.length && !editing}
      <li class="px-4 py-4 text-[0.875rem] text-graphite">No steps yet.</li>
    {/if}
  </ol>
  <Aside />
  <FirstPart />
  <KeptList />
  <BodyList />
</aside>
