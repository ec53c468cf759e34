<script lang="ts">
  /** The drawing's pages, and what stands on the open one: views, what is picked, what is lost, what changed. */
  import { focused } from '../ui/focused';
  import { useWorkplace } from '../state/workplace.svelte';
  import { SCALES, KINDS, WAYS } from './drawing.svelte';
  import MarkFields from './MarkFields.svelte';
  import { choosing } from '../ui/choosing';

  const work = useWorkplace();
  const { session, drawing } = work;
  const page = $derived(drawing.page);
  const picked = $derived(drawing.chosen.length === 1 ? drawing.chosen[0] : '');
  const view = $derived(page?.views?.find((v) => v.id === picked));
  const dimension = $derived(page?.dimensions?.find((d) => d.id === picked));
  const mark = $derived(page?.marks?.find((m) => m.id === picked));
  const item = $derived(picked ? drawing.item(picked) : undefined);
  const amiss = $derived((drawing.shown?.items ?? []).filter((i) => i.trouble));
  const changes = $derived(drawing.shown?.changes ?? []);
  const named = (id: string) => {
    const v = page?.views?.find((v) => v.id === id);
    if (v) return v.letter ? `${WAYS[v.way ?? '']} ${v.letter}` : (WAYS[v.way ?? ''] ?? v.way);
    const d = page?.dimensions?.find((d) => d.id === id);
    return d ? `${KINDS[d.kind] ?? d.kind}` : id;
  };
  let issue = $state({ name: '', by: '', what: '' });
  const nextIssue = $derived(
    [...'ABCDEFGHJKLMNPQRSTUVWXYZ'].find((l) => !(page?.issues ?? []).some((i) => i.name === l)) ?? '1',
  );
  $effect(() => {
    if (drawing.issuing) issue = { name: nextIssue, by: session.part?.about?.drawn_by ?? '', what: '' };
  });
  const keep = (e: KeyboardEvent & { currentTarget: HTMLInputElement }) => {
    if (e.key === 'Enter') e.currentTarget.blur();
    if (e.key !== 'Escape') e.stopPropagation();
  };
</script>

