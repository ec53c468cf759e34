<script lang="ts">
  /** What moves what, how far tolerances add up, and aiming a figure at a wish: one figure at a time. */
  import { useWorkplace } from '../state/workplace.svelte';
  import Panel from './Panel.svelte';
  import type { Cell } from './csv';
  import SaveTable from './SaveTable.svelte';

  const work = useWorkplace();
  const { session, trust } = work;
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
  const kindOf = (tag: string) =>
    [...(report?.dimensions ?? []), ...(report?.made ?? [])].find((d) => d.tag === tag)?.kind === 'angle'
      ? '°'
      : '';
  const general = $derived(session.part?.about?.general ?? 'm');
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
    if (!stack || !trust.movesAt) return;
    list?.querySelector(`[data-heading=${trust.movesAt}]`)?.scrollIntoView({ block: 'start' });
    if (trust.movesAt === 'aim') list?.querySelector<HTMLElement>('[aria-label=wish]')?.focus();
  });
  /** Whether the least wall of each body is a figure. */
  const walls = $derived(figures.some((f) => f.endsWith(': least wall')));
  let wish = $state('');
  /** The dimensions to aim by; none chosen: the one that moves it most. */
  let chosenBy = $state<string[]>([]);
  const by = $derived.by(() => {
    const found = chosenBy.filter((t) => ranked.some((d) => d.tag === t));
    return found.length ? found : ranked.slice(0, 1).map((d) => d.tag);
  });
  const toggle = (tag: string) => (chosenBy = by.includes(tag) ? by.filter((t) => t !== tag) : [...by, tag]);
  /** Read by figure, or by dimension: what a dimension moves. */
  let of = $state('');
  const moving = $derived(report?.dimensions?.find((d) => d.tag === of));
  const movesWhat = $derived(moving ? figures.filter((f) => Math.abs(moving.per?.[f] ?? 0) > 1e-9) : []);
  const unitOf = (f: string) => ((report?.units?.[f] ?? '') === 'rad' ? '°' : (report?.units?.[f] ?? ''));
  const sizeOf = (f: string, v: number) =>
    Number((report?.units?.[f] === 'rad' ? v / DEGREE : v).toPrecision(5)).toString();
  /** A little more and a little less, as far as can be seen. */
  function swing(d: { tag: string; kind: string; now: number }): [string, string] {
    const share = (v: number) => Number(v.toPrecision(6));
    const unit = { length: ' mm', angle: ' deg', count: '' }[d.kind] ?? '';
    if (d.kind === 'count') return [`${d.now}`, `${d.now + 1}`];
    const now = d.kind === 'angle' ? d.now / DEGREE : d.now;
    const by = d.kind === 'angle' ? 5 : Math.max(Math.abs(now) * 0.1, 0.5);
    return [`${share(now + by)}${unit}`, `${share(now - by)}${unit}`];
  }
  const sample = $derived(session.sampled?.report.figure === figure ? session.sampled.report : null);
  const sampling = $derived(sample?.state === 'running');
  const aim = $derived(session.aimed?.report);
  const aiming = $derived(aim?.state === 'running');
  async function begin() {
    const found = /^\s*([-+]?\d[\d.,]*(?:e[-+]?\d+)?)\s*[^\d]*$/i.exec(wish);
    const number = Number(found?.[1].replace(',', '.'));
    if (!found || !Number.isFinite(number))
      return session.note(`“${wish}” is no figure. Write a number, in ${named || 'the unit shown'}.`, true);
    if (!by.length) return session.note(`No dimension moves ${figure}.`, true);
    await trust.aim(figure, unit === 'rad' ? number * DEGREE : number, by);
  }
  async function take() {
    const values = aim?.values ?? {};
    const said = Object.entries(values).map(([t, f]) => `${t} is ${f} now`);
    const why = `Aim ${figure} at ${say(aim!.wish)}`;
    if (await session.try({ do: 'set_formulas', values, why: why.slice(0, 120) } as never))
      session.noteUndo(`${said.join(', ')}.`);
  }
  function table(): Cell[][] {
    return [
      ['dimension', 'per', ...figures],
      ...(report?.dimensions ?? []).map((d) => [
        d.tag,
        per(d.kind),
        ...figures.map((f) => d.per?.[f] ?? null),
      ]),
    ];
  }
</script>

