<script lang="ts">
  /** A page of the drawing as paper on the stage: lines, dimensions and marks are picked, moved and typed on it. */
  import type { OnPage } from '../api/types';
  import FormulaField from '../ui/FormulaField.svelte';
  import { useWorkplace } from '../state/workplace.svelte';
  import { OTHER } from '../state/action';
  import { KINDS, squared, type Flat } from './drawing.svelte';

  const work = useWorkplace();
  const { session, drawing } = work;
  const shown = $derived(drawing.shown);
  const paper = $derived(shown?.paper ?? [420, 297]);
  let host = $state<HTMLElement>();
  let size = $state<[number, number]>([800, 600]);
  /** How the paper lies: pixels a mm, and where its upper left corner is. */
  let scale = $state(2);
  let corner = $state<Flat>([0, 0]);
  let fitted = '';
  let pointer = $state<Flat | null>(null); // mm on the page
  /** Alt is held: a line is not made straight. */
  let slant = $state(false);
  /** What is being dragged: its ids, from where, by how much (mm). */
  let drag = $state.raw<{ id: string; ids: string[]; from: Flat; by: Flat } | null>(null);
  let slide = $state.raw<{ x: number; y: number; corner: Flat } | null>(null);
  let pressed: { x: number; y: number; pick: () => void; id: string; ids: string[] } | null = null;

  $effect(() => {
    const observer = new ResizeObserver(() => (size = [host!.clientWidth, host!.clientHeight]));
    observer.observe(host!);
    return () => observer.disconnect();
  });
  $effect(() => {
    void [session.shown, session.scene];
    void drawing.draw();
  });
  // A page is shown whole when it is opened, or its paper changes.
  $effect(() => {
    const key = `${drawing.open} ${paper.join(' ')} ${size[0] > 50}`;
    if (!shown || fitted === key) return;
    fitted = key;
    fit();
  });
  export function fit() {
    const margin = 14;
    scale = Math.max(0.2, Math.min((size[0] - 2 * margin) / paper[0], (size[1] - 2 * margin) / paper[1]));
    corner = [(size[0] - scale * paper[0]) / 2, (size[1] - scale * paper[1]) / 2];
  }
  $effect(() => {
    drawing.fit = fit;
    return () => (drawing.fit = null);
  });

  const pens = $derived(new Map((shown?.pens ?? []).map((p) => [p.name, p])));
  const width = (pen: string) => Math.max(pens.get(pen)?.width ?? 0.25, 0.8 / scale);
  const dashes = (pen: string) => pens.get(pen)?.dashes.join(' ') ?? '';
  const screen = (p: readonly number[]): Flat => [
    corner[0] + scale * p[0],
    corner[1] + scale * (paper[1] - p[1]),
  ];
  const onPage = (e: MouseEvent): Flat => {
    const box = host!.getBoundingClientRect();
    return [(e.clientX - box.left - corner[0]) / scale, paper[1] - (e.clientY - box.top - corner[1]) / scale];
  };
  /** The view that a place of the page is in or nearest to. */
  function viewAt(p: Flat) {
    const off = (b: readonly number[]) =>
      Math.hypot(Math.max(b[0] - p[0], 0, p[0] - b[2]), Math.max(b[1] - p[1], 0, p[1] - b[3]));
    return (shown?.views ?? [])
      .map((v) => ({ v, off: off(v.box) }))
      .filter((o) => o.off < 15)
      .sort((a, b) => a.off - b.off)[0]?.v;
  }
  const NEAR = 2.5; // mm on paper within which a line that is drawn snaps to an axis
  /** A place in a view, mm of the part from its middle; near an axis it is on it. */
  function within(view: { at: number[]; scale: number; xs: number[]; ys: number[] }, p: Flat): Flat {
    const raw: Flat = [(p[0] - view.at[0]) / view.scale, (p[1] - view.at[1]) / view.scale];
    const snap = (v: number, held: number[]) =>
      held.find((h) => Math.abs(h - v) * view.scale < NEAR) ?? Number(v.toFixed(2));
    return [snap(raw[0], view.xs), snap(raw[1], view.ys)];
  }
  const givenView = $derived(shown?.views.find((v) => v.id === drawing.givenIn));
  const back = (view: { at: number[]; scale: number }, q: readonly number[]): Flat => [
    view.at[0] + view.scale * q[0],
    view.at[1] + view.scale * q[1],
  ];
  /** The line or circle that is being drawn, on the page. */
  const rubber = $derived.by(() => {
    if (!givenView || !pointer || !drawing.given.length) return '';
    const at = within(givenView, pointer);
    if (drawing.tool === 'detail') {
      const [c, e] = [back(givenView, drawing.given[0]), back(givenView, at)];
      const r = Math.hypot(e[0] - c[0], e[1] - c[1]);
      return `M${c[0] - r} ${c[1]}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`;
    }
    const end = slant ? at : squared(drawing.given.at(-1)!, at);
    return `M${[...drawing.given, end].map((q) => back(givenView, q).join(' ')).join('L')}`;
  });

  function wheel(event: WheelEvent) {
    event.preventDefault();
    const box = host!.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    const k = Math.exp(-event.deltaY * 0.0015);
    const next = Math.min(Math.max(scale * k, 0.2), 60);
    corner = [x - ((x - corner[0]) * next) / scale, y - ((y - corner[1]) * next) / scale];
    scale = next;
  }
  function down(event: PointerEvent, id = '', pick: (() => void) | null = null) {
    if (event.button === 1 || event.button === 2) {
      slide = { x: event.clientX, y: event.clientY, corner: [...corner] };
      host!.setPointerCapture(event.pointerId);
      return;
    }
    if (event.button !== 0) return;
    event.stopPropagation();
    (document.activeElement as HTMLElement | null)?.blur();
    work.drawer = '';
    const ids = id.startsWith('v')
      ? [
          id,
          ...(drawing.page?.dimensions ?? []).filter((d) => d.view === id).map((d) => d.id),
          ...(drawing.page?.marks ?? []).filter((m) => m.view === id).map((m) => m.id),
        ]
      : [id];
    pressed = { x: event.clientX, y: event.clientY, id, ids, pick: pick ?? (() => drawing.pickNothing()) };
  }
  function move(event: PointerEvent) {
    [pointer, slant] = [onPage(event), event.altKey];
    if (slide) {
      corner = [slide.corner[0] + event.clientX - slide.x, slide.corner[1] + event.clientY - slide.y];
      return;
    }
    if (!pressed || !(event.buttons & 1) || drawing.tool) return;
    const far = Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y);
    if (!drag && (far < 5 || !pressed.id || pressed.id === 'frame' || session.barred)) return;
    if (!drag) host!.setPointerCapture(event.pointerId);
    const by: Flat = [(event.clientX - pressed.x) / scale, -(event.clientY - pressed.y) / scale];
    drag = { id: pressed.id, ids: pressed.ids, from: [pressed.x, pressed.y], by };
  }
  async function up(event: PointerEvent) {
    if (slide) {
      const still = Math.hypot(event.clientX - slide.x, event.clientY - slide.y) < 5;
      slide = null;
      if (still && event.button === 2 && drawing.tool === 'section') await drawing.endTool();
      return;
    }
    const [was, held] = [pressed, drag];
    pressed = null;
    if (held) {
      await dropped(held.id, held.by);
      drag = null;
      return;
    }
    if (!was || Math.hypot(event.clientX - was.x, event.clientY - was.y) > 5) return;
    const view = viewAt(onPage(event));
    if (drawing.tool === 'section' || drawing.tool === 'detail') {
      const meant = givenView ?? view;
      if (meant) await drawing.give(meant.id, within(meant, onPage(event)), !event.altKey);
      return;
    }
    was.pick();
    if (drawing.tool && drawing.lines.length) await drawing.mark();
  }
  /** What was dragged stays where it was let go. */
  async function dropped(id: string, by: Flat) {
    const view = shown?.views.find((v) => v.id === id);
    if (view) {
      await drawing.move(id, { at: [round(view.at[0] + by[0]), round(view.at[1] + by[1])] });
      return;
    }
    const item = drawing.item(id);
    if (!item) return;
    const put = [0, 1].map((i) => round(item.place[i] + by[i] - item.base[i]));
    await drawing.move(id, { put });
  }
  const round = (v: number) => Math.round(v * 2) / 2;

  const lit = $derived(new Set(work.picked.map((t) => t.key)));
  const keyOf = (p: { body: string; edge: number; face: number }) =>
    p.edge >= 0 ? `${p.body}/e${p.edge}` : p.face >= 0 ? `${p.body}/f${p.face}` : '';
  const colour = (item: OnPage, pen: string) =>
    item.state === 'lost' || item.state === 'held'
      ? 'var(--color-carmine)'
      : drawing.chosen.includes(item.id)
        ? 'var(--color-brass)'
        : (pens.get(pen)?.colour ?? '#000');
  /** The box of words on the page: x, y low, x, y high. */
  function wordsBox(w: OnPage['words'][number]): [number, number, number, number] {
    const t = (w.turned * Math.PI) / 180;
    const [c, n] = [Math.cos(t), Math.sin(t)];
    const places = [
      [0, 0],
      [w.length, 0],
      [w.length, w.height],
      [0, w.height],
    ].map(([u, v]) => [w.at[0] + u * c - v * n, w.at[1] + u * n + v * c]);
    const [xs, ys] = [places.map((p) => p[0]), places.map((p) => p[1])];
    return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  }
  /** Where a dimension or a mark is grasped: round its words, or its place. */
  function grasp(item: OnPage) {
    const boxes = item.words.map(wordsBox);
    const low = [0, 1].map(
      (i) => Math.min(...(boxes.length ? boxes.map((b) => b[i]) : [item.place[i]])) - 1.5,
    );
    const high = [0, 1].map(
      (i) => Math.max(...(boxes.length ? boxes.map((b) => b[i + 2]) : [item.place[i]])) + 1.5,
    );
    return { x: low[0], y: low[1], width: high[0] - low[0], height: high[1] - low[1] };
  }
  const shift = (id: string) =>
    drag?.ids.includes(id) ? `translate(${drag.by[0]} ${drag.by[1]})` : undefined;
  /** By keys: arrows go from line to line, or move what is picked; space picks the line. */
  function key(event: KeyboardEvent) {
    const arrows: Record<string, Flat> = {
      ...{ ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] },
    };
    const way = arrows[event.key];
    if (way && drawing.chosen.length) {
      const by = event.shiftKey ? 10 : 1;
      void drawing.nudge([way[0] * by, way[1] * by]);
    } else if (way) drawing.step(way[0] + way[1] > 0 ? 1 : -1);
    else if (event.key === ' ' && drawing.pointed) drawing.pickPointed();
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
  const typing = $derived(drawing.typing ? drawing.item(drawing.typing) : null);
  const meant = $derived(drawing.kinds[drawing.turned % Math.max(drawing.kinds.length, 1)]);
  const hint = $derived.by(() => {
    if (drawing.tool === 'section')
      return drawing.given.length < 2
        ? 'Section: click where its line begins and where it ends; it snaps to axes. Alt: not straight.'
        : 'More clicks step the line; one with Alt turns a slanted leg into the first; Enter cuts.';
    if (drawing.tool === 'detail')
      return drawing.given.length ? 'Click on its rim.' : 'Detail: click its middle.';
    if (drawing.tool) return 'Pick the edge that it stands on.';
    if (drawing.lines.length && drawing.why) return drawing.why;
    if (drawing.pointed) return `${drawing.pointed.words} (space picks it)`;
    return '';
  });
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions, a11y_no_noninteractive_tabindex -->
<div
  bind:this={host}
  class="absolute inset-0 z-10 overflow-hidden bg-stage select-none {drag || slide ? 'cursor-grabbing' : ''}"
  role="application"
  tabindex="0"
  onkeydown={key}
  aria-label="Page {drawing.page?.name ?? ''} of the drawing"
  data-testid="page"
  data-busy={drawing.busy}
  onwheel={wheel}
  onpointerdown={(e) => down(e)}
  onpointermove={move}
  onpointerup={up}
  onpointerleave={() => (pointer = null)}
  oncontextmenu={(e) => e.preventDefault()}
