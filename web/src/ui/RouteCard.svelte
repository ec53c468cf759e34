<script lang="ts">
  /** The route: every step as a sentence. Editing happens in the sentence; steps are dragged by their numbers. */
  import { keptIn } from '../state/measuring.svelte';
  import { useWorkplace } from '../state/workplace.svelte';
  import Aside from './Aside.svelte';
  import BodyList from './BodyList.svelte';
  import FirstPart from './FirstPart.svelte';
  import GroupLine from './GroupLine.svelte';
  import KeptList from './KeptList.svelte';
  import { RouteDrag } from './routeDrag.svelte';
  import StepEditor from './StepEditor.svelte';
  import StepLine from './StepLine.svelte';
  import { focused } from './focused';

  const work = useWorkplace();
  const { session, route } = work;
  const editing = $derived(work.editing);
  const stop = $derived(session.part?.stop_after ?? '');
  const counts = $derived.by(() => {
    const count = (s: string) => session.reports.filter((r) => r.state === s).length;
    return { stopped: count('stopped'), held: count('held'), waiting: count('waiting') };
  });
  const told = $derived.by(() => {
    const parts = [`${session.steps.length} ${session.steps.length === 1 ? 'step' : 'steps'}`];
    for (const [s, n] of Object.entries(counts)) if (n) parts.push(`${n} ${s}`);
    const kept = keptIn(session.ledger);
    const amiss = kept.filter((r) => r.kept.outside || ['lost', 'held'].includes(r.kept.state)).length;
    if (amiss) parts.push(`${amiss} ${amiss === 1 ? 'measure' : 'measures'} amiss`);
    // Not before it is known: while a part is opened, or a change is built, nothing is said of it.
    if (parts.length === 1 && session.steps.length && !session.outdated) parts.push('all built');
    return parts.join(', ');
  });
  const newAt = $derived(stop ? session.steps.findIndex((s) => s.id === stop) : session.steps.length - 1);
  const groups = $derived(session.part?.groups ?? []);
  const groupOf = $derived(new Map(groups.flatMap((g) => g.steps.map((s) => [s, g] as const))));
  const sought = $derived(route.filtering ? route.sought.trim().toLowerCase() : '');
  const fits = $derived.by(() => {
    if (!sought) return null;
    const on = new Set<string>();
    const named = session.steps.find((s) => s.name.toLowerCase() === sought.replace(/^on /, ''));
    if (sought.startsWith('on ') && named) route.standingOn([named.id]).forEach((s) => on.add(s));
    return new Set(
      session.steps
        .filter((s) => {
          const title = work.about.kinds.find((k) => k.kind === s.kind)?.title ?? '';
          const tags = session.ledger.filter((r) => r.step === s.id).map((r) => r.tag);
          const note = session.part?.notes?.[s.id] ?? '';
          const words = `${s.name} ${title} ${session.report(s.id)?.state ?? ''} ${tags.join(' ')} ${note}`;
          return on.has(s.id) || words.toLowerCase().includes(sought);
        })
        .map((s) => s.id),
    );
  });
  const hidden = (step: string) =>
    (fits && !fits.has(step)) || (!fits && groupOf.get(step)?.folded && editing?.step !== step);
  const looked = $derived(editing || work.board ? null : session.lookedAt);
  const lookedIndex = $derived(looked === null ? Infinity : session.steps.findIndex((s) => s.id === looked));
  let list = $state<HTMLElement>();
  const drag = new RouteDrag(route, session, () => list);
</script>

