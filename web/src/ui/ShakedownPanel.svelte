<script lang="ts">
  /** The shakedown: how far every dimension may go, what ends it and why, and which sets do not hold. */
  import type { DimensionFound } from '../api/types';
  import { useWorkplace } from '../state/workplace.svelte';
  import Panel from './Panel.svelte';
  import type { Cell } from './csv';
  import SaveTable from './SaveTable.svelte';

  const work = useWorkplace();
  const { session, trust } = work;
  const DEGREE = Math.PI / 180;
  const told = $derived(session.shaken);
  const report = $derived(told?.report);
  const running = $derived(!report || report.state === 'running');
  const rows = $derived(
    (told?.order ?? []).flatMap((tag) => report!.dimensions?.filter((d) => d.tag === tag) ?? []),
  );
  const known = $derived(rows.filter((d) => d.done));
  const holding = $derived(known.filter(holds).length);
  const old = $derived(!!told && told.version !== session.version && !running);

  function holds(d: DimensionFound): boolean {
    return !!d.done && d.ranges?.length === 1 && !d.low_end && !d.high_end;
  }
  const fits = (d: DimensionFound) => d.ranges?.find(([a, b]) => a <= d.now && d.now <= b);
  const percent = (d: DimensionFound, v: number) => (100 * (v - d.low)) / (d.high - d.low || 1);
  const figure = (v: number) => Number(v.toPrecision(4)).toString();
  const shown = (d: DimensionFound, v: number) =>
    d.kind === 'angle' ? `${figure(v / DEGREE)}°` : `${figure(v)}${d.unit ? ` ${d.unit}` : ''}`;
  const formula = (d: DimensionFound, v: number) =>
    d.kind === 'angle' ? `${Number((v / DEGREE).toPrecision(6))} deg` : `${figure(v)} ${d.unit}`.trim();
  /** A limit that is sure to lie within what holds: rounded inwards. */
  function inward(d: DimensionFound, v: number, way: 1 | -1): string {
    const size = d.kind === 'angle' ? DEGREE : 1;
    const step = 10 ** (Math.floor(Math.log10(Math.max((d.high - d.low) / size, 1e-9))) - 2);
    const rounded = (way > 0 ? Math.ceil(v / size / step) : Math.floor(v / size / step)) * step;
    return formula(d, rounded * size);
  }
  async function limit(d: DimensionFound) {
    const range = fits(d);
    const row = session.ledger.find((r) => r.tag === d.tag);
    if (!range || !row) return;
    const { note, values, tolerance } = row;
    const least = d.low_end ? inward(d, range[0], 1) : row.least;
    const most = d.high_end ? inward(d, range[1], -1) : row.most;
    if (await session.try({ do: 'set_remark', tag: d.tag, note, values, tolerance, least, most }))
      session.noteUndo(`${d.tag} may be ${least || '…'} to ${most || '…'} now.`);
  }
  function table(): Cell[][] {
    return [
      ['tag', 'unit', 'now', 'usable_from', 'usable_to', 'looked_from', 'looked_to', 'what_ends_it'],
      ...rows.map((d) => {
        const [a, b] = fits(d) ?? [null, null];
        return [d.tag, d.unit, d.now, a, b, d.low, d.high, told!.said[d.tag] ?? ''];
      }),
    ];
  }
  /** See what ends a range, and from there the last that holds. */
  function show(d: DimensionFound, end: NonNullable<DimensionFound['low_end']>) {
    const exact = (v: number) => Number((d.kind === 'angle' ? v / DEGREE : v).toPrecision(9));
    const unit = d.kind === 'angle' ? 'deg' : d.unit;
    const values = (v: number) => ({ [d.tag]: `${exact(v)} ${unit}`.trim() });
    // Just at the end things often only touch: what is seen lies a little beyond.
    const far = end.beyond + Math.sign(end.beyond - end.at) * 0.02 * (d.high - d.low);
    const within = far >= d.low && far <= d.high && d.kind !== 'count';
    const at = within ? far : end.beyond;
    void trust.tryOn({ values: values(at), title: `${d.tag} = ${shown(d, at)}`, good: values(end.at) });
  }
  async function put(a: { words: string; command: object }) {
    if (await session.try(a.command as never)) session.noteUndo(`Done: ${a.words}. Run it again to see.`);
  }
  /** Sets that fail in the same way, the commonest first, with the fewest values that do it. */
  const groups = $derived.by(() => {
    const found = new Map<
      string,
      { name: string; why: string; count: number; few: Record<string, string> | null }
    >();
    for (const s of report?.failed ?? []) {
      const key = `${s.name} ${s.why}`;
      const g = found.get(key) ?? { name: s.name ?? '', why: s.why, count: 0, few: null };
      const size = Object.keys(s.tags ?? {}).length;
      g.count++;
      if (size && size <= 4 && (!g.few || size < Object.keys(g.few).length)) g.few = s.tags ?? null;
      found.set(key, g);
    }
    return [...found.values()].sort((a, b) => b.count - a.count);
  });
  /** The steps that end a dimension's range. */
  const endsOf = (d: DimensionFound) =>
    [...new Set([d.low_end?.step, d.high_end?.step])].flatMap((id) => session.step(id ?? '') ?? []);
