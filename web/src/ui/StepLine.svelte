<script lang="ts">
  /** One step as a sentence, with its state, and what can be done with it. */
  import { Refusal, type Step } from '../api/types';
  import { deedsOfStep } from '../state/deeds';
  import { saidOf, sayForeseen, sayHeld } from '../state/saying';
  import { useWorkplace } from '../state/workplace.svelte';
  import Help from './Help.svelte';
  import { markOf } from './marks';
  import Note from './Note.svelte';
  import type { RouteDrag } from './routeDrag.svelte';
  import { bare, quiet, sentence, variantOf, tailed } from './sentence';
  import DeedsMenu from './DeedsMenu.svelte';
  import { focused } from './focused';
  import SinceGood from './SinceGood.svelte';

  let {
    step,
    number,
    drag,
    within = false,
    faded = false,
  }: { step: Step; number: number; drag: RouteDrag; within?: boolean; faded?: boolean } = $props();
  const work = useWorkplace();
  const { session, route } = work;
  const marked = $derived(route.marked.includes(step.id));
  const note = $derived(session.part?.notes?.[step.id] ?? '');
  const kind = $derived(work.about.kinds.find((k) => k.kind === step.kind)!);
  const report = $derived(session.report(step.id));
  const waits = $derived(report?.state === 'waiting');
  const said = $derived(saidOf(step, session));
  const tokens = $derived(tailed(quiet(sentence(variantOf(kind, step), step), step)));
  const lostOnes = $derived(
    report?.references.filter((r) => r.state === 'lost' && r.candidates.length) ?? [],
  );
  const relation = $derived(work.relation(step.id));
  const isActive = $derived(step.kind === 'system' && session.part?.active_system === step.id);
  const lost = $derived(report?.references.filter((r) => r.state === 're-found') ?? []);
  const isSketch = $derived(kind.makes === 'sketch');

  function value(name: string): string {
    const held = step[name] as { formula: string; tag: string };
    const row = session.ledger.find((r) => r.step === step.id && r.place === name);
    return row?.shown || held.formula;
  }
  function formula(name: string): string {
    const held = step[name] as { formula: string; tag: string };
    return `${held.tag} = ${held.formula}`;
  }
  /** While what it makes is wanted by the step under edit, a click here gives it. */
  const giving = $derived(work.gives(step));
  const open = () => {
    if (giving) return work.pick(giving, false);
    if (isSketch) work.openBoard(step.id);
    else work.edit(step);
  };
  const edit = (number = '') => work.edit(step, number);

  /** Store what a re-found reference found, so that it is sound from now on. */
  async function confirm() {
    const fields: Record<string, unknown> = {};
    for (const r of lost) {
      const held = step[r.field];
      const all = report!.references.filter((x) => x.field === r.field);
      fields[r.field] = Array.isArray(held)
        ? held.map((h, i) => all.find((x) => x.item === i)?.now ?? h)
        : r.now;
    }
    await session.try({ do: 'edit_step', step: step.id, fields });
  }
  /** Picks that find nothing any more, where the others of their field are built without them. */
  const without = $derived(
    report?.state === 'held'
      ? report.references.filter((r) => r.state === 'lost' && Array.isArray(step[r.field]))
      : [],
  );
  async function leaveOut() {
    const fields: Record<string, unknown> = {};
    for (const field of new Set(without.map((r) => r.field))) {
      fields[field] = (step[field] as unknown[]).filter(
        (_, i) => !without.some((r) => r.field === field && r.item === i),
      );
    }
    await session.try({ do: 'edit_step', step: step.id, fields });
  }
  /** The stored reference of a field, the first where there are several. */
  const held = (field: string) =>
    ((Array.isArray(step[field]) ? (step[field] as unknown[])[0] : step[field]) ?? null) as Record<
      string,
      unknown
    > | null;

  type Chosen = { ref: Record<string, unknown>; answer?: Record<string, unknown> | null };
  /** The edit that stores a candidate in place of a lost reference, the others of its field untouched. */
  function repicked(field: string, item: number, { ref, answer }: Chosen) {
    if (field.startsWith('taken:')) {
      const entity = field.slice('taken:'.length);
      return { do: 'edit_sketch', step: step.id, edit: { op: 'retake', entity, ref, answer } };
    }
    const now = step[field];
    const fresh = Array.isArray(now)
      ? now.map((h, i) =>
          i === item ? { ...ref, ...('key' in (h as object) && { key: (h as { key: string }).key }) } : h,
        )
      : ref;
    return { do: 'edit_step', step: step.id, fields: { [field]: fresh } };
  }
  async function repick(field: string, item: number, chosen: Chosen) {
    look(null);
    await session.try(repicked(field, item, chosen) as never);
  }
  /** What taking the candidate that is pointed at would do, told beforehand. */
  let foreseen = $state('');
  let looked = 0;
  function look(at: { field: string; item?: number } | null, chosen?: Chosen) {
    const number = ++looked;
    foreseen = '';
    work.pointAt(chosen?.ref ?? null, at && held(at.field));
    if (!at || !chosen) return;
    const command = repicked(at.field, at.item ?? 0, chosen);
    const told = (words: string) => number === looked && (foreseen = words);
    session.socket
      .ask({ type: 'foresee', command } as never)
      .then((answer) => {
        if (answer.type !== 'foreseen') return;
        const own = answer.steps.find((s) => s.id === step.id);
        const amiss = own && own.state !== 'built' ? `It would still be ${own.state}: ${own.message} ` : '';
        told(amiss + sayForeseen(answer, step.id));
      })
      .catch((error: unknown) => told(error instanceof Refusal ? error.message : ''));
  }
  const mark = $derived(markOf(report?.state));
  const items = $derived(deedsOfStep(work, step));
