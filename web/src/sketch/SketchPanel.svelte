<script lang="ts">
  /** The open sketch in words: freedoms, dimensions, constraints. */
  import FirstPart from '../ui/FirstPart.svelte';
  import Aside from '../ui/Aside.svelte';
  import Help from '../ui/Help.svelte';
  import FormulaField from '../ui/FormulaField.svelte';
  import { useWorkplace } from '../state/workplace.svelte';
  import { sayForeseen } from '../state/saying';
  import { movedBy } from './around';
  import type { Board } from './board.svelte';
  import Conflict from './Conflict.svelte';
  import Proposals from './Proposals.svelte';
  import TextRows from './TextRows.svelte';

  let { board }: { board: Board } = $props();
  const work = useWorkplace();
  const view = $derived(board.view);
  /** Whether anything is drawn: curves, points, texts or what was taken in. */
  const drawn = $derived(
    view &&
      [view.drawing.curves, view.drawing.points, view.drawing.texts].some((x) => Object.keys(x ?? {}).length),
  );
  const dimensions = $derived(view?.constraints.filter((c) => c.dimension) ?? []);
  const others = $derived(view?.constraints.filter((c) => !c.dimension && c.kind !== 'coincident') ?? []);
  const takings = $derived(Object.entries(view?.drawing.taken ?? {}));
  const FEW = 4;
  /** The datum plane whose own place the sketch begins at. */
  const through = $derived.by(() => {
    const step = work.session.step(board.step);
    const plane = work.session.step(String((step?.on as { step?: string } | null)?.step ?? ''));
    const told = ['parallel', 'square', 'curve_share', 'curve_length', 'curve_point'];
    return step?.begins === 'place' && !step.at && plane && told.includes(String(plane.how))
      ? plane.name
      : '';
  });
  const groups = $derived(
    [...new Set(others.map((c) => c.kind))].map(
      (kind) => [kind, others.filter((c) => c.kind === kind)] as const,
    ),
  );
  let opened = $state<string[]>([]);
  const joints = $derived((view?.constraints.length ?? 0) - dimensions.length - others.length);
  const SHOWN = 7;
  let all = $state(false);
  let unfolded = $state('');
  const number = $derived(work.session.steps.findIndex((s) => s.id === board.step) * 10 + 10);
  /**
   * What a dimension is called: its tag; its formula where it has none; what it measures where it only tells.
   */
  const called = (c: { reference: boolean; bound: string; tag: string; formula: string }) =>
    c.reference ? c.bound : c.tag || `= ${c.formula}`;
  const sources: Record<string, string> = {
    edge: 'an edge',
    face: 'a face',
    vertex: 'a corner',
    spot: 'a place on an edge',
    datum: 'a datum',
    base: 'a base plane',
    drawn: 'another sketch',
  };
</script>

