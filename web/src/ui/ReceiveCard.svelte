<script lang="ts">
  /** A file that does not say in which unit it is: asked for, with the size that each would give. */
  import { LENGTHS } from '../state/exchange.svelte';
  import { useWorkplace } from '../state/workplace.svelte';
  import Card from './Card.svelte';
  import { focused } from './focused';

  const work = useWorkplace();
  const { exchange } = work;
  const asking = $derived(exchange.asking!);
  const begin = (button: HTMLElement, first: boolean) => void (first && focused(button));
  const size = (factor: number) =>
    asking.told.high
      .map((h, i) =>
        Number((factor * (h - asking.told.low[i])).toPrecision(5))
          .toLocaleString('en-GB')
          .replaceAll(',', ' '),
      )
      .join(' × ');
</script>

<Card title="Unit of a file" close="Do not read it" onclose={() => (exchange.asking = null)} name="receive">
  <div class="grid gap-2 px-3 py-2">
    <p>
      {asking.file.name} has {asking.told.faces.toLocaleString('en-GB').replaceAll(',', ' ')} triangles, and does
      not say in which unit they are. Choose it by the size.
    </p>
    {#each LENGTHS as [unit, words, factor], i (unit)}
      <button class="button text-left" use:begin={i === 0} onclick={() => exchange.receiveIn(unit)}
        >{words}: {size(factor)} mm</button
      >
    {/each}
  </div>
</Card>