{#snippet choice(label: string, value: string, values: [string, string][], set: (v: string) => unknown)}
  <label class="flex items-baseline gap-2"
    ><span class="w-28 shrink-0 text-graphite">{label}</span>
    <select class="open-blank min-w-0" use:choosing={{ value, set }}>
      {#each values as [v, words] (v)}<option value={v}>{words}</option>{/each}
    </select></label
  >
{/snippet}
{#snippet field(label: string, value: string, set: (v: string) => unknown, wide = 'w-full')}
  <label class="flex items-baseline gap-2"
    ><span class="w-28 shrink-0 text-graphite">{label}</span>
    <input
      class="open-blank min-w-0 {wide}"
      {value}
      onkeydown={keep}
      onchange={(e) => void set(e.currentTarget.value)}
    /></label
  >
{/snippet}
{#snippet tick(label: string, on: boolean, set: (v: boolean) => unknown)}
  <label class="flex items-baseline gap-2"
    ><input type="checkbox" checked={on} onchange={(e) => void set(e.currentTarget.checked)} />{label}</label
  >
{/snippet}

<aside class="flex h-full flex-col border-l border-rule bg-paper text-[0.875rem]" data-testid="pages">
  <header class="flex items-baseline gap-3 border-b-2 border-ink px-4 py-3">
    <h2 class="flex-1 text-base font-semibold">Drawing</h2>
    <button class="blank" onclick={() => drawing.newPage()}>New page</button>
    <button class="blank" onclick={() => drawing.close()} title="Back to the part (g o)">Close</button>
  </header>
  <div class="min-h-0 flex-1 overflow-y-auto pb-6">
    <ul class="border-b border-rule">
      {#each drawing.pages as p (p.id)}
        <li>
          <button
            class="flex w-full items-baseline gap-2 px-4 py-1.5 text-left {p.id === drawing.open
              ? 'bg-wash font-medium'
              : 'hover:bg-wash/60'}"
            aria-current={p.id === drawing.open}
            onclick={() => drawing.show(p.id)}
            >{p.name}<span class="flex-1"></span><span class="figures text-[0.8125rem] text-graphite"
              >{p.size} {p.scale}</span
            ></button
          >
        </li>
      {/each}
    </ul>
    {#if page}
      <section class="grid gap-1 border-b border-rule px-4 py-3" aria-label="The page">
        {@render field('name', page.name, (name) => drawing.editPage({ name }))}
        {@render choice(
          'paper',
          page.size ?? 'A3',
          ['A4', 'A3', 'A2', 'A1', 'A0'].map((s) => [s, s]),
          (size) => drawing.editPage({ size }),
        )}
        {@render choice(
          'scale',
          page.scale ?? '1:1',
          SCALES.map((s) => [s, s]),
          (scale) => drawing.editPage({ scale }),
        )}
        {@render choice(
          'projection',
          page.angle ?? 'first',
          [
            ['first', 'first angle'],
            ['third', 'third angle'],
          ],
          (angle) => drawing.editPage({ angle }),
        )}
        {@render field('tolerances', page.tolerance ?? '', (tolerance) => drawing.editPage({ tolerance }))}
        {@render tick('paper turned', !!page.turned, (turned) => drawing.editPage({ turned }))}
      </section>

      {#if amiss.length}
        <section class="border-b border-rule px-4 py-2" aria-label="What is amiss" data-testid="page-amiss">
          {#each amiss as a (a.id)}
            <button
              class="block w-full py-0.5 text-left text-carmine"
              onclick={() => drawing.pickItem(a.id, false)}
              >{a.kind === 'dimension'
                ? `${named(a.id)} is ${a.state === 'held' ? 'to be confirmed' : 'lost'}: `
                : ''}{a.trouble}</button
            >
          {/each}
        </section>
      {/if}

      {#if view}
        <section class="grid gap-1 border-b-2 border-brass px-4 py-3" data-testid="picked-view">
          <h3 class="font-semibold">{named(view.id)}</h3>
          {@render choice(
            'scale',
            view.scale ?? '',
            [['', `the page's, ${page.scale}`], ...SCALES.map((s): [string, string] => [s, s])],
            (scale) => drawing.edit(view.id, { scale }),
          )}
          {@render tick('hidden lines', view.hidden !== false, (hidden) => drawing.edit(view.id, { hidden }))}
          {@render tick('smooth edges', !!view.smooth, (smooth) => drawing.edit(view.id, { smooth }))}
          {@render tick('centre lines', view.centres !== false, (centres) =>
            drawing.edit(view.id, { centres }),
          )}
          {#if view.way === 'section'}
            {@render tick('seen from the other side', !!view.flipped, (flipped) =>
              drawing.edit(view.id, { flipped }),
            )}
          {/if}
          {#if view.letter}{@render field(
              'letter',
              view.letter,
              (letter) => drawing.edit(view.id, { letter }),
              'w-12',
            )}{/if}
          <div class="mt-1 flex gap-4">
            {#if view.at}<button class="blank" onclick={() => drawing.edit(view.id, { at: null })}
                >Placed by itself</button
              >{/if}
            <button class="blank" onclick={() => drawing.dimensionAll()}>Dimension it</button>
            <button class="blank" onclick={() => drawing.remove()}>Take off</button>
          </div>
        </section>
      {:else if dimension}
        <section class="grid gap-1 border-b-2 border-brass px-4 py-3" data-testid="picked-dimension">
          <h3 class="font-semibold">{KINDS[dimension.kind]} <span class="figures">{item?.told}</span></h3>
          {#if item?.drives}<p>
              tells <button class="blank figures" onclick={() => drawing.type(dimension.id)}
                >{item.drives}</button
              >; double-click it to change the part
            </p>{/if}
          {#if item?.state === 'held'}
            <p class="text-carmine">{item.trouble}</p>
            {#if item.now?.length}<button
                class="blank justify-self-start"
                onclick={() => drawing.edit(dimension.id, { things: item.now })}>It is right</button
              >{:else}<button
                class="blank justify-self-start"
                onclick={() => drawing.edit(dimension.id, { step: '', place: '' })}
                >Keep it as a measure of its own</button
              >{/if}
          {:else if item?.state === 'lost'}
            <p class="text-carmine">{item.trouble}</p>
            {#each item.candidates ?? [] as c, i (i)}
              <button
                class="blank justify-self-start text-left"
                onclick={() =>
                  drawing.edit(dimension.id, {
                    things: (dimension.things ?? []).map((t, n) => (n === item.thing ? c.ref : t)),
                  })}>{c.words}</button
              >
            {/each}
          {/if}
          {@render field('tolerance', dimension.tolerance ?? '', (tolerance) =>
            drawing.edit(dimension.id, { tolerance }),
          )}
          {@render field('before', dimension.before ?? '', (before) =>
            drawing.edit(dimension.id, { before }),
          )}
          {@render field('after', dimension.after ?? '', (after) => drawing.edit(dimension.id, { after }))}
          {@render tick('for reference, in brackets', !!dimension.reference, (reference) =>
            drawing.edit(dimension.id, { reference }),
          )}
          <div class="mt-1 flex gap-4">
            {#if dimension.put}<button class="blank" onclick={() => drawing.edit(dimension.id, { put: null })}
                >Placed by itself</button
              >{/if}
            <button class="blank" onclick={() => drawing.remove()}>Take off</button>
          </div>
        </section>
      {:else if mark}
        <section class="grid gap-1 border-b-2 border-brass px-4 py-3" data-testid="picked-mark">
          <MarkFields {mark} {drawing} {field} {choice} />
          <button class="blank mt-1 justify-self-start" onclick={() => drawing.remove()}>Take off</button>
        </section>
      {/if}

      <section class="border-b border-rule px-4 py-3" aria-label="Views">
        <div class="flex items-baseline gap-3">
          <h3 class="flex-1 font-semibold">Views</h3>
          <button class="blank" onclick={() => (drawing.adding = !drawing.adding)}>Add</button>
        </div>
        {#if drawing.adding}
          <ul class="my-1 border border-rule" data-testid="add-view">
            {#each Object.entries(WAYS).filter(([w]) => !['section', 'detail'].includes(w)) as [way, words], i (way)}
              <li>
                {#if i === 0}<button
                    use:focused
                    class="w-full px-3 py-0.5 text-left hover:bg-wash focus:bg-wash"
                    onclick={() => drawing.addView(way)}>{words}</button
                  >{:else}<button
                    class="w-full px-3 py-0.5 text-left hover:bg-wash focus:bg-wash"
                    onclick={() => drawing.addView(way, way === 'turned' ? work.stageTurn() : null)}
                    >{words}</button
                  >{/if}
              </li>
            {/each}
          </ul>
        {/if}
        <ul>
          {#each page.views ?? [] as v (v.id)}
            <li>
              <button
                class="flex w-full items-baseline gap-2 py-0.5 text-left hover:bg-wash {drawing.chosen.includes(
                  v.id,
                )
                  ? 'text-brass'
                  : ''}"
                onclick={() => drawing.pickItem(v.id, false)}
                >{named(v.id)}<span class="flex-1"></span><span class="figures text-graphite"
                  >{v.scale || ''}</span
                ></button
              >
            </li>
          {/each}
        </ul>
      </section>

      <section class="px-4 py-3" aria-label="Issues" data-testid="issues">
        <div class="flex items-baseline gap-3">
          <h3 class="flex-1 font-semibold">Given out</h3>
          <button class="blank" onclick={() => (drawing.issuing = !drawing.issuing)}>Issue</button>
        </div>
        {#if drawing.issuing}
          <form
            class="my-1 grid gap-1 border border-rule p-2"
            onsubmit={(e) => {
              e.preventDefault();
              void drawing.issue(issue.name, issue.by, issue.what);
            }}
          >
            <label class="flex items-baseline gap-2"
              ><span class="w-16 text-graphite">as</span><input
                use:focused
                class="open-blank w-20"
                bind:value={issue.name}
                onkeydown={(e) => e.key !== 'Escape' && e.stopPropagation()}
              /></label
            >
            <label class="flex items-baseline gap-2"
              ><span class="w-16 text-graphite">by</span><input
                class="open-blank min-w-0 flex-1"
                bind:value={issue.by}
                onkeydown={(e) => e.key !== 'Escape' && e.stopPropagation()}
              /></label
            >
            <label class="flex items-baseline gap-2"
              ><span class="w-16 text-graphite">what for</span><input
                class="open-blank min-w-0 flex-1"
                bind:value={issue.what}
                onkeydown={(e) => e.key !== 'Escape' && e.stopPropagation()}
              /></label
            >
            <button class="button-strong justify-self-start" type="submit">Issue this page</button>
          </form>
        {/if}
        {#each [...(page.issues ?? [])].reverse() as i (i.name)}
          <p class="py-0.5">
            <span class="font-medium">{i.name}</span>
            <span class="text-graphite">{[i.date, i.by, i.what].filter(Boolean).join(', ')}</span>
          </p>
        {/each}
        {#if (page.issues ?? []).length}
          <div class="mt-2" data-testid="page-changes">
            <div class="flex items-baseline gap-3">
              <h4 class="flex-1">
                {changes.length ? `${changes.length} changed since` : 'Nothing changed since'}
                {#if (page.issues ?? []).length > 1}<select
                    class="open-blank"
                    aria-label="Issue to compare with"
                    value={drawing.since || page.issues?.at(-1)?.name}
                    onchange={(e) => ((drawing.since = e.currentTarget.value), void drawing.draw())}
                  >
                    {#each page.issues ?? [] as i (i.name)}<option value={i.name}>{i.name}</option>{/each}
                  </select>{:else}{page.issues?.at(-1)?.name}{/if}
              </h4>
              {#if changes.length}<label class="flex items-baseline gap-1"
                  ><input
                    type="checkbox"
                    checked={drawing.clouds}
                    onchange={(e) => ((drawing.clouds = e.currentTarget.checked), void drawing.draw())}
                  />clouds</label
                >{/if}
            </div>
            {#each changes as c (c.id)}
              <button
                class="flex w-full items-baseline gap-2 py-0.5 text-left hover:bg-wash"
                onclick={() => drawing.pickItem(c.id, false)}
                ><span class="figures">{c.was || 'new'}</span> →
                <span class="figures">{c.now || 'gone'}</span></button
              >
            {/each}
          </div>
        {/if}
      </section>
      <div class="flex flex-wrap gap-x-4 gap-y-1 px-4">
        <button class="button-strong" onclick={() => work.writePages('pdf')}>Write PDF</button>
        <button class="blank" onclick={() => work.printPages()}>Print</button>
        <button class="blank" onclick={() => work.writePages('dxf')}>DXF</button>
        <button class="blank" onclick={() => work.writePages('svg')}>SVG</button>
        <span class="flex-1"></span>
        <button class="blank" onclick={() => drawing.removePage()}>Delete page</button>
      </div>
    {/if}
  </div>
</aside>
