<script lang="ts">
  /**
   * The open sketch, drawn over the stage in its own plane: curves, points, dimensions, the shape in hand.
   */
  import { Box3, Vector3 } from 'three';
  import type { Flat } from '../api/types';
  import { at } from '../stage/sketches';
  import type { Thing } from '../stage/things';
  import { useWorkplace } from '../state/workplace.svelte';
  import type { Board } from './board.svelte';
  import Curves from './Curves.svelte';
  import Figures from './Figures.svelte';
  import FiguresInMotion from './FiguresInMotion.svelte';
  import { AXES, boundsOf } from './geometry';
  import * as lengths from './lengths';
  import ShapeInHand from './ShapeInHand.svelte';
  import Symbols from './Symbols.svelte';
  import Texts from './Texts.svelte';
  import Tried from './Tried.svelte';

  let { board }: { board: Board } = $props();
  const work = useWorkplace();
  const stage = work.stage!;

  const frame = $derived(work.session.scene?.sketches.find((s) => s.step === board.step)?.frame);
  let tick = $state(0);
  let svg = $state<SVGSVGElement>();
  $effect(() => stage.onView(() => tick++));
  let turned = '';
  $effect(() => {
    if (frame && turned !== board.step) {
      turned = board.step;
      stage.resize(); // the tools beside the drawing have taken their room
      stage.squareTo(frame);
    }
  });

  /** Sketch mm to stage pixels: the view is orthographic, so this is one matrix. */
  const matrix = $derived.by(() => {
    void tick;
    if (!frame) return [1, 0, 0, 1, 0, 0];
    const [o, x, y] = [at(frame, 0, 0), at(frame, 1, 0), at(frame, 0, 1)].map((p) => stage.view.screen(p));
    return [x[0] - o[0], x[1] - o[1], y[0] - o[0], y[1] - o[1], o[0], o[1]];
  });
  const screen = (p: Flat): Flat => {
    const [a, b, c, d, e, f] = matrix;
    return [a * p[0] + c * p[1] + e, b * p[0] + d * p[1] + f];
  };
  /**
   * Where the board is on the page; kept while the pointer is down, so that no move makes the browser lay out
   * anew.
   */
  let kept: DOMRect | null = null;
  const edges = () => (pressed && kept) || (kept = svg!.getBoundingClientRect());
  const plane = (event: MouseEvent): Flat => {
    const box = edges();
    const [a, b, c, d, e, f] = matrix;
    const [x, y, k] = [event.clientX - box.left - e, event.clientY - box.top - f, a * d - b * c || 1];
    return [(d * x - c * y) / k, (a * y - b * x) / k];
  };

  /** How much of the view a first shape takes that was drawn too small to work on, and how small that is. */
  const [FIRST, SMALL] = [0.45, 1 / 16];
  /** All that was drawn at the last look, and whether there was one. */
  let before: ReturnType<typeof boundsOf> = null;
  let looked = false;
  const places = ([[x0, y0], [x1, y1]]: [Flat, Flat]) =>
    [
      [x0, y0],
      [x1, y0],
      [x1, y1],
      [x0, y1],
    ].map(([x, y]) => at(frame!, x, y));
  const seen = (bounds: [Flat, Flat]) =>
    places(bounds)
      .map((p) => stage.view.screen(p))
      .every(([x, y]) => x > 0 && x < stage.view.width && y > 0 && y < stage.view.height);
  /**
   * New geometry that leaves a view of all brings the view along; a first shape that is very small is brought
   * near.
   */
  $effect(() => {
    const drawn = board.view?.drawing;
    if (!drawn || !frame || board.moving.held) return;
    const [bounds, was, opened] = [boundsOf(drawn), before, !looked];
    [before, looked] = [bounds, true];
    if (!bounds || opened || JSON.stringify(bounds) === JSON.stringify(was)) return;
    const box = new Box3().setFromPoints(places(bounds));
    const { width, height, scale } = stage.view;
    const share = Math.max(
      ((bounds[1][0] - bounds[0][0]) * scale) / width,
      ((bounds[1][1] - bounds[0][1]) * scale) / height,
    );
    if (!seen(bounds)) {
      if (!was || seen(was)) stage.view.fit(box.min, box.max);
    } else if (
      !was &&
      share > 0 &&
      share < SMALL &&
      !board.given.length &&
      !work.session.scene?.bodies.length
    )
      stage.view.fit(box.min, box.max, false, FIRST);
  });

  const view = $derived(board.view);
  const drawing = $derived(board.drawing);
  const scale = $derived.by(() => {
    void tick;
    return stage.view.scale;
  });

  /** Where a thing of the model lies in the sketch, seen square onto it. */
  function flat(thing: Thing): Flat | null {
    if (!frame || !thing.place) return null;
    const off = thing.place.clone().sub(new Vector3(...frame.origin));
    return [off.dot(new Vector3(...frame.x)), off.dot(new Vector3(...frame.y))];
  }

  let pressed: { at: Flat; x: number; y: number; held: '' | 'drag' | 'stretch' | 'round' } | null = null;
  function down(event: PointerEvent) {
    if (event.button !== 0 || !frame) return; // where a place is, only its plane tells
    (document.activeElement as HTMLElement | null)?.blur();
    pressed = { at: plane(event), x: event.clientX, y: event.clientY, held: '' };
  }
  function move(event: PointerEvent) {
    if (!frame) return;
    const p = plane(event);
    if (pressed && !pressed.held && Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) > 4)
      begin(event, pressed);
    if (pressed?.held === 'round') board.pull.to(p);
    else if (pressed?.held === 'stretch' && board.stretch.length) {
      const free = event.shiftKey || board.cutting.sweeping;
      board.stretch = free ? [...board.stretch, p] : [pressed.at, p];
    } else {
      board.hover(p);
      const box = edges();
      const below = () => stage.under(event.clientX - box.left, event.clientY - box.top);
      if (!event.buttons && board.shape)
        board.catchModel(board.caughtDrawn || board.quiet ? [] : below(), flat, p);
      else if (!event.buttons)
        board.overModel(board.taking || (!board.tool && !board.hovered) ? below() : []);
    }
    pulledTo = p;
    if (!board.moving.held) readout = p;
  }
  /**
   * While something is pulled, the readout waits for the picture that goes with it: one picture a move, not
   * two.
   */
  let pulledTo: Flat = [0, 0];
  $effect(() => {
    if (board.moving.moved) readout = pulledTo;
  });
  /** The pointer was pulled: take hold of what is there, else draw a box, a lasso (shift) or a sweep. */
  function begin(event: PointerEvent, from: NonNullable<typeof pressed>) {
    const thing = board.tool ? null : board.holdable(from.at);
    if (thing) {
      board.moving.grab(thing, from.at);
      from.held = 'drag';
    } else if (board.pull.begin(from.at)) from.held = 'round';
    else if (!board.tool || board.form || board.cutting.sweeping) {
      from.held = 'stretch';
      board.stretch = [from.at];
    }
    if (from.held) svg!.setPointerCapture(event.pointerId);
  }
  function up(event: PointerEvent) {
    if (event.button !== 0 || !pressed) return;
    const { held } = pressed;
    pressed = null;
    if (held === 'drag') void board.moving.release();
    else if (held === 'stretch') {
      const shape = board.stretch;
      board.stretch = [];
      if (shape.length < 2) return; // given up with Esc
      if (board.cutting.sweeping) void board.cutting.sweep(shape);
      else board.caught(shape, event.ctrlKey || event.metaKey);
    } else void board.click(plane(event), event.shiftKey || event.ctrlKey);
  }
  /** What a constraint wants, its first two cases where there are many. */
  function brief(wants: string): string {
    const cases = wants.split(/,? or (?=(?:two|an?) )/);
    return cases.length > 3 ? `${cases.slice(0, 2).join(', or ')} …` : wants;
  }
  let readout = $state<Flat>([0, 0]);
  const shown = $derived(board.pointer && (board.shape || board.form) ? board.pointer.at : readout);
  const hover = $derived.by(() => {
    const id = board.hovered;
    if (!id && board.model) return `${board.model.words}, of the model`;
    if (!id || !view) return '';
    return (
      view.names[id] ??
      view.constraints.find((c) => c.id === id)?.words ??
      (id === 'origin' ? 'the origin' : AXES[id] ? `the ${id[0].toUpperCase()} axis` : '')
    );
  });
  $effect(() => {
    board.readout = [
      `sketch ${view?.name ?? ''}${work.sectioned ? ', cut open' : ''}  x ${lengths.shown(shown[0], board.unit)}  y ${lengths.shown(shown[1], board.unit)} ${board.unit}`,
      board.tool
        ? `${board.model ? `${board.model.words}; ` : ''}${board.tool}: ${board.form ? board.form.asks : `click ${board.wants}`}${board.quiet ? ' (quiet)' : board.pointer?.kind === 'free' ? `, on the grid of ${lengths.step(board.step_mm, board.unit)}` : ''}${board.trial.lost.length ? `; loses ${board.trial.lost.join('; ')}` : ''}`
        : board.asked
          ? `${board.asked.title}: pick ${brief(board.asked.wants)}${board.picked.length ? ` (${board.picked.length} picked)` : ''}${hover ? `; ${hover}` : ''}`
          : board.moving.sizing?.formula
            ? `sized to ${board.moving.sizing.formula}`
            : hover,
    ];
  });
