<script lang="ts">
  /**
   * Numbers of the step under edit that can be pulled on the stage: an arrow each, snapping to round values;
   * its figure beside it.
   */
  import { Vector3 } from 'three';
  import { roundStep, rounded } from '../sketch/geometry';
  import Arrow from './Arrow.svelte';
  import { useWorkplace } from '../state/workplace.svelte';

  let { tick }: { tick: number } = $props();
  const work = useWorkplace();
  type Spot = [number, number, number];
  type Handle = {
    field: string;
    origin: Vector3;
    way: Vector3;
    about: Vector3 | null;
    factor: number;
    now: number;
  };
  type Held = Handle & { x: number; y: number };
  let held: Held | null = null;
  const OUT = 15; // px by which an arrow stands beyond its place, so that two at one place are both in reach
  const TURN = Math.PI / 180;
  const UNITS: Record<string, number> = { mm: 1, in: 25.4, cm: 10, m: 1000, deg: TURN, rad: 1 };

  const unit = (angle: boolean) =>
    angle ? (work.session.part?.units?.angle ?? 'deg') : (work.session.part?.units?.length ?? 'mm');
  /** The present value in mm or radians, as far as a plain figure tells it. */
  const value = (field: string, angle: boolean) => {
    const found = /^\s*(-?\d*\.?\d+)\s*([a-z]+)?\s*$/.exec(
      (work.editing?.fields[field] as { formula: string } | undefined)?.formula ?? '',
    );
    const size = UNITS[found?.[2] ?? unit(angle)];
    return found && size ? Number(found[1]) * size : null;
  };
  /** Where a handle's tip is at a value. */
  const tipAt = (h: Handle, at: number) => {
    const along = at / h.factor;
    return h.about
      ? h.origin.clone().sub(h.about).applyAxisAngle(h.way, along).add(h.about)
      : h.origin.clone().addScaledVector(h.way, along);
  };
  /** Which way a handle's tip goes as its value grows, per mm. */
  const ahead = (h: Handle, tip: Vector3) =>
    h.about ? h.way.clone().cross(tip.clone().sub(h.about)).normalize() : h.way;

  const handles = $derived.by(() => {
    void tick;
    const { stage, editing } = work;
    if (!stage || !editing) return [];
    return (editing.outlook.preview?.handles ?? []).flatMap((told) => {
      const now = value(told.field, !!told.about);
      if (now === null) return [];
      const h: Handle = {
        field: told.field,
        factor: told.factor,
        now,
        origin: new Vector3(...(told.origin as Spot)),
        way: new Vector3(...(told.way as Spot)),
        about: told.about ? new Vector3(...(told.about as Spot)) : null,
      };
      const tip = tipAt(h, now);
      const [a, b] = [stage.view.screen(tip), stage.view.screen(tip.clone().add(ahead(h, tip)))];
      const size = Math.hypot(b[0] - a[0], b[1] - a[1]);
      if (size < 0.08 * stage.view.scale) return []; // looked at along its own way, it can not be pulled
      const out: [number, number] = [((b[0] - a[0]) / size) * OUT, ((b[1] - a[1]) / size) * OUT];
      return [
        {
          ...h,
          out,
          at: [a[0] + out[0], a[1] + out[1]],
          turn: Math.atan2(out[1], out[0]),
          label: editing.variant.blanks[h.field]?.label ?? h.field,
        },
      ];
    });
  });

  function down(event: PointerEvent, handle: (typeof handles)[number]) {
    event.stopPropagation();
    held = {
      ...handle,
      x: event.clientX - handle.at[0] + handle.out[0],
      y: event.clientY - handle.at[1] + handle.out[1],
    };
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
  }
  function move(event: PointerEvent) {
    if (!held || !work.stage || !work.editing) return;
    const pointer: [number, number] = [event.clientX - held.x, event.clientY - held.y];
    const next = held.about ? turned(held, pointer) : pulled(held, pointer);
    if (next > 0)
      work.editing.set(held.field, {
        ...(work.editing.fields[held.field] as object),
        formula: `${next} ${unit(!!held.about)}`,
      });
  }
  /** The length a pointer pulls to, in the part's unit. */
  function pulled(h: Held, pointer: [number, number]) {
    const view = work.stage!.view;
    const tip = tipAt(h, h.now);
    const [a, b] = [view.screen(tip), view.screen(tip.clone().add(h.way))];
    const along = [b[0] - a[0], b[1] - a[1]];
    const mm =
      ((pointer[0] - a[0]) * along[0] + (pointer[1] - a[1]) * along[1]) / (along[0] ** 2 + along[1] ** 2);
    const inch = UNITS[unit(false)];
    return rounded((h.now + mm * h.factor) / inch, roundStep(5 / view.scale / inch));
  }
  /**
   * The angle a pointer turns to, in the part's unit: of all round ones the one whose place is nearest to it.
   */
  function turned(h: Held, pointer: [number, number]) {
    const view = work.stage!.view;
    const radius = h.origin.distanceTo(h.about!);
    const step = Math.min(15, Math.max(1, roundStep(5 / view.scale / radius / TURN)));
    let [best, least] = [0, Infinity];
    for (let degrees = step; degrees <= 360; degrees += step) {
      const [x, y] = view.screen(tipAt(h, degrees * TURN));
      const far = Math.hypot(x - pointer[0], y - pointer[1]);
      if (far < least) [best, least] = [degrees, far];
    }
    return unit(true) === 'rad' ? Number((best * TURN).toFixed(6)) : best;
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
    {#if work.editing.turning}<button
        class="h-6 w-6 border border-rule bg-paper/85 text-[0.8125rem] hover:border-ink"
        title="Turn it round"
        aria-label="Turn it round"
        data-flag
        onpointerdown={(e) => e.stopPropagation()}
        onpointerup={(e) => e.stopPropagation()}
        onclick={() => (work.editing?.other(), work.editing?.ask())}>⇄</button
      >{/if}
    {#if ['add', 'cut'].includes(String(work.editing.fields.result)) && work.editing.variant.blanks.result}<button
        class="h-6 w-6 border border-rule bg-paper/85 text-[0.8125rem] hover:border-ink"
        title="Add or cut"
        aria-label="Add or cut"
        data-flag
        onpointerdown={(e) => e.stopPropagation()}
        onpointerup={(e) => e.stopPropagation()}
        onclick={() => (
          work.editing?.set('result', work.editing.fields.result === 'add' ? 'cut' : 'add'),
          work.editing?.ask()
        )}>±</button
      >{/if}
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
    <Arrow turn={h.turn} />
  </button>
  <span
    class="figures pointer-events-none absolute bg-paper/85 px-1 text-[0.78125rem]"
    style:left="{h.at[0] + 16}px"
    style:top="{h.at[1] - 20}px">{(work.editing?.fields[h.field] as { formula: string }).formula}</span
  >
{/each}
