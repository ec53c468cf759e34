<script lang="ts">
  /** Three labelled arms. Click one to look along it, again for the opposite. */
  import { Vector3 } from 'three';
  import { useWorkplace } from '../state/workplace.svelte';

  let { tick }: { tick: number } = $props();
  const work = useWorkplace();
  const axes = [
    { name: 'X', d: new Vector3(1, 0, 0) },
    { name: 'Y', d: new Vector3(0, 1, 0) },
    { name: 'Z', d: new Vector3(0, 0, 1) },
  ];
  const arms = $derived.by(() => {
    void tick;
    const view = work.stage?.view;
    if (!view) return [];
    const turned = view.camera.quaternion.clone().invert();
    return axes.map((a) => {
      const v = a.d.clone().applyQuaternion(turned);
      return { ...a, x: 36 * v.x, y: -36 * v.y, z: v.z };
    });
  });
  function look(d: Vector3) {
    const view = work.stage!.view;
    const to = view.towards().dot(d) > 0.999 ? d.clone().negate() : d.clone();
    view.lookFrom(to, Math.abs(d.z) > 0.5 ? new Vector3(0, Math.sign(to.z), 0) : new Vector3(0, 0, 1));
  }
</script>

<svg class="absolute top-3 left-3" width="104" height="104" viewBox="-52 -52 104 104" aria-label="Tripod">
  {#each [...arms].sort((a, b) => a.z - b.z) as arm (arm.name)}
    <g
      role="button"
      tabindex="0"
      class="cursor-pointer text-ink hover:text-brass"
      aria-label="Look along {arm.name}"
      onpointerdown={(e) => e.stopPropagation()}
      onclick={() => look(arm.d)}
      onkeydown={(e) => e.key === 'Enter' && look(arm.d)}
    >
      <path d="M0 0L{arm.x} {arm.y}" stroke="transparent" stroke-width="14" />
      <path d="M0 0L{arm.x} {arm.y}" stroke="currentColor" stroke-width="1.5" />
      <text
        x={arm.x * 1.28}
        y={arm.y * 1.28 + 4}
        text-anchor="middle"
        class="fill-current text-[0.75rem] font-semibold">{arm.name}</text
      >
    </g>
  {/each}
  <circle r="3" class="fill-paper stroke-ink" />
</svg>
