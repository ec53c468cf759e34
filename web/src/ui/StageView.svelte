<script lang="ts">
  /** The stage with its read-out, offers, tripod, plane flags, and the drawing board over it. */
  import { untrack } from 'svelte';
  import { Vector3 } from 'three';
  import CurvesCard from '../sketch/CurvesCard.svelte';
  import DrawingBoard from '../sketch/DrawingBoard.svelte';
  import { roundStep, rounded } from '../sketch/geometry';
  import { shown } from '../sketch/lengths';
  import { connectControls } from '../stage/controls';
  import { Stage } from '../stage/stage';
  import type { Thing } from '../stage/things';
  import { OTHER } from '../state/action';
  import { deedsOf, type Deed } from '../state/deeds';
  import { useWorkplace } from '../state/workplace.svelte';
  import MassCard from './MassCard.svelte';
  import AboutCard from './AboutCard.svelte';
  import FaceNameCard from './FaceNameCard.svelte';
  import ReceiveCard from './ReceiveCard.svelte';
  import ExchangeCard from './ExchangeCard.svelte';
  import MadeCard from './MadeCard.svelte';
  import ScheduleCard from './ScheduleCard.svelte';
  import MeasureCard from './MeasureCard.svelte';
  import Handles from './Handles.svelte';
  import PullHandle from './PullHandle.svelte';
  import Note from './Note.svelte';
  import Offers from './Offers.svelte';
  import SectionCard from './SectionCard.svelte';
  import ShownCard from './ShownCard.svelte';
  import Tripod from './Tripod.svelte';
  import ViewsCard from './ViewsCard.svelte';

  const work = useWorkplace();
  const { sights } = work;
  const STANDS = 150; // ms for which a section is not moved until its outline is asked for
  let host = $state<HTMLElement>();
  let tick = $state(0);
  let pointer = $state<Vector3 | null>(null);
  const listing = $derived.by(() => {
    void work.session.scene; // what is built meanwhile is listed too
    return work.listing && { ...work.listing, things: work.listing.things() };
  });
  let list = $state<HTMLElement>();
  // The list is walked by the arrows from its first line on.
  $effect(() => {
    if (listing && !list?.contains(document.activeElement)) list?.querySelector('button')?.focus();
  });
  function walk(event: KeyboardEvent) {
    const way = { ArrowDown: 1, ArrowUp: -1, Tab: event.shiftKey ? -1 : 1 }[event.key];
    if (!way || !list) return;
    const lines = [...list.querySelectorAll('button')];
    lines[
      (lines.indexOf(document.activeElement as HTMLButtonElement) + way + lines.length) % lines.length
    ]?.focus();
    event.preventDefault();
    event.stopPropagation();
  }

  $effect(() => {
    const stage = new Stage(host!, work.session.socket.content);
    work.stage = stage;
    stage.moved = (back) =>
      work.session.note('The view moved, so that all is in it.', false, { words: 'Back', run: back });
    const observer = new ResizeObserver(() => stage.resize());
    observer.observe(host!);
    const off = [connectControls(host!, stage.view), stage.onView(() => tick++)];
    return () => {
      off.forEach((f) => f());
      observer.disconnect();
      stage.dispose();
      work.stage = null;
    };
  });
  $effect(() => {
    if (work.session.scene) work.stage?.show(work.session.scene);
  });
  $effect(() =>
    work.stage?.furnish(work.board ? [...sights.without, 'base'] : sights.without, work.board?.step ?? ''),
  );
  $effect(() => work.stage?.section(work.cutsAt));
  $effect(() => work.stage?.drawAway(sights.awayLines));
  // While a section is moved its outline is that of the triangles; when it stands, the kernel's.
  $effect(() => {
    const frames = work.cutsAt;
    void work.session.scene;
    if (!frames.length || work.session.lookedAt !== null) return; // it is told of the part as it ends
    const timer = setTimeout(() => void sights.outline(frames).then(seeAgain), STANDS);
    return () => clearTimeout(timer);
  });
  $effect(() => work.stage?.shade(sights.shade));
  $effect(() => work.stage?.look(sights.edges, sights.perspective && !work.board));
  $effect(() => {
    void work.session.scene;
    untrack(() => sights.follow());
  });
  $effect(() =>
    work.stage?.highlight(
      work.hovered,
      work.editing
        ? work.editing.things
        : [
            ...work.picked,
            ...(work.measuring?.things ?? []),
            ...work.relatedThings,
            ...(work.board?.modelThings ?? []),
          ],
    ),
  );
  $effect(() => {
    const { compared, see, mix, sketches } = work.versions;
    const { tried } = work.trust;
    if (tried && !work.board) work.stage?.tryOn(tried);
    else work.stage?.compare(work.board ? null : compared, { ...see }, mix, sketches);
  });
  // Values are tried on against the part as it is: when that changes, they are put away.
  $effect(() => {
    void work.session.edition;
    untrack(() => work.trust.leave());
  });
  // A step or a sketch that is opened is seen on the part as it is.
  $effect(() => {
    if (work.editing || work.board) untrack(() => work.trust.endPull());
  });
  $effect(() => work.stage?.preview(work.editing?.outlook.preview ?? work.offers.ghost ?? work.route.ghost));

  /** The view as numbers (scale, target, turn), for tools that look at the page from outside. */
  const place = $derived.by(() => {
    void tick;
    const view = work.stage?.view;
    return view ? JSON.stringify([view.scale, view.target.toArray(), view.camera.quaternion.toArray()]) : '';
  });
  /** The corners at which flags stand, by their keys, since the view came to rest. */
  let stood = { view: '', corners: new Map<string, number>() };

  const flags = $derived.by(() => {
    void tick;
    void [work.session.scene, work.session.notes];
    const stage = work.stage;
    if (!stage) return [];
    // A flag stands at the corner farthest from the middle of the stage, where it covers least, but never
    // outside nor on the tripod.
    const { width, height } = stage.view;
    const off = (p: [number, number]) => Math.hypot(p[0] - width / 2, p[1] - height / 2);
    const box = host!.getBoundingClientRect();
    const cards = [...document.querySelectorAll('[data-card]')]
      .map((e) => e.getBoundingClientRect())
      .filter((r) => r.width);
    const covered = (p: [number, number]) =>
      cards.some(
        (r) =>
          p[0] + 70 > r.left - box.left &&
          p[0] < r.right - box.left &&
          p[1] > r.top - box.top &&
          p[1] - 24 < r.bottom - box.top,
      );
    const seen = (p: [number, number]) =>
      !covered(p) &&
      p[0] > 4 &&
      p[0] < width - 70 &&
      p[1] > 22 &&
      p[1] < height - 8 &&
      !(p[0] < 116 && p[1] < 120);
    const taken: [number, number][] = [];
    const free = (p: [number, number]) =>
      taken.every((t) => Math.abs(t[0] - p[0]) > 90 || Math.abs(t[1] - p[1]) > 24);
    // While the view stands still, a flag keeps the corner that it has, whatever is built meanwhile.
    if (place !== stood.view) stood = { view: place, corners: new Map() };
    return stage.flags.map((f) => {
      const places = f.corners.map((c) => stage.view.screen(c));
      const inside = places.filter(seen).sort((a, b) => off(b) - off(a));
      const held = places[stood.corners.get(f.key) ?? -1];
      const chosen =
        (held && seen(held) && free(held) && held) || (inside.find(free) ?? inside[0] ?? places[0]);
      stood.corners.set(f.key, places.indexOf(chosen));
      const best: [number, number] = [...chosen];
      // Each flag that stands is in the way of two places at most
      for (let tried = 0; !free(best) && tried <= 2 * taken.length; tried++) best[1] += 25;
      taken.push(best);
      return {
        ...f,
        at: [Math.min(Math.max(best[0], 4), width - 70), Math.min(Math.max(best[1], 22), height - 8)],
      };
    });
  });

  /** The copies of a pattern under edit, each with a dot that leaves it out. */
  const dots = $derived.by(() => {
    void tick;
    const { stage, editing } = work;
    if (!stage || !editing) return [];
    const left = editing.leftOut;
    return Object.entries(editing.outlook.preview?.dots ?? {}).map(([number, place]) => ({
      number,
      at: stage.view.screen(new Vector3(...(place as [number, number, number]))),
      out: left.includes(number),
    }));
  });

  let pressed: { x: number; y: number; button: number } | null = null;
  const local = (e: MouseEvent): [number, number] => {
    const box = host!.getBoundingClientRect();
    return [e.clientX - box.left, e.clientY - box.top];
  };
  let looked: [number, number] = [0, 0];
  /** Where the hand is on the stage. */
  let rests: [number, number] | null = null;
  /** What is under the pointer and does not fit the blank that waits, with what would. */
  let misfit = $state('');
  /** The note of the hole that is hovered. */
  const note = $derived.by(() => {
    const step = work.session.step(work.hovered?.madeBy ?? '');
    return step?.kind === 'hole' ? (work.session.report(step.id)?.message ?? '') : '';
  });
  /** A box (two places), or with shift a lasso, that is being drawn on the stage. */
  let stretch = $state<[number, number][]>([]);
  function stretched(event: PointerEvent): boolean {
    if (!pressed || pressed.button !== 0 || !(event.buttons & 1) || pull) return false;
    if (!stretch.length && Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) < 5) return false;
    const at = local(event);
    if (!stretch.length) {
      stretch = [at];
      host!.setPointerCapture(event.pointerId);
    }
    stretch = event.shiftKey ? [...stretch, at] : [stretch[0], at];
    return true;
  }
  function move(event: PointerEvent) {
    if (!work.board && work.stage && stretched(event)) return;
    rests = null;
    if (work.board || event.buttons & 6 || !work.stage) return;
    if ((event.target as HTMLElement).closest('[data-flag]')) return; // what a flag says is what it takes
    rests = local(event);
    see(...rests);
  }
  /** What has come only now may lie under a hand that rests. */
  function seeAgain() {
    if (rests && !pressed && !work.board) see(...rests);
  }
  function see(x: number, y: number) {
    if (!work.stage) return;
    // What was chosen by its key stays chosen while the hand only trembles.
    const chosen = work.chosen && Math.hypot(x - looked[0], y - looked[1]) < 4 ? work.hovered?.key : '';
    if (!chosen) [looked, work.chosen] = [[x, y], false];
    const all = work.stage.under(x, y, !!work.measuring);
    work.under = work.pickable(all);
    misfit =
      !work.under.length && all.length && work.editing
        ? `${all[0].words} does not fit here; wanted is ${work.editing.missing[0] ?? 'nothing more'}`
        : '';
    work.hovered = work.under.find((t) => t.key === chosen) ?? work.under[0] ?? null;
    pointer = work.hovered?.place ?? work.stage.view.place(x, y);
  }
  function down(event: PointerEvent) {
    pressed = { x: event.clientX, y: event.clientY, button: event.button };
    if (event.button === 0) {
      (document.activeElement as HTMLElement | null)?.blur();
      work.listing = null;
      work.drawer = '';
    }
  }
  function up(event: PointerEvent) {
    if (!pressed || work.board || !work.stage) return;
    const still = Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) < 5;
    const button = pressed.button;
    pressed = null;
    if (stretch.length > 1 && sights.boxing) {
      work.stage.view.zoomTo(stretch[0], stretch.at(-1)!);
      [stretch, sights.boxing] = [[], false];
      return;
    }
    if (stretch.length > 1) {
      work.catch(work.stage.planes.caught(stretch, work.stage.view), event.shiftKey || event.ctrlKey);
      stretch = [];
      return;
    }
    if (!still) {
      work.editing?.ask();
      return;
    }
    const [x, y] = local(event);
    if (button === 0) {
      if (!work.hovered) move(event);
      work.pick(work.hovered, event.shiftKey || event.ctrlKey);
    } else if (button === 2) {
      const things = work.pickable(work.stage.under(x, y, !!work.measuring));
      work.listing = { x, y, things: () => things };
    }
  }
  /** Dragging a flag pulls a parallel copy off its plane: a new plane at that distance, in round steps. */
  let pull: { key: string; x: number; y: number; base: { normal: Vector3; origin: Vector3 } | null } | null =
    null;
  function dragOff(event: PointerEvent) {
    const stage = work.stage;
    if (!pull || !stage || Math.hypot(event.clientX - pull.x, event.clientY - pull.y) < 6) return;
    const thing = stage.planes.named(pull.key);
    const frame = thing?.facets.includes('plane') ? work.frameOf(thing) : null;
    const kind = work.about.kinds.find((k) => k.kind === 'plane');
    if (!thing || !frame || !kind) return;
    if (!pull.base) {
      pull.base = { normal: new Vector3(...frame.normal), origin: new Vector3(...frame.origin) };
      work.picked = [thing];
      work.begin(kind, 'offset');
    }
    const [a, b] = [pull.base.origin, pull.base.origin.clone().add(pull.base.normal)].map((p) =>
      stage.view.screen(p),
    );
    const along = [b[0] - a[0], b[1] - a[1]];
    const size = along[0] ** 2 + along[1] ** 2;
    if (size < 1e-6) return; // looked at square-on, a plane can not be pulled
    const mm = ((event.clientX - pull.x) * along[0] + (event.clientY - pull.y) * along[1]) / size;
    const step = roundStep(6 / stage.view.scale);
    const distance = rounded(mm, step);
    if (!work.editing || work.editing.how !== 'offset') return;
    work.editing.fields.side = distance < 0 ? 'back' : 'out';
    work.editing.set('distance', {
      ...(work.editing.fields.distance as object),
      formula: `${Math.abs(distance)} mm`,
    });
  }
  /** What can be done with the first thing of the list; nothing while a pick is waited for. */
  const deeds = $derived(listing && !work.editing && !work.board ? deedsOf(work, listing.things[0]) : []);
  function done(deed: Deed) {
    work.listing = null;
    void deed.run();
  }
  function choose(thing: Thing) {
    work.listing = null;
    work.pick(thing, true);
  }
  const active = $derived(work.session.scene?.active ?? null);
  const system = $derived(work.session.step(work.session.part?.active_system ?? '')?.name ?? '');
  const held = $derived.by(() => {
    if (!pointer) return [];
    const unit = work.session.part?.units?.length ?? 'mm';
    if (!active) return pointer.toArray().map((v) => shown(v, unit));
    const from = pointer.clone().sub(new Vector3(...active.origin));
    return [active.x, active.y, active.normal].map((d) => shown(from.dot(new Vector3(...d)), unit));
  });