</script>

<Panel
  title="Shakedown"
  of={told ? `of v${told.version}${told.since ? `, against v${told.since.version}` : ''}` : ''}
  close="Close the shakedown"
  onclose={() => trust.close()}
  name="shakedown"
  width="640px"
>
  {#snippet buttons()}
    {#if running}<button class="button !py-0.5" onclick={() => session.socket.say({ type: 'stop_trials' })}
        >Cancel</button
      >
    {:else}<button class="button !py-0.5" onclick={() => trust.beginShakedown()}>Run again</button>{/if}
    {#if report?.state === 'done'}
      <a
        class="button !py-0.5"
        href="/api/parts/{session.id}/shakedown.html?version={session.past}"
        target="_blank">HTML</a
      >
      <SaveTable name="shakedown" rows={table} />
      <a
        class="button !py-0.5"
        href="/api/parts/{session.id}/shakedown.json?version={session.past}"
        target="_blank">JSON</a
      >
    {/if}
  {/snippet}
  {#if report}
    <div class="border-b border-rule px-4 py-2 text-[0.9375rem]" aria-live="polite" data-testid="shaken">
      {#if report.trouble}<p class="text-carmine" role="alert">{report.trouble}</p>
      {:else}
        <p>
          <strong
            >{rows.length} dimensions, {report.trials} trials in {Math.round(report.seconds ?? 0)} s{running
              ? ' …'
              : '.'}</strong
          >
          {#if known.length}{holding} of {known.length} hold over their whole range.{/if}
          {#if report.sets_wanted}{report.sets} of {report.sets_wanted} sets by chance (seed {report.seed}){report
              .failed?.length
              ? `, ${report.failed.length} do not hold`
              : ''}.{/if}
          {#if report.state === 'cancelled'}Cancelled.{/if}
          {#if report.advice?.length}<button
              class="text-brass underline"
              onclick={() => document.querySelector('[data-testid=advice]')?.scrollIntoView()}
              >What would help: {report.advice.length}</button
            >{/if}
        </p>
        {#if told?.since}<p class="text-graphite">
            Since v{told.since.version}:
            <span class="text-verdigris">{told.since.sturdier.join(', ') || 'none'} sturdier</span>,
            <span class={told.since.weaker.length ? 'text-carmine' : ''}
              >{told.since.weaker.join(', ') || 'none'} weaker</span
            >.
          </p>{/if}
        {#if old}<p class="text-brass">The part has changed since; run it again.</p>{/if}
      {/if}
      <p class="mt-1 flex flex-wrap items-baseline gap-x-3 text-[0.8125rem] text-graphite">
        A failure too:
        <label
          >walls under <input
            class="figures w-14 border-b border-rule bg-transparent text-right"
            aria-label="least wall"
            bind:value={trust.limits.wall}
            onkeydown={(e) => (e.key === 'Escape' ? e.currentTarget.blur() : e.stopPropagation())}
          /> mm</label
        >
        <label
          >more than <input
            class="figures w-16 border-b border-rule bg-transparent text-right"
            aria-label="greatest mass"
            bind:value={trust.limits.mass}
            onkeydown={(e) => (e.key === 'Escape' ? e.currentTarget.blur() : e.stopPropagation())}
          /> g in all</label
        >
        (from the next run on)
      </p>
    </div>
    <div class="min-h-0 flex-1 overflow-y-auto">
      <table class="w-full table-fixed text-left text-[0.875rem]">
        <colgroup
          >{#each [25, 11, 25, 39] as w, i (i)}<col style:width="{w}%" />{/each}</colgroup
        >
        <thead class="sticky top-0 z-10 bg-paper text-[0.8125rem] text-graphite">
          <tr
            >{#each ['Dimension', 'now', 'usable range', 'what ends it'] as h (h)}<th
                class="px-4 py-1 font-normal">{h}</th
              >{/each}</tr
          >
        </thead>
        <tbody>
          {#each rows as d (d.tag)}
            {@const range = fits(d)}
            <tr class="border-t border-rule align-top hover:bg-wash/50" data-shaken={d.tag}>
              <td class="px-4 py-1.5"
                ><button
                  class="figures max-w-full truncate text-left hover:underline"
                  title="Show {d.tag} in the ledger"
                  onclick={() => work.showTag(d.tag)}>{d.tag}</button
                ></td
              >
              <td class="figures px-4 py-1.5 whitespace-nowrap">{shown(d, d.now)}</td>
              <td class="px-4 py-2">
                <div
                  class="relative h-2.5 bg-[repeating-linear-gradient(115deg,transparent_0_3px,var(--color-carmine)_3px_4px)]"
                  role="img"
                  aria-label="holds {(d.ranges ?? [])
                    .map(([a, b]) => `from ${shown(d, a)} to ${shown(d, b)}`)
                    .join(' and ')}"
                >
                  {#if !d.done}<span class="absolute inset-0 bg-wash"></span>{/if}
                  {#each d.ranges ?? [] as [a, b] (a)}<span
                      class="absolute inset-y-0 bg-verdigris"
                      style:left="{percent(d, a)}%"
                      style:width="{Math.max(percent(d, b) - percent(d, a), 0.8)}%"
                    ></span>{/each}
                  <span class="absolute -inset-y-1 w-0.5 bg-ink" style:left="{percent(d, d.now)}%"></span>
                </div>
                <p class="figures mt-0.5 flex justify-between text-[0.75rem] text-graphite">
                  <span>{shown(d, d.low)}</span><span>{shown(d, d.high)}</span>
                </p>
              </td>
              <td class="px-4 py-1.5 leading-snug">
                {#if !d.done}<span class="text-graphite">being tried …</span>
                {:else if holds(d)}<span class="text-graphite">holds throughout; not looked further</span>
                {:else}
                  {told!.said[d.tag]}
                  {#each endsOf(d) as s (s.id)}<button
                      class="block text-[0.8125rem] text-brass underline"
                      onclick={() => (trust.close(), work.edit(s))}>Edit {s.name}</button
                    >{/each}
                  {#each [d.low_end, d.high_end] as end (end)}{#if end && !running}<button
                        class="button mt-1 mr-1 !py-0 text-[0.8125rem]"
                        onclick={() => show(d, end)}>See {shown(d, end.beyond)}</button
                      >{/if}{/each}
                  {#if range && range[1] > range[0] && !running}<button
                      class="button mt-1 !py-0 text-[0.8125rem]"
                      onclick={() => limit(d)}>Set the limit</button
                    >{/if}
                {/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
      {#if report.advice?.length}
        <h3 class="px-4 pt-3 font-semibold">What would help</h3>
        <ul class="px-4 text-[0.875rem]" data-testid="advice">
          {#each report.advice as a (a.of + a.words)}
            <li class="flex items-baseline gap-3 border-b border-rule py-1.5">
              <span class="min-w-0 flex-1"
                ><em>{a.of}</em>: {a.words}.
                <span class="text-verdigris"
                  >{a.survived} of {a.tried}
                  {a.step ? 'that failed hold then' : 'that failed are refused at once'}.</span
                ></span
              >
              {#if !running}<button class="button !py-0.5" disabled={old} onclick={() => put(a)}
                  >{a.step ? 'Put it in' : 'Set the limit'}</button
                >{/if}
            </li>
          {/each}
        </ul>
      {/if}
      {#if report.failed?.length}
        <h3 class="px-4 pt-3 font-semibold">Sets by chance that do not hold</h3>
        <ul class="px-4 pb-3 text-[0.875rem]" data-testid="failed-sets">
          {#each groups as g (g.name + g.why)}
            <li class="border-b border-rule py-1.5">
              <span class="text-carmine">{g.count === 1 ? '1 set' : `${g.count} sets`}:</span>
              {g.name ? `${g.name}: ` : ''}{g.why}
              {#if g.few && !running}<button
                  class="button !py-0 text-[0.8125rem]"
                  onclick={() =>
                    trust.tryOn({
                      values: g.few!,
                      title: g.count === 1 ? 'A set that fails' : 'One of them',
                    })}>See it</button
                >{/if}
              {#if g.few}<span class="figures block text-graphite"
                  >such as {Object.entries(g.few)
                    .map(([t, f]) => `${t} = ${f}`)
                    .join(', ')}</span
                >{/if}
            </li>
          {/each}
        </ul>
      {/if}
    </div>
  {:else}<p class="px-4 py-3 text-graphite">Being begun …</p>{/if}
</Panel>
