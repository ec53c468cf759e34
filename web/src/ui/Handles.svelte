<script lang="ts">
  /** Numbers of the step under edit that can be pulled on the stage: an arrow each, snapping to round values; its figure beside it. */
  import { Vector3 } from 'three';
  import { roundStep, rounded } from '../sketch/geometry';
  import { useWorkplace } from '../state/workplace.svelte';

  let { tick }: { tick: number } = $props();
  const work = useWorkplace();
  type Held = { field: string; origin: Vector3; way: Vector3; factor: number; x: number; y: number; from: number };
  let held: Held | null = null;

  /** The present value in mm, as far as a plain figure tells it. */
  const value = (field: string) => {
    const found = /^\s*(-?\d*\.?\d+)\s*(mm|in|cm|m)?\s*$/.exec((work.editing?.fields[field] as { formula: string } | undefined)?.formula ?? '');
    const units: Record<string, number> = { mm: 1, in: 25.4, cm: 10, m: 1000 };
    return found ? Number(found[1]) * (units[found[2] ?? ''] ?? (work.session.part?.units?.length === 'in' ? 25.4 : 1)) : null;
  };
  const handles = $derived.by(() => {
    void tick;
    const { stage, editing } = work;
    if (!stage || !editing) return [];
    return (editing.preview?.handles ?? []).flatMap((h) => {
      const now = value(h.field);
      if (now === null) return [];
      const [origin, way] = [new Vector3(...(h.origin as [number, number, number])), new Vector3(...(h.way as [number, number, number]))];
      const tip = origin.clone().addScaledVector(way, now / h.factor);
      const [a, b] = [stage.view.screen(tip), stage.view.screen(tip.clone().add(way))];
      const size = Math.hypot(b[0] - a[0], b[1] - a[1]);
      if (size < 0.08 * stage.view.scale) return []; // looked at along its own way, it can not be pulled
      return [{ field: h.field, origin, way, factor: h.factor, now, at: a, turn: Math.atan2(b[1] - a[1], b[0] - a[0]), label: editing.variant.blanks[h.field]?.label ?? h.field }];
    });
  });

  function down(event: PointerEvent, handle: (typeof handles)[number]) {
    event.stopPropagation();
    held = { ...handle, x: event.clientX, y: event.clientY, from: handle.now };
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
  }
  function move(event: PointerEvent) {
    const stage = work.stage;
    if (!held || !stage || !work.editing) return;
    const [a, b] = [stage.view.screen(held.origin), stage.view.screen(held.origin.clone().add(held.way))];
    const along = [b[0] - a[0], b[1] - a[1]];
    const mm = ((event.clientX - held.x) * along[0] + (event.clientY - held.y) * along[1]) / (along[0] ** 2 + along[1] ** 2);
    const inch = work.session.part?.units?.length === 'in' ? 25.4 : 1;
    const step = roundStep(5 / stage.view.scale / inch);
    const next = rounded((held.from + mm * held.factor) / inch, step);
    if (next <= 0) return;
    work.editing.set(held.field, { ...(work.editing.fields[held.field] as object), formula: `${next} ${inch === 1 ? 'mm' : 'in'}` });
  }
  function up(event: PointerEvent) {
    if (!held) return;
    event.stopPropagation();
    work.editing?.ask(held.field);
    held = null;
  }
</script>

{#if handles.length && work.editing}
  {@const [h] = handles}
  <span class="absolute flex gap-1" style:left="{h.at[0] + 16}px" style:top="{h.at[1] + 2}px">
    {#if work.editing.turning}<button class="h-6 w-6 border border-rule bg-paper/85 text-[13px] hover:border-ink" title="Turn it round" aria-label="Turn it round" data-flag onpointerdown={(e) => e.stopPropagation()} onpointerup={(e) => e.stopPropagation()} onclick={() => (work.editing?.other(), work.editing?.ask())}>⇄</button>{/if}
    {#if ['add', 'cut'].includes(String(work.editing.fields.result)) && work.editing.variant.blanks.result}<button class="h-6 w-6 border border-rule bg-paper/85 text-[13px] hover:border-ink" title="Add or cut" aria-label="Add or cut" data-flag onpointerdown={(e) => e.stopPropagation()} onpointerup={(e) => e.stopPropagation()} onclick={() => (work.editing?.set('result', work.editing.fields.result === 'add' ? 'cut' : 'add'), work.editing?.ask())}>±</button>{/if}
  </span>
{/if}
{#each handles as h (h.field)}
  <button
    class="absolute flex h-7 w-7 -translate-x-1/2 -translate-y-1/2 cursor-grab items-center justify-center"
    style:left="{h.at[0]}px"
    style:top="{h.at[1]}px"
    aria-label="Pull {h.label}"
    title="Pull: {h.label}"
    data-flag
    data-testid="handle-{h.field}"
    onpointerdown={(e) => down(e, h)}
    onpointermove={move}
    onpointerup={up}
  >
    <svg class="pointer-events-none h-7 w-7 text-brass" viewBox="-14 -14 28 28" aria-hidden="true" style:transform="rotate({h.turn}rad)">
      <path d="M-11 0H6M2 -5L10 0L2 5Z" fill="currentColor" stroke="currentColor" stroke-width="2.2" />
    </svg>
  </button>
  <span class="figures pointer-events-none absolute bg-paper/85 px-1 text-[12.5px]" style:left="{h.at[0] + 16}px" style:top="{h.at[1] - 20}px">{(work.editing?.fields[h.field] as { formula: string }).formula}</span>
{/each}