{#snippet path(places: [number, number][], wish: number)}
  {@const xs = places.map((p) => p[0])}
  {@const ys = [...places.map((p) => p[1]), wish]}
  {@const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]}
  {@const at = (p: [number, number]) =>
    `${(300 * (p[0] - x0)) / (x1 - x0 || 1)},${70 - (64 * (p[1] - y0)) / (y1 - y0 || 1)}`}
  <svg class="mt-2 w-full" viewBox="-4 0 308 76" role="img" aria-label="The figure over the range">
    <line
      x1="0"
      x2="300"
      y1={at([0, wish]).split(',')[1]}
      y2={at([0, wish]).split(',')[1]}
      stroke="var(--color-brass)"
      stroke-dasharray="4 3"
    />
    <polyline
      points={places.map(at).join(' ')}
      fill="none"
      stroke="var(--color-verdigris)"
      stroke-width="1.6"
    />
    {#if aim?.value !== null && aim?.value !== undefined}<circle
        cx={at([aim.value, wish]).split(',')[0]}
        cy={at([aim.value, wish]).split(',')[1]}
        r="3.5"
        fill="var(--color-ink)"
      />{/if}
  </svg>
{/snippet}

<Panel
  title="What moves what"
  of={told ? `of v${told.version}` : ''}
  close="Close what moves what"
  onclose={() => trust.close()}
  name="moves"
  width="560px"
>
  {#snippet buttons()}
    {#if running || aiming}<button
        class="button !py-0.5"
        onclick={() => session.socket.say({ type: 'stop_trials' })}>Cancel</button
      >{:else}<button class="button !py-0.5" onclick={() => trust.beginMoves(walls)}>Run again</button>{/if}
    {#if report?.state === 'done'}<SaveTable name="what moves what" rows={table} />{/if}
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
      {#if report.state === 'done' && !walls}<p>
          <button class="text-[0.875rem] text-brass underline" onclick={() => trust.beginMoves(true)}
            >Tell least walls too</button
          >
        </p>{/if}
      {#if old}<p class="text-brass">The part has changed since; run it again.</p>{/if}

      {#if moving}
        <div class="mt-2 border border-brass px-3 py-2" data-testid="moves-what">
          <p class="flex items-baseline gap-2">
            <span class="flex-1 font-semibold">What <span class="figures">{moving.tag}</span> moves</span>
            <button class="button !py-0" onclick={() => work.showTag(moving!.tag)}>In the ledger</button>
            <button aria-label="Close what {moving.tag} moves" onclick={() => (of = '')}>×</button>
          </p>
          {#each movesWhat as f (f)}<p class="flex gap-2 text-[0.875rem]">
              <button class="flex-1 text-left hover:underline" onclick={() => (chosen = f)}>{f}</button>
              <span class="figures">{sizeOf(f, moving!.per![f])} {unitOf(f)}</span>
              <span class="w-20 text-graphite">per {per(moving!.kind)}</span>
            </p>{:else}<p class="text-graphite">It moves no figure.</p>{/each}
        </div>
      {/if}
      <h3 class="mt-3 font-semibold">What moves it</h3>
      {#each ranked as d (d.tag)}
        <p class="flex items-baseline gap-2 border-b border-rule py-1" data-moves={d.tag}>
          <button
            class="w-5 text-brass"
            aria-label="Play how it moves with {d.tag}"
            title="Play how it moves with {d.tag}"
            aria-pressed={trust.playing === d.tag}
            onclick={() => (trust.playing === d.tag ? trust.stopPlaying() : trust.play(d.tag, swing(d)))}
            >{trust.playing === d.tag ? '■' : '▶'}</button
          >
          <button
            class="figures w-44 truncate text-left hover:underline"
            title="What {d.tag} moves"
            onclick={() => (of = d.tag)}>{d.tag}</button
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
              >{s.low === -s.high ? `±${Number(s.high.toPrecision(3))}` : `${s.high}/${s.low}`}{kindOf(s.tag)}
              <span class={s.of ? 'text-graphite' : 'text-carmine'}
                >{s.of || `ISO 2768-${general} has none: lay one down`}{s.made ? ', a formula' : ''}</span
              ></span
            >
            <span class="figures">± {say(s.adds)}</span>
            <span class="figures w-14 text-right">{Math.round(100 * (s.share ?? 0))} %</span>
          </p>
        {/each}
        <p class="mt-2">
          {#if sampling}<button class="button !py-0.5" onclick={() => trust.cancel()}>Cancel</button>
            <span class="text-graphite">{sample!.sets} of {sample!.wanted} sets built …</span>
          {:else}<button class="button !py-0.5" onclick={() => trust.sample(figure)}
              >Build 2,000 sets by chance</button
            >{/if}
        </p>
        {#if sample?.trouble}<p class="text-carmine">{sample.trouble}</p>
        {:else if sample?.sets}
          <div class="mt-1" data-testid="sampled">
            <p>
              {sample.sets} sets: 99.73 % lie from <span class="figures">{say(sample.low!)}</span> to
              <span class="figures">{say(sample.high!)}</span>, mean
              <span class="figures">{say(sample.mean!)}</span>.
              {#if sample.failed}<span class="text-carmine">{sample.failed} do not hold as a part.</span>{/if}
              {#if sample.outside}<span class="text-carmine"
                  >{sample.outside} leave what a kept measure may be.</span
                >{/if}
              {#if sample.state === 'cancelled'}Cancelled.{/if}
            </p>
            {#if sample.bars?.length}{@const top = Math.max(...sample.bars)}
              <div
                class="mt-1 flex h-12 items-end gap-px border-b border-ink"
                role="img"
                aria-label="How often"
              >
                {#each sample.bars as n, i (i)}<span
                    class="flex-1 bg-verdigris"
                    style:height="{(100 * n) / top}%"
                  ></span>{/each}
              </div>
              <p class="figures flex justify-between text-[0.75rem] text-graphite">
                <span>{say(sample.least!)}</span><span>{say(sample.most!)}</span>
              </p>{/if}
          </div>
        {/if}
        <p class="mt-1 text-[0.8125rem] text-graphite">
          Tolerances are laid down in the ledger, under Allowed, also for formulas; else
          <button class="text-brass underline" onclick={() => (work.route.aboutOpen = true)}
            >ISO 2768-{general}</button
          >
          holds.
        </p>
        {#if stack.untold?.length}<p class="text-[0.8125rem] text-carmine">
            Not in it, for it can not be moved: {stack.untold.join(', ')}.
          </p>{/if}
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
            onkeydown={(e) => (e.key === 'Escape' ? e.currentTarget.blur() : e.stopPropagation())}
          />
          {named} by
          <button class="button !py-0.5" disabled={aiming}>Aim</button>
        </form>
        <p class="mt-1 flex flex-wrap gap-1" role="group" aria-label="by which dimensions">
          {#each ranked as d (d.tag)}<button
              class="figures border px-1.5 text-[0.8125rem] {by.includes(d.tag)
                ? 'border-ink bg-ink text-paper'
                : 'border-rule'}"
              aria-pressed={by.includes(d.tag)}
              onclick={() => toggle(d.tag)}>{d.tag}</button
            >{/each}
        </p>
        {#if by.length > 1}<p class="text-[0.8125rem] text-graphite">
            Together they change as little as they can, each as a share of itself.
          </p>{/if}
        {#if aim && aim.figure === figure}
          <p class="mt-1" data-testid="aimed">
            {#if aiming}Looking … {aim.trials} trials
            {:else if aim.trouble}<span class="text-carmine">{aim.trouble}</span>
            {:else if aim.state === 'cancelled'}Cancelled.
            {:else if !Object.keys(aim.values ?? {}).length}
              <span class="text-carmine"
                >{aim.tags.length > 1
                  ? 'No values in their ranges do'
                  : `No ${aim.tags[0]} in its range does`} it:
                {figure} was seen from {say(aim.least ?? 0)} to {say(aim.most ?? 0)}.</span
              >
            {:else}
              <span class="figures font-medium"
                >{Object.entries(aim.values ?? {})
                  .map(([t, f]) => `${t} = ${f}`)
                  .join(', ')}</span
              >
              gives {say(aim.reached ?? 0)}{aim.others?.length
                ? `; ${aim.others.length} more would do it, farther away`
                : ''}.
              <button class="button !py-0" onclick={take}>Take it</button>
              <button
                class="button !py-0"
                onclick={() =>
                  trust.tryOn({ values: aim!.values ?? {}, title: `${figure} at ${say(aim!.wish)}` })}
                >See it</button
              >
            {/if}
          </p>
          {#if (aim.path?.length ?? 0) > 2}{@render path(aim.path!, aim.wish)}{/if}
        {/if}
      {/if}
    {/if}
  </div>
</Panel>
