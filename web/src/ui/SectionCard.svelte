<script lang="ts">
  /** The part cut open at a plane: how far from it, which side is taken away. */
  import { Vector3 } from 'three';
  import type { Spot } from '../api/types';
  import { inMm, lengthOf } from '../sketch/lengths';
  import type { Section } from '../state/workplace.svelte';
  import { useWorkplace } from '../state/workplace.svelte';

  let { section }: { section: Section } = $props();
  const work = useWorkplace();
  const unit = $derived(work.session.part?.units?.length ?? 'mm');
  /** How far the part reaches to both sides of the plane, mm. */
  const reach = $derived.by(() => {
    void work.session.scene;
    const [low, high] = work.stage?.box() ?? [new Vector3(), new Vector3()];
    const [n, o] = [section.frame.normal, section.frame.origin].map((v) => new Vector3(...(v as Spot)));
    const ends = [low.x, high.x].flatMap((x) =>
      [low.y, high.y].flatMap((y) => [low.z, high.z].map((z) => new Vector3(x, y, z).sub(o).dot(n))),
    );
    return [Math.min(...ends), Math.max(...ends)];
  });
  const shown = $derived(Number((section.off / inMm(unit)).toFixed(3)));
  const misses = $derived(section.off <= reach[0] || section.off >= reach[1]);
  function typed(text: string) {
    const mm = lengthOf(text, unit);
    if (mm === null) work.session.note(`“${text}” is no length. Write one such as 12 or 0.5 in.`, true);
    else work.section = { ...section, off: mm };
  }
</script>

<section
  class="absolute top-3 right-3 z-20 w-72 border border-ink bg-paper text-[0.84375rem]"
  aria-label="Section"
  data-card
  data-testid="section"
  onpointerdown={(e) => e.stopPropagation()}
  onpointerup={(e) => e.stopPropagation()}
>
  <header class="flex items-baseline justify-between border-b border-rule px-3 py-1.5">
    <h2 class="font-semibold">Section</h2>
    <button aria-label="Close the section" onclick={() => (work.section = null)}>×</button>
  </header>
  <div class="px-3 py-2">
    <p class="flex items-baseline justify-between gap-2">
      <span class="text-graphite">at {section.name}, moved by</span>
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
      class="mt-2 w-full accent-[var(--color-brass)]"
      type="range"
      aria-label="place of the section"
      min={reach[0]}
      max={reach[1]}
      step={(reach[1] - reach[0]) / 500 || 1}
      value={section.off}
      oninput={(e) => (work.section = { ...section, off: Number(e.currentTarget.value) })}
    />
    {#if misses}<p class="text-graphite">The plane misses the part here; move it.</p>{/if}
    <p class="mt-2">
      <button class="button !py-0" onclick={() => work.flipSection()}>Other side</button>
    </p>
  </div>
</section>