>
  {#if shown}
    <svg class="h-full w-full" aria-hidden="true">
      <rect
        x={corner[0]}
        y={corner[1]}
        width={scale * paper[0]}
        height={scale * paper[1]}
        class="fill-white stroke-rule"
      />
      <g
        transform="translate({corner[0]} {corner[1] + scale * paper[1]}) scale({scale} {-scale})"
        fill="none"
        stroke-linecap="round"
        stroke-linejoin="round"
      >
        {#each shown.views as view (view.id)}
          {@const pickedView = drawing.chosen.includes(view.id)}
          <rect
            x={view.box[0] - 2}
            y={view.box[1] - 2}
            width={view.box[2] - view.box[0] + 4}
            height={view.box[3] - view.box[1] + 4}
            transform={shift(view.id)}
            fill="transparent"
            stroke={pickedView || drawing.hovered === view.id ? 'var(--color-brass)' : 'none'}
            stroke-width={1 / scale}
            stroke-dasharray="{4 / scale} {3 / scale}"
            data-view={view.id}
            role="presentation"
            onpointerenter={() => (drawing.hovered = view.id)}
            onpointerleave={() => (drawing.hovered = '')}
            onpointerdown={(e) => down(e, view.id, () => drawing.pickItem(view.id, e.shiftKey))}
          />
        {/each}
        {#each shown.items as item (item.id)}
          <g transform={shift(item.id)} data-item={item.id} data-state={item.state}>
            {#each item.paths as path, i (i)}
              {@const key = keyOf(path)}
              {@const on = key !== '' && (lit.has(key) || drawing.pointed?.key === key)}
              <path
                d={path.data}
                stroke={on ? 'var(--color-brass)' : colour(item, path.pen)}
                stroke-width={on ? 2 * width('outline') : width(path.pen)}
                stroke-dasharray={dashes(path.pen)}
                pointer-events="none"
              />
              {#if item.kind === 'view' && (path.edge >= 0 || path.face >= 0)}
                <path
                  d={path.data}
                  stroke="transparent"
                  stroke-width={9 / scale}
                  pointer-events="stroke"
                  class="hover:stroke-brass/40"
                  data-line={key}
                  role="presentation"
                  data-pen={path.pen}
                  onpointerdown={(e) =>
                    down(e, item.id, () =>
                      drawing.pickLine(item.id, path.body, path.edge, path.face, e.shiftKey),
                    )}
                />
              {/if}
            {/each}
            {#each item.blots as blot, i (i)}<path
                d={blot}
                fill={colour(item, 'thin')}
                pointer-events="none"
              />{/each}
            {#each item.words as w, i (i)}
              <text
                transform="translate({w.at[0]} {w.at[1]}) rotate({w.turned}) scale(1 -1)"
                font-size={w.height / 0.7}
                textLength={w.length}
                lengthAdjust="spacingAndGlyphs"
                fill={colour(item, w.pen)}
                pointer-events="none"
                xml:space="preserve">{w.words}</text
              >
            {/each}
            {#if item.kind === 'dimension' || item.kind === 'mark'}
              <rect
                {...grasp(item)}
                fill="transparent"
                class="cursor-pointer hover:fill-brass/15"
                data-figure={item.id}
                data-told={item.told}
                role="presentation"
                onpointerdown={(e) => down(e, item.id, () => drawing.pickItem(item.id, e.shiftKey))}
                ondblclick={() => drawing.type(item.id)}
              />
            {/if}
          </g>
        {/each}
        {#if rubber}
          <path d={rubber} stroke="var(--color-brass)" stroke-width={1.5 / scale} pointer-events="none" />
        {/if}
      </g>
    </svg>
  {:else if drawing.trouble}
    <p class="m-10 text-carmine" role="alert">{drawing.trouble}</p>
  {/if}
  {#if typing}
    {@const at = screen(typing.place)}
    <div
      class="absolute z-20 -translate-x-1/2 -translate-y-1/2 border border-ink bg-paper p-1 text-[0.84375rem]"
      style:left="{at[0]}px"
      style:top="{at[1]}px"
      role="presentation"
      onpointerdown={(e) => e.stopPropagation()}
      onpointerup={(e) => e.stopPropagation()}
      data-testid="typed-figure"
    >
      <span class="text-graphite">{typing.drives}</span>
      {#key typing.id}<FormulaField
          formula={drawing.formula(typing.id)}
          label={typing.drives ?? 'dimension'}
          accept={(text) => drawing.typed(text)}
          cancel={() => (drawing.typing = '')}
        />{/key}
      {#if drawing.refused}<p class="max-w-60 text-carmine" role="alert">{drawing.refused}</p>{/if}
    </div>
  {/if}
  <div class="pointer-events-none absolute right-3 bottom-3 left-4 flex flex-wrap items-end gap-3">
    {#if drawing.lines.length && drawing.kinds.length}
      <div
        class="pointer-events-auto flex flex-wrap items-baseline gap-1 border border-ink bg-paper px-2 py-1 text-[0.875rem]"
        role="presentation"
        onpointerdown={(e) => e.stopPropagation()}
        onpointerup={(e) => e.stopPropagation()}
        data-testid="dimension-offers"
      >
        <span class="text-graphite"
          >{drawing.lines.map((l) => l.thing.brief ?? l.thing.words).join(', ')}:</span
        >
        {#each drawing.kinds as s (s.kind)}
          <button
            class="border px-1.5 {s === meant ? 'border-brass' : 'border-transparent hover:border-rule'}"
            onclick={() => drawing.dimension(s.kind)}
            >{KINDS[s.kind] ?? s.kind} <span class="figures">{s.said}</span></button
          >
        {/each}
        <span class="figures text-[0.8125rem] text-brass">Enter</span>{#if drawing.kinds.length > 1}<span
            class="figures text-[0.8125rem] text-brass">{OTHER}</span
          >{/if}
      </div>
    {/if}
    {#if hint}<span class="border border-rule bg-paper px-2 py-1 text-[0.84375rem]" data-testid="page-hint"
        >{hint}</span
      >{/if}
    <span class="flex-1"></span>
    {#if drawing.busy}<span class="bg-paper px-2 text-[0.84375rem] text-graphite" aria-live="polite"
        >{shown?.views.some((v) => v.draft) ? 'A draft; the exact lines follow …' : 'Drawing …'}</span
      >{/if}
    {#if shown && !shown.fits}<span class="border border-carmine bg-paper px-2 text-[0.84375rem] text-carmine"
        >Something stands over the border, or on something else. Move it, or take a <button
          class="blank pointer-events-auto"
          onpointerdown={(e) => e.stopPropagation()}
          onpointerup={(e) => e.stopPropagation()}
          onclick={() => drawing.smaller()}>smaller scale</button
        >.</span
      >{/if}
  </div>
</div>