{#snippet gap(after: string)}
  {#if drag.over === after}<li
      class="relative z-10 h-0 border-t-2 {drag.why ? 'border-carmine' : 'border-verdigris'}"
      data-testid="drop"
    >
      {#if drag.why}<span class="absolute right-3 -top-3 border border-carmine bg-paper px-1.5 text-[0.75rem]"
          >{drag.why}</span
        >{/if}
    </li>{/if}
{/snippet}

<aside class="flex h-full flex-col border-l border-rule bg-paper" data-testid="route">
  <header class="flex items-baseline justify-between gap-3 border-b-2 border-ink px-4 py-3">
    <h2 class="font-semibold">Route</h2>
    {#if counts.stopped || counts.held}<button
        class="blank truncate text-[0.8125rem]"
        title="Go to the next one that is stopped or held (r e)"
        data-testid="route-state"
        onclick={() => route.nextAmiss()}>{told}</button
      >{:else}<span class="truncate text-[0.8125rem] text-graphite" data-testid="route-state">{told}</span
      >{/if}
  </header>
  {#if route.filtering}
    <div class="flex items-center gap-2 border-b border-rule px-4 py-1.5 text-[0.875rem]">
      <input
        use:focused
        class="min-w-0 flex-1 border-b border-brass bg-transparent py-0.5"
        placeholder="name, kind, state, tag; on Base"
        aria-label="Filter the route"
        bind:value={route.sought}
        onkeydown={(e) => {
          if (e.key === 'Escape') [route.filtering, route.sought] = [false, ''];
          e.stopPropagation();
        }}
      />
      {#if fits}<span class="text-graphite">{fits.size} of {session.steps.length}</span>{/if}
      <button aria-label="End the filter" onclick={() => ([route.filtering, route.sought] = [false, ''])}
        >×</button
      >
    </div>
  {/if}
  {#if looked !== null}
    <div
      class="flex items-baseline gap-3 border-b-2 border-brass bg-wash px-4 py-1 text-[0.84375rem]"
      data-testid="rolled"
    >
      <span class="min-w-0 flex-1 truncate"
        >{looked ? `as it stands after ${route.name(looked)}` : 'before the first step'}</span
      >
      <button class="blank" aria-label="One step back" onclick={() => route.roll(-1)}>back</button>
      <button class="blank" aria-label="One step on" onclick={() => route.roll(1)}>on</button>
      <button class="blank" onclick={() => route.toPresent()}>to the end</button>
    </div>
  {/if}
  {#if route.marked.length}
    <div
      class="flex flex-wrap items-baseline gap-x-3 border-b border-rule bg-wash/50 px-4 py-1 text-[0.84375rem]"
      data-testid="marked"
    >
      <span class="text-graphite">{route.marked.length} marked</span>
      <button class="blank" onclick={() => route.suppress()}>Suppress</button>
      <button class="blank" onclick={() => route.copy()}>Copy</button>
      <button class="blank" onclick={() => route.group()}>Heading</button>
      <button class="blank" onclick={() => route.remove()}>Delete</button>
      <span class="flex-1"></span>
      <button aria-label="Take the marks away" onclick={() => (route.marked = [])}>×</button>
    </div>
  {/if}
  <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
  <ol
    bind:this={list}
    class="min-h-0 flex-1 overflow-y-auto {drag.going ? 'cursor-grabbing select-none' : ''}"
    onpointermove={(e) => drag.move(e)}
    onpointerup={() => drag.drop()}
    onpointercancel={() => drag.end()}
  >
    {#if editing?.meanwhile === 'deleted'}<StepEditor {editing} number={0} />{/if}
    {#if editing && !editing.step && newAt < 0}<StepEditor {editing} number={10} />{/if}
    {@render gap('')}
    {#if route.heading === '*'}<GroupLine group={null} />{/if}
    {#each session.steps as step, i (step.id)}
      {@const group = groupOf.get(step.id)}
      {#if group && group.steps[0] === step.id && !fits}<GroupLine {group} {drag} />{/if}
      {#if !hidden(step.id)}
        {#if editing?.step === step.id}
          <StepEditor {editing} number={route.number(step.id, i)} />
        {:else}
          <StepLine
            {step}
            number={route.number(step.id, i)}
            {drag}
            within={!!group}
            faded={i > lookedIndex}
          />
        {/if}
      {/if}
      {#if editing && !editing.step && i === newAt}<StepEditor {editing} number={route.numberAfter(i)} />{/if}
      {@render gap(step.id)}
      {#if stop === step.id || (!stop && i === session.steps.length - 1 && !editing)}
        <li
          class="relative h-0 border-t-2 {stop ? 'border-carmine' : 'border-transparent'}"
          aria-label="Stop line"
        >
          <button
            class="absolute right-3 z-10 touch-none border bg-paper px-1.5 text-[0.75rem] {stop
              ? '-top-3 border-carmine text-carmine'
              : 'top-1 border-rule text-graphite'} cursor-grab"
            title="Drag it: the part is built up to it, and what is made stands there.{stop
              ? ' Click: build all steps.'
              : ''}"
            data-testid="stop-line"
            onpointerdown={(e) => drag.line(e)}
            onclick={() => !drag.moved && stop && session.try({ do: 'set_stop_line', after: '' })}
            >stop line{stop ? ' ×' : ''}</button
          >
        </li>
      {/if}
    {/each}
    {#if !session.steps.length && !editing}
      <li class="px-4 py-4 text-[0.875rem] text-graphite">No steps yet.</li>
    {:else if fits && !fits.size}
      <li class="px-4 py-4 text-[0.875rem] text-graphite">No step has these words.</li>
    {/if}
  </ol>
  <Aside />
  <FirstPart />
  <KeptList />
  <BodyList />
</aside>
