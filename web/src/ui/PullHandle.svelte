<script lang="ts">
  /** The arrow by which a face is pulled. */
  import { Vector3 } from 'three';
  import { roundStep, rounded } from '../sketch/geometry';
  import Arrow from './Arrow.svelte';
  import { useWorkplace } from '../state/workplace.svelte';
  import { heldBy, pullTo } from './pulling';

  let { tick }: { tick: number } = $props();
  const work = useWorkplace();
  const { session, trust } = work;
  const OUT = 15; // px by which the arrow stands beyond the face
  let held: { x: number; y: number; from: number; along: [number, number]; size: number } | null = null;

  const frame = $derived(trust.pulled ? work.frameOf(trust.pulled) : null);
  const found = $derived(frame ? heldBy(session.moved, session.version, frame.normal) : null);
  const chosen = $derived(found?.ranked.find((d) => d.tag === trust.pullBy) ?? found?.ranked[0]);
  const handle = $derived.by(() => {
    void tick;
    const { stage } = work;
    if (!stage || !trust.pulled || !frame || !chosen) return null;
    const [low, high] = stage.extent(trust.pulled);
    if (!low) return null;
    const way = new Vector3(...frame.normal);
    const tip = low.clone().add(high).multiplyScalar(0.5).addScaledVector(way, trust.shift);
    const [a, b] = [stage.view.screen(tip), stage.view.screen(tip.clone().add(way))];
    const size = Math.hypot(b[0] - a[0], b[1] - a[1]);
    if (size < 0.08 * stage.view.scale) return null; // looked at along its own way
    const along: [number, number] = [(b[0] - a[0]) / size, (b[1] - a[1]) / size];
    const at = [a[0] + along[0] * OUT, a[1] + along[1] * OUT];
    return { at, along, size, turn: Math.atan2(along[1], along[0]) };
  });

  function down(event: PointerEvent) {
    event.stopPropagation();
    held = {
      x: event.clientX,
      y: event.clientY,
      from: trust.shift,
      along: handle!.along,
      size: handle!.size,
    };
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
  }
  function move(event: PointerEvent) {
    if (!held || !found || !chosen || !work.stage) return;
    const [dx, dy] = [event.clientX - held.x, event.clientY - held.y];
    const mm = (dx * held.along[0] + dy * held.along[1]) / held.size;
    // Where the face comes to is a round place.
    const place = found.now + found.sign * (held.from + mm);
    const next = (rounded(place, roundStep(5 / work.stage.view.scale)) - found.now) * found.sign;
    if (next === trust.shift) return;
    trust.shift = next;
    void trust.follow(pullTo(chosen, found, next));
  }
  function up(event: PointerEvent) {
    if (held) event.stopPropagation();
    held = null;
  }
</script>

{#if handle && chosen && found}
  <button
    class="absolute flex h-7 w-7 -translate-x-1/2 -translate-y-1/2 cursor-grab items-center justify-center"
    style:left="{handle.at[0]}px"
    style:top="{handle.at[1]}px"
    aria-label="Pull the face"
    title="Pull the face"
    data-flag
    data-testid="pull-handle"
    onpointerdown={down}
    onpointermove={move}
    onpointerup={up}
  >
    <Arrow turn={handle.turn} />
  </button>
{/if}
