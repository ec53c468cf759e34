<script lang="ts">
  /** What moves what, how far tolerances add up, and aiming a figure at a wish: one figure at a time. */
  import { useWorkplace } from '../state/workplace.svelte';
  import Panel from './Panel.svelte';
  import { saveCsv } from './csv';

  const work = useWorkplace();
  const { session } = work;
  const DEGREE = Math.PI / 180;
  const told = $derived(session.moved);
  const report = $derived(told?.report);
  const running = $derived(report?.state === 'running');
  const figures = $derived(Object.keys(report?.figures ?? {}));
  let chosen = $state('');
  const figure = $derived(figures.includes(chosen) ? chosen : (figures[0] ?? ''));
  const unit = $derived(report?.units?.[figure] ?? '');
  const ranked = $derived(
    (report?.dimensions ?? [])
      .filter((d) => Math.abs(d.per?.[figure] ?? 0) > 1e-9)
      .sort((a, b) => Math.abs(b.per![figure]) - Math.abs(a.per![figure])),
  );
  const most = $derived(Math.max(...ranked.map((d) => Math.abs(d.per![figure])), 1e-12));
  const failing = $derived((report?.dimensions ?? []).filter((d) => d.sides !== 'both'));
  const stack = $derived(told?.stacks?.find((s) => s.figure === figure));
  const old = $derived(!!told && told.version !== session.version && !running);
  const size = (v: number) => (unit === 'rad' ? v / DEGREE : v);
  const named = $derived(unit === 'rad' ? '°' : unit);
  const say = (v: number) => {
    const s = size(v);
    return `${Math.abs(s) >= 1e5 ? s.toFixed(0) : Number(s.toPrecision(5)).toString()} ${named}`;
  };
  const per = (kind: string) => ({ length: 'mm', angle: 'degree', count: 'one' })[kind] ?? 'one';

  let list = $state<HTMLElement>();
  // The heading that was asked for comes into sight; an aim wants its wish.
  $effect(() => {
    if (!stack || !work.movesAt) return;
    list?.querySelector(`[data-heading=${work.movesAt}]`)?.scrollIntoView({ block: 'start' });
    if (work.movesAt === 'aim') list?.querySelector<HTMLElement>('[aria-label=wish]')?.focus();
  });
  let wish = $state('');
  let by = $state('');
  const aim = $derived(session.aimed?.report);
  const aiming = $derived(aim?.state === 'running');
  async function begin() {
    const found = /^\s*([-+]?\d[\d.,]*(?:e[-+]?\d+)?)\s*[^\d]*$/i.exec(wish);
    const number = Number(found?.[1].replace(',', '.'));
    if (!found || !Number.isFinite(number))
      return session.note(`“${wish}” is no figure. Write a number, in ${named || 'the unit shown'}.`, true);
    const tag = by || ranked[0]?.tag;
    if (!tag) return session.note(`No dimension moves ${figure}.`, true);
    const value = unit === 'rad' ? number * DEGREE : number;
    try {
      await session.socket.ask({ type: 'aim', figure, wish: value, tag } as never);
    } catch (error) {
      session.refused(error);
    }
  }
  async function take() {
    if (aim?.formula && (await session.try({ do: 'set_formula', tag: aim.tag, formula: aim.formula })))
      session.noteUndo(`${aim.tag} is ${aim.formula} now.`);
  }
  function csv() {
    saveCsv(`${session.part?.name ?? 'part'} what moves what`, [
      ['dimension', 'per', ...figures],
      ...(report?.dimensions ?? []).map((d) => [
        d.tag,
        per(d.kind),
        ...figures.map((f) => d.per?.[f] ?? null),
      ]),
    ]);
  }
</script>

<Panel
  title="What moves what"
  of={told ? `of v${told.version}` : ''}
  close="Close what moves what"
  onclose={() => (work.movesOpen = false)}
  name="moves"
  width="560px"
