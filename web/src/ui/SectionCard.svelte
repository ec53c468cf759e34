<script lang="ts">
  /**
   * The part cut open at up to three planes: how far off each, how turned, which side is taken away; by
   * figures, or pulled by an arrow and two handles on the stage. Kept under a name.
   */
  import { Vector3 } from 'three';
  import type { Spot } from '../api/types';
  import { roundStep, rounded } from '../sketch/geometry';
  import { inMm, lengthOf } from '../sketch/lengths';
  import { MOST, frameOf, type Section } from '../state/sights.svelte';
  import { useWorkplace } from '../state/workplace.svelte';
  import Card from './Card.svelte';
  import KeepAs from './KeepAs.svelte';

  let { section, turn }: { section: Section; turn: number } = $props();
  const work = useWorkplace();
  const { sights, session } = work;
  const unit = $derived(session.part?.units?.length ?? 'mm');
  const DEGREE = Math.PI / 180;
  const OUT = 46; // px from the middle of the cut to its handles

  const box = $derived.by(() => {
    void session.scene;
    return work.stage?.box() ?? [new Vector3(), new Vector3()];
  });
  /** How far the part reaches to both sides of the plane, mm. */
  const reach = $derived.by(() => {
    const [low, high] = box;
    const [n, o] = [section.frame.normal, section.frame.origin].map((v) => new Vector3(...(v as Spot)));
    const ends = [low.x, high.x].flatMap((x) =>
      [low.y, high.y].flatMap((y) => [low.z, high.z].map((z) => new Vector3(x, y, z).sub(o).dot(n))),
    );
    return [Math.min(...ends), Math.max(...ends)];
  });
  const shown = $derived(Number((section.off / inMm(unit)).toFixed(3)));
  const misses = $derived(
    !section.turns[0] && !section.turns[1] && (section.off <= reach[0] || section.off >= reach[1]),
  );
  function typed(text: string) {
    const mm = lengthOf(text, unit);
    if (mm === null) session.note(`“${text}” is no length. Write one such as 12 or 0.5 in.`, true);
    else sights.change({ off: mm });
  }
  function turned(i: 0 | 1, text: string) {
    const degrees = Number(text.replace(/°|deg/, '').trim());
    if (!text.trim() || !Number.isFinite(degrees) || Math.abs(degrees) > 180)
      return session.note(`“${text}” is no angle in degrees, from −180 to 180.`, true);
    const turns: [number, number] = [...section.turns];
    turns[i] = degrees * DEGREE;
    sights.change({ turns });
  }
  const figure = (rad: number) => Number((rad / DEGREE).toFixed(2));

  /** The middle of the part in the plane of a section, and the plane's directions. */
  function lie(s: Section) {
    const frame = frameOf(s);
    const [o, x, y, n] = [frame.origin, frame.x, frame.y, frame.normal].map(
      (v) => new Vector3(...(v as Spot)),
    );
    const middle = box[0].clone().add(box[1]).multiplyScalar(0.5);
    const at = middle.addScaledVector(n, o.clone().sub(middle).dot(n));
    return { at, x, y, n };
  }
  const handles = $derived.by(() => {
    void turn;
    const view = work.stage?.view;
    if (!view) return null;
    const { at, x, y, n } = lie(section);
    const far = OUT / view.scale;
    const on = (way: Vector3) => view.screen(at.clone().addScaledVector(way, far));
    return { at: view.screen(at), n: on(n), x: on(x), y: on(y) };
  });

  let held: { what: 'off' | 0 | 1; x: number; y: number; from: Section } | null = null;
  function grab(event: PointerEvent, what: 'off' | 0 | 1) {
    event.stopPropagation();
    held = { what, x: event.clientX, y: event.clientY, from: section };
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
  }
  function pull(event: PointerEvent) {
    const view = work.stage?.view;
    if (!held || !view) return;
    const [dx, dy] = [event.clientX - held.x, event.clientY - held.y];
    if (held.what === 'off') {
      const n = new Vector3(...(section.frame.normal as Spot));
      const { at } = lie(held.from);
      const [a, b] = [view.screen(at), view.screen(at.clone().add(n))];
      const along = [b[0] - a[0], b[1] - a[1]];
      const size = along[0] ** 2 + along[1] ** 2;
      if (size < 1e-3) return; // looked at square-on, it can not be pulled
      const step = roundStep(3 / view.scale / inMm(unit)) * inMm(unit);
      sights.change({ off: rounded(held.from.off + (dx * along[0] + dy * along[1]) / size, step) });
      return;
    }
    // Of all whole degrees the one that brings the handle nearest to the pointer.
    const handle = held.what === 0 ? 'y' : 'x';
    const far = OUT / view.scale;
    const tip = (turns: [number, number]) => {
      const l = lie({ ...held!.from, turns });
      return view.screen(l.at.addScaledVector(l[handle], far));
    };
    const start = tip(held.from.turns);
    let [best, least] = [0, Infinity];
    for (let degrees = -180; degrees <= 180; degrees += 1) {
      const turns: [number, number] = [...held.from.turns];
      turns[held.what] = degrees * DEGREE;
      const [x, y] = tip(turns);
      const off = Math.hypot(x - start[0] - dx, y - start[1] - dy) + Math.abs(degrees) * 1e-6;
      if (off < least) [best, least] = [degrees, off];
    }
    const turns: [number, number] = [...held.from.turns];
    turns[held.what] = best * DEGREE;
    sights.change({ turns });
  }
  const drop = (event: PointerEvent) => (event.stopPropagation(), (held = null));

  const kept = $derived(session.part?.sections ?? []);