</script>

<svg
  bind:this={svg}
  data-testid="board"
  class="absolute inset-0 h-full w-full touch-none select-none {board.tool ? 'cursor-crosshair' : ''}"
  role="application"
  aria-busy={!frame || !view}
  aria-label="Drawing board"
  onpointerdown={down}
  onpointermove={move}
  onpointerup={up}
  onpointerleave={() => board.overModel([])}
  ondblclick={(event) => board.reopen(plane(event))}
>
  <g transform="matrix({matrix.join(' ')})">
    {#each view?.regions ?? [] as region, i (i)}
      <path
        pointer-events="none"
        d={region.outline.map((l) => `M${l.map((p) => p.join(' ')).join('L')}Z`).join('')}
        class="fill-brass/8"
        fill-rule="evenodd"
        data-testid="region"
      />
    {/each}
    <Texts {board} />
    <Curves {board} {drawing} {view} scale={stage.view.scale} />
    <Tried {board} {drawing} />
    <ShapeInHand {board} />
    {#if board.stretch.length > 1}
      {@const [a, b] = board.stretch}
      {#if board.cutting.sweeping}
        <path
          d="M{board.stretch.map((p) => p.join(' ')).join('L')}"
          fill="none"
          vector-effect="non-scaling-stroke"
          class="stroke-carmine [stroke-width:1.5]"
        />
      {:else}
        <path
          d={board.stretch.length === 2
            ? `M${a[0]} ${a[1]}H${b[0]}V${b[1]}H${a[0]}Z`
            : `M${board.stretch.map((p) => p.join(' ')).join('L')}Z`}
          vector-effect="non-scaling-stroke"
          class="fill-brass/10 stroke-brass [stroke-dasharray:4_3] [stroke-width:1]"
        />
      {/if}
    {/if}
  </g>
  {#if work.dimensions}
    {#if !board.moving.moved}
      <Figures {board} {drawing} {view} {scale} {screen} {plane} />
      <Symbols {board} {drawing} {view} {screen} />
    {/if}
  {/if}
  {#each [['X', [1, 0]], ['Y', [0, 1]]] as const as [name, way] (name)}
    {@const o = screen([0, 0])}
    {@const [dx, dy] = screen([way[0] / scale, way[1] / scale]).map((v, i) => v - o[i])}
    {@const [ax, ay] = screen([way[1] / scale, way[0] / scale]).map((v, i) => v - o[i])}
    {@const [x, y] = [o[0] + 34 * dx, o[1] + 34 * dy]}
    <g class="pointer-events-none text-ink" data-testid="own-{name}">
      <path
        d="M{o[0]} {o[1]}L{x} {y}M{x - 6 * dx - 3 * ax} {y - 6 * dy - 3 * ay}L{x} {y}L{x -
          6 * dx +
          3 * ax} {y - 6 * dy + 3 * ay}"
        fill="none"
        stroke="currentColor"
        stroke-width="1.2"
      />
      <text
        x={x - 4 * dx + 10 * ax}
        y={y - 4 * dy + 10 * ay + 4}
        text-anchor="middle"
        class="fill-current text-[0.75rem] font-medium">{name}</text
      >
    </g>
  {/each}
  {#each view?.open_ends ?? [] as end, i (i)}
    {@const [x, y] = screen(end.at as Flat)}
    <g class="text-carmine">
      <circle
        cx={x}
        cy={y}
        r="8"
        fill="none"
        stroke="currentColor"
        stroke-width="1.2"
        stroke-dasharray="2 2"
      />
      {#if end.gap !== null && end.gap < 5 && !view!.open_ends.slice(0, i).some((e) => e.gap === end.gap)}
        <text x={x + 11} y={y - 6} class="figures fill-current">gap {end.gap.toFixed(3)}</text>
      {/if}
    </g>
  {/each}
  {#each view?.meetings ?? [] as met, i (i)}
    {@const [x, y] = screen(met.at as Flat)}
    <g class={met.what === 'overlap' ? 'text-carmine' : 'text-graphite'} data-testid={met.what}>
      <title
        >{met.of.map((c) => view?.names[c]).join(met.what === 'overlap' ? ' lies on ' : ' crosses ')}</title
      >
      {#if met.what === 'overlap'}<path
          d="M{x - 7} {y - 4}h14M{x - 7} {y + 4}h14"
          stroke="currentColor"
          stroke-width="1.4"
        />
      {:else}<path
          d="M{x - 5} {y - 5}l10 10M{x + 5} {y - 5}l-10 10"
          stroke="currentColor"
          stroke-width="1"
        />{/if}
    </g>
  {/each}
  {#if (board.shape || board.form) && board.pointer}
    {@const [x, y] = screen(board.pointer.at)}
    <g class="pointer-events-none text-brass">
      {#if board.pointer.kind === 'point'}<rect
          x={x - 5}
          y={y - 5}
          width="10"
          height="10"
          fill="none"
          stroke="currentColor"
          stroke-width="1.5"
        />
      {:else if board.pointer.kind === 'middle'}<path
          d="M{x} {y - 7}l6 11h-12z"
          fill="none"
          stroke="currentColor"
          stroke-width="1.5"
        />
      {:else if board.pointer.kind === 'curve'}<circle
          cx={x}
          cy={y}
          r="5"
          fill="none"
          stroke="currentColor"
          stroke-width="1.5"
        />
      {:else if !board.quiet}<path
          d="M{x - 6} {y}h12M{x} {y - 6}v12"
          stroke="currentColor"
          stroke-width="1"
          data-testid="on-grid"
        />{/if}
      {#if board.suggested}<text x={x + 12} y={y - 10} class="fill-current text-[0.8125rem]"
          >{board.suggested}</text
        >{/if}
    </g>
  {/if}
</svg>

{#if work.dimensions && board.moving.moved}<FiguresInMotion {drawing} {view} {scale} {screen} />{/if}