</script>

<svelte:window
  onkeydowncapture={(e) => {
    if (e.key !== 'Escape' || !stretch.length) return;
    e.stopImmediatePropagation();
    [stretch, pressed] = [[], null];
  }}
/>

<div
  class="relative h-full w-full"
  bind:this={host}
  onpointermove={move}
  onpointerleave={() => (rests = null)}
  onpointerdown={down}
  onpointerup={up}
  ondragover={(e) => e.preventDefault()}
  ondrop={(e) => {
    e.preventDefault();
    const file = e.dataTransfer?.files[0];
    if (file && /\.(step|stp|stl)$/i.test(file.name)) void work.exchange.receive(file);
    else if (file) work.session.note('A STEP or STL file can be dropped here (.step, .stp, .stl).', true);
  }}
  role="application"
  aria-label="Stage of {work.session.part?.name ?? 'the part'}"
  data-view={place}
  data-draws={tick >= 0 ? work.stage?.draws : 0}
  data-testid="stage"
>
  {#if !work.board}
    {#each flags as flag (flag.key)}
      <button
        class="absolute flex min-h-[24px] min-w-[24px] -translate-y-full items-center gap-1.5 pr-1 text-[0.8125rem] {flag.base
          ? 'text-graphite'
          : 'text-verdigris'} {flag.faint ? 'opacity-55 hover:opacity-100 focus:opacity-100' : ''}"
        style:left="{flag.at[0]}px"
        style:top="{flag.at[1]}px"
        onpointerdown={(e) => {
          e.stopPropagation();
          pull = { key: flag.key, x: e.clientX, y: e.clientY, base: null };
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onpointermove={(e) => dragOff(e)}
        onpointerup={(e) => {
          e.stopPropagation();
          const pulled = pull?.base;
          pull = null;
          if (pulled) return void work.editing?.ask();
          e.currentTarget.blur();
          const thing = work.stage?.planes.named(flag.key);
          if (thing) work.pick(thing, e.shiftKey);
        }}
        onclick={(e) => {
          const thing = work.stage?.planes.named(flag.key);
          if (thing && e.detail === 0) work.pick(thing, e.shiftKey); // Enter or Space
        }}
        onpointerenter={() => (work.hovered = work.stage?.planes.named(flag.key) ?? null)}
        onfocus={() => (work.hovered = work.stage?.planes.named(flag.key) ?? null)}
        data-flag
        data-testid="flag-{flag.name}"
      >
        {#if flag.letter}<span class="border border-current bg-paper px-1 font-semibold">{flag.letter}</span
          >{/if}{flag.name}
      </button>
    {/each}
    <Handles {tick} />
    {#if work.trust.pulling && !work.board}<PullHandle {tick} />{/if}
    {#if work.measuring}<MeasureCard measuring={work.measuring} turn={tick} />
    {:else if work.weighing}<MassCard turn={tick} />
    {:else if work.exchange.open}<ExchangeCard />
    {:else if work.route.made}<MadeCard />
    {:else if work.namingFace}{#key work.namingFace}<FaceNameCard />{/key}
    {:else if work.exchange.asking}<ReceiveCard />
    {:else if work.route.aboutOpen}<AboutCard />
    {:else if work.scheduling}<ScheduleCard turn={tick} />
    {:else if sights.viewing}<ViewsCard />
    {:else if sights.listing}<ShownCard />
    {:else if sights.section}<SectionCard section={sights.section} turn={tick} />{/if}
    {#each dots as dot (dot.number)}
      <button
        class="absolute h-4 w-4 -translate-x-1/2 -translate-y-1/2 rounded-full border-2 {dot.out
          ? 'border-carmine bg-paper'
          : 'border-ink bg-brass'} hover:scale-125"
        style:left="{dot.at[0]}px"
        style:top="{dot.at[1]}px"
        title="Copy {dot.number}: {dot.out ? 'take it in again' : 'leave it out'}"
        aria-label="Copy {dot.number}"
        aria-pressed={!dot.out}
        onpointerdown={(e) => e.stopPropagation()}
        onpointerup={(e) => e.stopPropagation()}
        onclick={() => work.editing?.toggleDot(dot.number)}
        data-flag
        data-testid="dot"
      ></button>
    {/each}
    {#if stretch.length > 1}
      {@const [a, b] = stretch}
      <svg
        class="pointer-events-none absolute inset-0 h-full w-full"
        aria-hidden="true"
        data-testid="stretch"
      >
        <path
          d={stretch.length === 2
            ? `M${a[0]} ${a[1]}H${b[0]}V${b[1]}H${a[0]}Z`
            : `M${stretch.map((p) => p.join(' ')).join('L')}Z`}
          class="fill-brass/10 stroke-brass [stroke-dasharray:4_3] [stroke-width:1]"
        />
      </svg>
    {/if}
  {:else if work.stage}
    <DrawingBoard board={work.board} />
    {#if work.board.fromFile.file}<CurvesCard from={work.board.fromFile} />{/if}
  {/if}
  <Tripod {tick} />
  {#if !work.board}
    <div class="pointer-events-none absolute right-3 bottom-3 left-4 flex flex-col gap-2">
      <div class="figures text-graphite" data-testid="readout">
        <div class="whitespace-pre">
          {held.length
            ? `${system ? `${system}  ` : ''}x ${held[0]}  y ${held[1]}  z ${held[2]} ${work.session.part?.units?.length ?? 'mm'}`
            : ''}
        </div>
        <div class="h-[1.35em]">
          {work.hovered?.words ?? misfit}{#if note}, <Note text={note} />{/if}{work.under.length > 1
            ? `, and ${work.under.length - 1} more here (${OTHER}, or right click)`
            : ''}
        </div>
      </div>
      <div class="min-h-8"><Offers /></div>
    </div>
  {/if}
  {#if listing}
    <ul
      bind:this={list}
      onkeydown={walk}
      class="absolute z-20 max-h-80 min-w-56 overflow-y-auto border border-ink bg-paper py-1 text-[0.875rem]"
      role="menu"
      style:left="{listing.x}px"
      style:top="{listing.y}px"
      data-testid="under"
    >
      {#each listing.things as thing (thing.key)}
        <li>
          <button
            class="w-full px-3 py-1 text-left hover:bg-wash focus:bg-wash"
            role="menuitem"
            onfocus={() => (work.hovered = thing)}
            onclick={(e) => e.detail === 0 && choose(thing)}
            onpointerdown={(e) => e.stopPropagation()}
            onpointerenter={() => (work.hovered = thing)}
            onpointerup={(e) => {
              e.stopPropagation();
              choose(thing);
            }}>{thing.words}</button
          >
        </li>
      {:else}
        <li class="px-3 py-1 text-graphite">Nothing here{work.editing ? ' that fits this blank' : ''}.</li>
      {/each}
      {#each deeds as deed, i (deed.title)}
        <li class={i ? '' : 'mt-1 border-t border-rule pt-1'}>
          <button
            class="w-full px-3 py-1 text-left hover:bg-wash focus:bg-wash"
            role="menuitem"
            data-testid="deed"
            onclick={(e) => e.detail === 0 && done(deed)}
            onpointerdown={(e) => e.stopPropagation()}
            onpointerup={(e) => {
              e.stopPropagation();
              done(deed);
            }}>{deed.title}</button
          >
        </li>
      {/each}
    </ul>
  {/if}
  {#if work.session.scene && !work.session.steps.length && !work.editing}
    <div
      data-card
      class="pointer-events-none absolute bottom-24 left-1/2 -translate-x-1/2 border border-rule bg-paper px-6 py-4 text-center"
    >
      <p class="font-medium">An empty part</p>
      <p class="mt-1 text-[0.875rem] text-graphite">
        Click a base plane and take an offer below, or press <span class="figures text-brass">k n</span> for a
        sketch, <span class="figures text-brass">d p</span> for a plane.
      </p>
    </div>
  {/if}
</div>