</script>

<li
  class="group border-b border-l-4 border-b-rule {relation === 'under'
    ? 'border-l-brass'
    : relation === 'over'
      ? 'border-l-verdigris'
      : 'border-l-transparent'} {waits || faded ? 'opacity-45' : ''}"
  data-testid="step"
  data-step={step.id}
  data-name={step.name}
  data-state={report?.state ?? ''}
  data-relation={relation}
  data-marked={marked}
  class:bg-wash={giving || marked}
>
  <div class="flex items-start gap-2 py-1.5 pr-3 {within ? 'pl-5' : 'pl-3'}">
    <button
      class="figures w-7 cursor-grab touch-none pt-0.5 text-right text-graphite hover:text-brass {marked
        ? 'font-bold !text-brass'
        : ''}"
      title="What {step.name} stands on (brass) and what stands on it (green). Click: mark it; drag: move it"
      aria-label="{number}: show what {step.name} stands on"
      aria-pressed={marked}
      onpointerdown={(e) => drag.steps(e, step.id)}
      onclick={(e) => !drag.moved && route.mark(step.id, e.shiftKey)}
      onpointerenter={() => ((work.related = step.id), route.hover(step.id))}
      onpointerleave={() => ((work.related = ''), route.hover(''))}
      onfocus={() => (work.related = step.id)}
      onblur={() => (work.related = '')}>{number}</button
    >
    <p class="min-w-0 flex-1 cursor-pointer leading-snug" role="presentation" ondblclick={open}>
      {#each tokens as token, i (i)}
        {#if typeof token === 'string'}<span>{token}</span>{:else}<span class="whitespace-pre-wrap"
            >{token.before}</span
          >{/if}{#if typeof token !== 'string'}<span class="whitespace-nowrap *:whitespace-normal"
            >{#if token.blank.kind === 'name'}<button class="font-semibold hover:underline" onclick={open}
                >{step.name}</button
              >
            {:else if token.blank.kind === 'number'}<button
                class="figures blank"
                title={formula(token.name)}
                onclick={() => edit(token.name)}>{value(token.name)}</button
              >
            {:else if token.blank.kind === 'choice'}<button class="blank" onclick={() => edit()}
                >{bare(token.blank.words?.[String(step[token.name])])}</button
              >
            {:else if token.blank.kind === 'words'}<span>{step[token.name]}</span>
            {:else if token.blank.kind === 'dots'}<span
                >, leaving out {(step[token.name] as string[]).join(', ')}</span
              >
            {:else if token.blank.kind === 'pick'}<button class="blank" onclick={() => edit()}
                >{sayHeld(token.blank, step[token.name], session, said)}</button
              >{/if}{token.tail ?? ''}</span
          >{/if}{#if typeof token !== 'string' && token.after}<span>{token.after}</span>{/if}
      {/each}
      {#if isActive}<span class="ml-1 border border-ink px-1 text-[0.75rem]">active</span>{/if}
    </p>
    <DeedsMenu label="What to do with {step.name}" deeds={items} keeps={() => route.noting === step.id} />
    <span
      class="w-3 shrink-0 pt-0.5 text-center text-[0.8125rem] leading-snug {mark[1]}"
      role="img"
      aria-label={report?.state ?? 'waiting'}
      title={report?.state ?? 'waiting'}>{mark[0]}</span
    >
  </div>
  {#if route.noting === step.id}
    <textarea
      use:focused
      class="mb-2 ml-13 w-[calc(100%-4.25rem)] border border-brass bg-white px-1 text-[0.84375rem]"
      value={note}
      maxlength="2000"
      aria-label="Note on {step.name}"
      onblur={(e) => route.noting === step.id && route.note(step.id, e.currentTarget.value)}
      onkeydown={(e) => {
        e.stopPropagation();
        if (e.key === 'Enter' && !e.shiftKey) void route.note(step.id, e.currentTarget.value);
        if (e.key === 'Escape') route.noting = '';
      }}></textarea>
  {:else if note}
    <p class="mr-3 mb-2 ml-13 text-[0.8125rem] whitespace-pre-line text-graphite" data-testid="step-note">
      <button class="text-left hover:underline" onclick={() => (route.noting = step.id)}>{note}</button>
    </p>
  {/if}
  {#if report?.upon && report.state === 'built'}
    <p class="mr-3 mb-2 ml-13 text-[0.8125rem] text-graphite">
      Stands on “{report.upon}”, which is to be confirmed.
    </p>
  {/if}
  {#if report && (report.state === 'stopped' || report.state === 'held' || report.message) && !waits}
    <div
      class="mr-3 mb-2 ml-13 border-l-2 pl-2 text-[0.84375rem] {report.state === 'stopped'
        ? 'border-carmine text-carmine'
        : 'border-brass'}"
      data-testid="step-message"
    >
      <p>{report.state === 'stopped' ? 'Stopped: ' : ''}<Note text={report.message} /></p>
      <p class="mt-1 flex flex-wrap gap-x-3 gap-y-1 text-ink">
        {#if without.length}<button class="blank" onclick={leaveOut}
            >Leave {without.length > 1 ? 'them' : 'it'} out</button
          >{/if}
        {#if report.state === 'held' && (lost.length || !without.length)}<button
            class="blank"
            onpointerenter={() => work.pointAt(lost[0]?.now ?? null, held(lost[0]?.field))}
            onpointerleave={() => work.pointAt(null)}
            onclick={confirm}>Confirm</button
          >{/if}
        {#if report.state !== 'built'}<button class="blank" onclick={() => edit()}>Pick again</button>{/if}
        {#if report.state === 'stopped'}<button class="blank" onclick={() => route.suppress([step.id])}
            >Suppress</button
          >{/if}
        {#each lostOnes as lost (`${lost.field} ${lost.item}`)}
          <span class="block w-full text-graphite">Perhaps:</span>
          {#each lost.candidates.slice(0, 3) as c, i (i)}
            <button
              class="blank text-left"
              data-testid="candidate"
              onpointerenter={() => look(lost, c)}
              onpointerleave={() => look(null)}
              onfocus={() => look(lost, c)}
              onblur={() => look(null)}
              onclick={() => repick(lost.field, lost.item ?? 0, c)}>{c.words}</button
            >
          {/each}
          {#if foreseen}<span class="block w-full text-graphite" data-testid="repick-foreseen"
              >{foreseen}</span
            >{/if}
        {/each}
        {#if report.state === 'stopped' && /try again/i.test(report.message)}<button
            class="blank"
            onclick={() => session.socket.say({ type: 'retry' })}>Try again</button
          >{/if}
        {#if report.state === 'stopped'}<SinceGood {step} />{/if}
        {#if report.state !== 'built'}<Help page="lost" words="what this means" />{/if}
      </p>
    </div>
  {/if}
</li>