</script>

{#if handles}
  <svg class="pointer-events-none absolute inset-0 z-10 h-full w-full text-brass">
    {#each [['off', handles.n, 'Move the section'], [0, handles.y, 'Turn the section about its X'], [1, handles.x, 'Turn the section about its Y']] as const as [what, [x, y], words] (what)}
      <g
        role="presentation"
        class="pointer-events-auto cursor-grab"
        data-testid="section-{what}"
        onpointerdown={(e) => grab(e, what)}
        onpointermove={pull}
        onpointerup={drop}
      >
        <title>{words}</title>
        <path d="M{handles.at[0]} {handles.at[1]}L{x} {y}" stroke="currentColor" stroke-width="1.5" />
        {#if what === 'off'}
          {@const a = Math.atan2(y - handles.at[1], x - handles.at[0])}
          <path
            d="M{x + 14 * Math.cos(a)} {y + 14 * Math.sin(a)}L{x + 7 * Math.cos(a + 1.9)} {y +
              7 * Math.sin(a + 1.9)}L{x + 7 * Math.cos(a - 1.9)} {y + 7 * Math.sin(a - 1.9)}Z"
            fill="currentColor"
          />
        {:else}<circle cx={x} cy={y} r="6" class="fill-paper" stroke="currentColor" stroke-width="2" />{/if}
        <circle cx={x} cy={y} r="12" fill="transparent" />
      </g>
    {/each}
  </svg>
{/if}
<Card title="Section" close="Close the section" onclose={() => (sights.sections = [])} name="section">
  <div class="px-3 py-2">
    {#if sights.sections.length > 1}
      <p class="mb-2 flex flex-wrap gap-1.5">
        {#each sights.sections as s, i (i)}<button
            class="border px-1.5 {i === sights.at ? 'border-ink bg-wash' : 'border-rule text-graphite'}"
            aria-pressed={i === sights.at}
            onclick={() => (sights.at = i)}>{i + 1} {s.name}</button
          >{/each}
      </p>
    {/if}
    <p class="text-graphite">at {section.name}</p>
    <p class="mt-1 flex items-baseline justify-between gap-2">
      <span class="text-graphite">moved by</span>
      <span class="whitespace-nowrap"
        ><input
          class="figures w-20 border border-brass bg-white px-1 text-right"
          aria-label="moved by"
          value={shown}
          onfocus={(e) => e.currentTarget.select()}
          onchange={(e) => typed(e.currentTarget.value)}
          onkeydown={(e) => {
            if (e.key === 'Enter' || e.key === 'Escape') e.currentTarget.blur();
          }}
        />
        {unit}</span
      >
    </p>
    <input
      class="mt-2 w-full"
      type="range"
      aria-label="place of the section"
      min={reach[0]}
      max={reach[1]}
      step={(reach[1] - reach[0]) / 500 || 1}
      value={section.off}
      oninput={(e) => sights.change({ off: Number(e.currentTarget.value) })}
    />
    <p class="mt-1 flex items-baseline justify-between gap-2 text-graphite">
      turned about
      {#each ['X', 'Y'] as const as axis, i (axis)}<label class="flex items-baseline gap-1"
          >{axis}<input
            class="figures w-14 border border-rule bg-white px-1 text-right text-ink"
            aria-label="turned about {axis}"
            value={figure(section.turns[i as 0 | 1])}
            onfocus={(e) => e.currentTarget.select()}
            onchange={(e) => turned(i as 0 | 1, e.currentTarget.value)}
            onkeydown={(e) => {
              if (e.key === 'Enter' || e.key === 'Escape') e.currentTarget.blur();
            }}
          />°</label
        >{/each}
    </p>
    {#if section.gone}<p class="text-carmine">
        What it was cut at is not there any more; it stays where that was.
      </p>{/if}
    {#if misses}<p class="text-graphite">The plane misses the part here; move it.</p>{/if}
    <label class="mt-1 flex items-center gap-1.5 text-graphite"
      ><input type="checkbox" bind:checked={sights.awayLines} /> what is cut away as thin lines</label
    >
    <p class="mt-2 flex flex-wrap gap-2">
      <button class="button !py-0" onclick={() => sights.change({ flipped: !section.flipped })}
        >Other side</button
      >
      {#if sights.sections.length > 1}<button class="button !py-0" onclick={() => sights.uncut()}
          >Without this</button
        >{/if}
      {#if sights.sections.length < MOST}<span class="text-graphite">Pick another plane, l s: a corner.</span
        >{/if}
    </p>
    {#each kept as k (k.name)}
      <p class="mt-1 flex justify-between gap-2 border-t border-rule pt-1">
        <button class="truncate hover:underline" onclick={() => sights.cutAsKept(k)}>{k.name}</button>
        <button
          class="text-graphite hover:text-carmine"
          aria-label="Forget {k.name}"
          onclick={() => session.try({ do: 'forget_sight', kind: 'section', name: k.name })}>×</button
        >
      </p>
    {/each}
    <KeepAs what="section" keep={(name) => sights.keepSection(name)} />
  </div>
</Card>
