<script lang="ts">
  /** What a file's curves are, before they are put into the sketch: layers, unit, size, ends that meet or not. */
  import Card from '../ui/Card.svelte';
  import { focused } from '../ui/focused';
  import type { FromFile } from './fromFile.svelte';

  let { from }: { from: FromFile } = $props();
  const found = $derived(from.found);
  const size = $derived(
    found ? found.high.map((h, i) => Number((h - found.low[i]).toPrecision(5))).join(' × ') : '',
  );
  const count = $derived(Object.keys(found?.drawing.curves ?? {}).length);
  const place = (p: readonly number[]) => p.map((v) => Number(v.toFixed(3))).join(', ');
</script>

<Card
  title="Curves from {from.file?.name}"
  close="Close"
  onclose={() => from.close()}
  name="curves"
  wide="w-80"
>
  <div class="grid gap-1.5 px-3 py-2">
    <label class="flex items-baseline gap-2"
      ><span class="w-20 text-graphite">unit</span>
      <select
        use:focused
        class="open-blank"
        value={from.unit}
        onchange={(e) => ((from.unit = e.currentTarget.value), void from.read())}
      >
        {#if !from.unit}<option value="">choose</option>{/if}
        {#each ['mm', 'cm', 'm', 'in', 'ft'] as u (u)}<option value={u}>{u}</option>{/each}
      </select></label
    >
    <label class="flex items-baseline gap-2"
      ><span class="w-20 text-graphite">ends within</span>
      <input
        class="open-blank w-20"
        bind:value={from.within}
        onkeydown={(e) => {
          if (e.key === 'Enter') void from.read();
          if (e.key !== 'Escape') e.stopPropagation();
        }}
        onchange={() => void from.read()}
      /> mm are one</label
    >
    {#each Object.entries(from.layers) as [layer, n] (layer)}
      <label class="flex items-baseline gap-2"
        ><input
          type="checkbox"
          checked={!from.without.includes(layer)}
          onchange={() => void from.toggle(layer)}
        />
        <span class="min-w-0 flex-1 truncate">{layer}</span><span class="figures text-graphite">{n}</span
        ></label
      >
    {/each}
    {#if found}
      <p data-testid="curves-told">
        {count}
        {count === 1 ? 'curve' : 'curves'}, <span class="figures">{size} mm</span>, {found.joined} ends joined
      </p>
      {#if found.gaps.length}<p class="text-brass">
          {found.gaps.length}
          {found.gaps.length === 1 ? 'end is' : 'ends are'} alone, at {found.gaps
            .slice(0, 4)
            .map(place)
            .join('; ')}{found.gaps.length > 4 ? ' …' : ''}
        </p>{/if}
      {#if found.forks.length}<p class="text-brass">
          More than two meet at {found.forks.slice(0, 4).map(place).join('; ')}{found.forks.length > 4
            ? ' …'
            : ''}
        </p>{/if}
      {#each found.told as t (t)}<p class="text-graphite">{t}</p>{/each}
    {/if}
    {#if from.trouble}<p class="text-carmine" role="alert">{from.trouble}</p>{/if}
    <div class="mt-1 flex gap-3">
      <button class="button-strong" disabled={!found || from.busy} onclick={() => from.put(false)}
        >Put in place</button
      >
      <button class="blank" disabled={!found || from.busy} onclick={() => from.put(true)}
        >Middle at the origin</button
      >
    </div>
  </div>
</Card>