>
  {#snippet buttons()}
    {#if running || aiming}<button
        class="button !py-0.5"
        onclick={() => session.socket.say({ type: 'stop_trials' })}>Cancel</button
      >{:else}<button class="button !py-0.5" onclick={() => work.beginMoves()}>Run again</button>{/if}
    {#if report?.state === 'done'}<button class="button !py-0.5" onclick={csv}>CSV</button>{/if}
  {/snippet}
  <div class="min-h-0 flex-1 overflow-y-auto px-4 py-2 text-[0.9375rem]" aria-live="polite" bind:this={list}>
    {#if !report}<p class="text-graphite">Being begun …</p>
    {:else if report.trouble}<p class="text-carmine" role="alert">{report.trouble}</p>
    {:else}
      <p class="flex items-baseline gap-2">
        <label class="flex min-w-0 items-baseline gap-2"
          >figure
          <select
            class="min-w-0 border-b border-brass bg-transparent font-medium"
            aria-label="figure"
            value={figure}
            onchange={(e) => (chosen = e.currentTarget.value)}
          >
            {#each figures as f (f)}<option value={f}>{f}</option>{/each}
          </select></label
        >
        {#if figure}<span class="figures font-semibold" data-testid="figure-now"
            >{say(report.figures![figure])}</span
          >{/if}
        <span class="flex-1"></span>
        <span class="text-[0.8125rem] text-graphite"
          >{report.trials} trials{running ? ' …' : ` in ${Math.round(report.seconds ?? 0)} s`}</span
        >
      </p>
      {#if old}<p class="text-brass">The part has changed since; run it again.</p>{/if}

      <h3 class="mt-3 font-semibold">What moves it</h3>
      {#each ranked as d (d.tag)}
        <p class="flex items-baseline gap-2 border-b border-rule py-1" data-moves={d.tag}>
          <button class="figures w-44 truncate text-left hover:underline" onclick={() => work.showTag(d.tag)}
            >{d.tag}</button
          >
          <span class="relative h-2 w-28 self-center bg-wash"
            ><span
              class="absolute inset-y-0 left-0 {d.per![figure] < 0 ? 'bg-carmine' : 'bg-verdigris'}"
              style:width="{(100 * Math.abs(d.per![figure])) / most}%"
            ></span></span
          >
          <span class="figures flex-1 text-right">{say(d.per![figure])}</span>
          <span class="w-20 text-[0.8125rem] text-graphite">per {per(d.kind)}</span>
        </p>
      {:else}<p class="text-graphite">{running ? 'Being found …' : 'Nothing moves it.'}</p>{/each}
      {#each failing as d (d.tag)}<p class="text-[0.8125rem] text-graphite">
          {d.tag}: {d.sides === 'none' ? 'can not be moved' : `only ${d.sides}wards`}. {d.why}
        </p>{/each}

      {#if stack}
        <h3 class="mt-4 font-semibold" data-heading="tolerances">Tolerances in it</h3>
        <p data-testid="stack">
          Worst case <span class="figures">{say(stack.least)}</span> to
          <span class="figures">{say(stack.most)}</span>; statistically
          <span class="figures">± {say(stack.rss)}</span> (root of the sum of squares).
          {#if stack.bent}<span class="text-carmine"
              >Not linear within these tolerances: take it as a first look.</span
            >{/if}
        </p>
        {#each stack.shares as s (s.tag)}
          <p class="flex items-baseline gap-2 border-b border-rule py-0.5 text-[0.875rem]">
            <span class="figures w-44 truncate">{s.tag}</span>
            <span class="figures flex-1"
              >{s.low === -s.high ? `±${Number(s.high.toPrecision(3))}` : `${s.high}/${s.low}`}
              <span class="text-graphite">{s.of}</span></span
            >
            <span class="figures">± {say(s.adds)}</span>
            <span class="figures w-14 text-right">{Math.round(100 * (s.share ?? 0))} %</span>
          </p>
        {/each}
        <p class="mt-1 text-[0.8125rem] text-graphite">
          Tolerances are laid down in the ledger, under Allowed; else ISO 2768-m holds.
        </p>
      {/if}

      {#if report.state === 'done'}
        <h3 class="mt-4 font-semibold" data-heading="aim">Aim</h3>
        <form
          class="flex flex-wrap items-baseline gap-2"
          onsubmit={(e) => (e.preventDefault(), void begin())}
        >
          bring it to
          <input
            class="figures w-28 border border-brass bg-white px-1 text-right"
            aria-label="wish"
            bind:value={wish}
            onkeydown={(e) => e.key !== 'Escape' && e.stopPropagation()}
          />
          {named} by
          <select
            class="border-b border-brass bg-transparent"
            aria-label="by which dimension"
            value={by || ranked[0]?.tag}
            onchange={(e) => (by = e.currentTarget.value)}
          >
            {#each ranked as d (d.tag)}<option value={d.tag}>{d.tag}</option>{/each}
          </select>
          <button class="button !py-0.5" disabled={aiming}>Aim</button>
        </form>
        {#if aim && aim.figure === figure}
          <p class="mt-1" data-testid="aimed">
            {#if aiming}Looking … {aim.trials} trials
            {:else if aim.trouble}<span class="text-carmine">{aim.trouble}</span>
            {:else if aim.state === 'cancelled'}Cancelled.
            {:else if aim.value === null || aim.value === undefined}
              <span class="text-carmine"
                >No {aim.tag} in its range does it: {figure} goes from {say(aim.least ?? 0)} to {say(
                  aim.most ?? 0,
                )}.</span
              >
            {:else}
              <span class="figures font-medium">{aim.tag} = {aim.formula}</span>
              gives {say(aim.reached ?? 0)}{aim.others?.length
                ? `; ${aim.others.length} more would do it, farther away`
                : ''}.
              <button class="button !py-0" onclick={take}>Take it</button>
            {/if}
          </p>
        {/if}
      {/if}
    {/if}
  </div>
</Panel>