{#snippet motion(i: number)}
  {@const f = view!.freedoms![i]}
  <li
    class="flex items-start gap-2 text-[0.84375rem]"
    onpointerenter={() => (board.lit = movedBy(board.drawing, f))}
    onpointerleave={() => (board.lit = [])}
  >
    <span class="figures pt-0.5 text-graphite">{i + 1}</span>
    <span class="flex-1">{f.words}</span>
    <button
      class="button !px-2 !py-0 !text-[0.78125rem]"
      aria-pressed={board.moving.playing === i}
      onclick={() => board.moving.play(i)}>show</button
    >
  </li>
{/snippet}

{#snippet more(count: number)}
  <button class="mt-1 text-[0.8125rem] text-graphite hover:text-brass" onclick={() => (all = !all)}
    >{all ? `only the first ${SHOWN}` : `and ${count - SHOWN} more`}</button
  >
{/snippet}

<aside class="flex h-full flex-col border-l border-rule bg-paper" data-testid="sketch-panel">
  <header class="flex items-baseline justify-between border-b-2 border-ink px-4 py-3">
    <h2 class="font-semibold">Sketch: {view?.name ?? ''}</h2>
    <span class="text-[0.8125rem] text-graphite">step {number}</span>
  </header>
  {#if through}<p
      class="border-b border-rule px-4 py-1.5 text-[0.8125rem] text-graphite"
      data-testid="begins"
    >
      Its origin is the place that {through} was set through.
    </p>{/if}
  <div class="min-h-0 flex-1 overflow-y-auto">
    <section class="border-b border-rule px-4 py-3" data-testid="freedoms">
      {#if view?.trouble}
        <p class="font-medium text-carmine">Not solved</p>
        <p class="text-[0.84375rem]">{view.trouble}</p>
      {:else if view && !drawn}
        <p class="font-medium">An empty drawing</p>
        <p class="text-[0.84375rem] text-graphite">
          Draw with <span class="figures text-brass">k l</span> line,
          <span class="figures text-brass">k r</span>
          rectangle, <span class="figures text-brass">k c</span> circle. The other keys appear after
          <span class="figures text-brass">k</span>.
        </p>
      {:else if view && !view.free}
        <p class="font-medium text-verdigris">Fully constrained</p>
      {:else if view}
        <p class="flex items-baseline justify-between">
          <span class="font-medium text-brass"
            >{view.free} {view.free === 1 ? 'freedom' : 'freedoms'} left</span
          ><Help page="sketches" words="how to bind them" />
        </p>
        {#if !view.freedoms}
          <p class="mt-1 text-[0.84375rem] text-graphite" data-testid="freedoms-soon">
            Putting them into words …
          </p>
        {:else if view.groups?.length}
          {#each view.groups as group (group.words)}
            <button
              class="mt-1 flex w-full items-baseline gap-1.5 text-left text-[0.84375rem] hover:text-brass"
              aria-expanded={unfolded === group.words}
              data-testid="freedom-group"
              onclick={() => (unfolded = unfolded === group.words ? '' : group.words)}
              onpointerenter={() =>
                (board.lit = group.of.flatMap((i) => movedBy(board.drawing, view.freedoms![i])))}
              onpointerleave={() => (board.lit = [])}
            >
              <span class="text-graphite">{unfolded === group.words ? '−' : '+'}</span>{group.words}
            </button>
            {#if unfolded === group.words}<ol class="mt-1 space-y-1 pl-3">
                {#each all ? group.of : group.of.slice(0, SHOWN) as i (i)}{@render motion(i)}{/each}
              </ol>
              {#if group.of.length > SHOWN}{@render more(group.of.length)}{/if}{/if}
          {/each}
        {:else}
          <ol class="mt-1 space-y-1">
            {#each all ? view.freedoms : view.freedoms.slice(0, SHOWN) as _, i (i)}{@render motion(i)}{/each}
          </ol>
          {#if view.freedoms.length > SHOWN}{@render more(view.freedoms.length)}{/if}
        {/if}
        {#if !board.binding.proposals}<button
            class="blank mt-2 block text-[0.84375rem]"
            onclick={() => board.binding.propose()}>Constrain the rest …</button
          >{/if}
      {/if}
      {#each view?.notes ?? [] as note (note)}<p
          class="mt-2 border-l-2 border-rule pl-2 text-[0.84375rem] text-graphite"
          data-testid="sketch-note"
        >
          {note}
        </p>{/each}
      <Proposals {board} />
      {#if board.binding.foreseen && board.typing}<p
          class="mt-2 text-[0.84375rem] text-graphite"
          data-testid="board-foreseen"
        >
          {sayForeseen(board.binding.foreseen)}
        </p>{/if}
      {#if board.trouble}<p
          class="mt-2 border-l-2 border-carmine pl-2 text-[0.84375rem] text-carmine"
          role="alert"
          data-testid="board-trouble"
        >
          {board.trouble}
        </p>{/if}
      <Conflict {board} />
    </section>
    <section>
      <h3 class="px-4 pt-3 pb-1 font-medium">Dimensions</h3>
      {#each dimensions as c (c.id)}
        <div
          role="group"
          class="group flex items-center gap-2 border-b border-rule px-4 py-1.5"
          onpointerenter={() => (board.hovered = c.id)}
          onpointerleave={() => (board.hovered = '')}
        >
          <span class="figures min-w-0 flex-1 truncate {c.reference ? 'text-graphite' : ''}" title={c.words}
            >{called(c)}</span
          >
          {#if board.typing === c.id}
            <FormulaField
              formula={c.formula}
              label={c.tag}
              begun={board.binding.begun(c.id)}
              accept={(text) => board.binding.setValue(c.id, text)}
              change={(text) => board.binding.write(c.id, c.tag, text)}
              cancel={() => board.binding.leave()}
              other={() => board.binding.otherWay()}
              fault={board.fault}
            />
          {:else if c.reference}
            <button
              class="figures text-graphite hover:underline"
              title="Only tells its value; click to let it drive"
              onclick={() => board.edit({ op: 'set_reference', constraint: c.id, on: false })}
              >{c.shown}</button
            >
          {:else}
            <button
              class="text-[0.75rem] text-graphite opacity-0 group-hover:opacity-100 focus:opacity-100"
              title="Make it a reference dimension"
              aria-label="Make {called(c)} a reference dimension"
              onclick={() => board.edit({ op: 'set_reference', constraint: c.id, on: true })}>( )</button
            >
            <button
              class="figures blank"
              data-testid="dimension"
              onclick={() => (board.typing = c.id)}
              title={c.formula}>{c.shown}</button
            >
          {/if}
          {#if c.kind === 'offset'}<button
              class="text-[0.75rem] text-graphite hover:text-brass"
              title="Turn it over to the other side"
              aria-label="Turn {called(c)} over"
              onclick={() => board.edit({ op: 'flip_offset', constraint: c.id })}>⇄</button
            >{/if}
          <button
            class="min-h-[24px] min-w-[24px] text-graphite hover:text-carmine"
            aria-label="Remove {called(c)}"
            title="Remove"
            onclick={() => board.edit({ op: 'remove', entities: [c.id] })}>×</button
          >
        </div>
      {:else}
        <p class="px-4 pb-2 text-[0.84375rem] text-graphite">
          None yet. Pick a line, then <span class="figures text-brass">c d</span>.
        </p>
      {/each}
    </section>
    <TextRows {board} />
    {#if takings.length}
      <section data-testid="takings">
        <h3 class="px-4 pt-3 pb-1 font-medium">Taken in from the model</h3>
        {#each takings as [e, t] (e)}
          {@const lost = board.lostTakings.find((r) => r.field === `taken:${e}`)}
          <div
            role="group"
            class="border-b border-rule px-4 py-1.5 text-[0.875rem]"
            onpointerenter={() => (board.hovered = e)}
            onpointerleave={() => (board.hovered = '')}
          >
            <div class="flex items-center gap-3">
              <span class="w-4 text-center {lost ? 'text-carmine' : 'text-verdigris'}">⌁</span>
              <span class="min-w-0 flex-1"
                >{view?.names[e] ?? e}, {lost
                  ? 'lost: it stays where it was'
                  : `${t.manner === 'cut' ? 'cut by' : t.manner === 'outline' ? 'the outline of' : 'of'} ${sources[t.ref.of] ?? 'the model'}`}</span
              >
              <button
                class="min-h-[24px] min-w-[24px] text-graphite hover:text-carmine"
                aria-label="Remove {view?.names[e]}"
                title="Remove"
                onclick={() => board.edit({ op: 'remove', entities: [e] })}>×</button
              >
            </div>
            {#each lost?.candidates.slice(0, 3) ?? [] as c, i (i)}
              <button
                class="blank mt-1 ml-7 block text-left text-[0.8125rem]"
                data-testid="retake"
                onpointerenter={() => work.pointAt(c.ref)}
                onpointerleave={() => work.pointAt(null)}
                onclick={() => board.retake(e, c)}>{c.words}</button
              >
            {/each}
            {#if !lost && board.othersOf(e).length}
              <p class="ml-7 text-[0.8125rem] text-graphite">
                or {#each board.othersOf(e).slice(0, 4) as c, i (i)}{i ? ', ' : ''}<button
                    class="blank"
                    data-testid="other-answer"
                    onclick={() => board.retake(e, c)}>{c.words}</button
                  >{/each}
              </p>
            {/if}
          </div>
        {/each}
      </section>
    {/if}
    <section>
      <h3 class="px-4 pt-3 pb-1 font-medium">
        Constraints <span class="font-normal text-graphite">{others.length}</span>
      </h3>
      {#each groups as [kind, rows] (kind)}
        {#if rows.length > FEW}
          <button
            class="flex w-full items-center gap-3 border-b border-rule px-4 py-1.5 text-left text-[0.875rem] hover:bg-wash"
            aria-expanded={opened.includes(kind)}
            onclick={() =>
              (opened = opened.includes(kind) ? opened.filter((k) => k !== kind) : [...opened, kind])}
          >
            <span class="w-4 text-center">{rows[0].symbol}</span>
            <span class="min-w-0 flex-1">{rows.length} × {rows[0].title}</span>
            <span class="text-graphite">{opened.includes(kind) ? '▾' : '▸'}</span>
          </button>
        {/if}
        {#if rows.length <= FEW || opened.includes(kind)}
          {#each rows as c (c.id)}
            <div
              role="group"
              class="flex items-center gap-3 border-b border-rule px-4 py-1.5 text-[0.875rem] {board.hovered ===
                c.id || board.picked.includes(c.id)
                ? 'bg-wash'
                : ''}"
              onpointerenter={() => (board.hovered = c.id)}
              onpointerleave={() => (board.hovered = '')}
            >
              <span class="w-4 text-center">{c.symbol}</span>
              <span class="min-w-0 flex-1">{c.bound}</span>
              <button
                class="min-h-[24px] min-w-[24px] text-graphite hover:text-carmine"
                aria-label="Remove {c.words}"
                title="Remove"
                onclick={() => board.edit({ op: 'remove', entities: [c.id] })}>×</button
              >
            </div>
          {/each}
        {/if}
      {/each}
      {#if joints}<p class="px-4 py-2 text-[0.84375rem] text-graphite">
          and {joints} joined {joints === 1 ? 'end' : 'ends'}
        </p>{/if}
    </section>
  </div>
  <Aside />
  <FirstPart />
  <footer class="border-t border-rule px-4 py-3">
    <button class="button-strong" onclick={() => work.closeBoard()}>Close sketch</button>
  </footer>
</aside>
