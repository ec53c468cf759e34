<script lang="ts">
  /** What made the thing that was picked: steps, lines, dimensions, and what stands on it. */
  import { useWorkplace } from '../state/workplace.svelte';
  import Card from './Card.svelte';

  const work = useWorkplace();
  const { session, route } = work;
  const made = $derived(route.made!);
  const OF = { step: 'of the step', line: 'at the line', sketch: 'elsewhere in the sketch' };
  function edit(step: string, place = '') {
    const held = session.step(step);
    if (!held) return;
    if (held.kind === 'sketch') work.openBoard(step);
    else work.edit(held, place);
  }
</script>

<Card
  title="What made this"
  close="Close what made this"
  onclose={() => (route.made = null)}
  name="made"
  wide="w-80"
>
  <div class="px-3 py-2">
    <p class="text-graphite">{made.of}</p>
    {#each made.told.makers as m (m.step + m.entity)}
      <p class="mt-1">
        <button class="blank font-medium" onclick={() => edit(m.step)}>{m.name}</button>{#if m.line}, along {m.line}{:else if m.role === 'copy'},
          which copied it{/if}
      </p>
    {/each}
    {#if made.told.numbers.length}
      <h3 class="mt-3 border-t border-rule pt-1 font-semibold">Dimensions in it</h3>
      <table class="w-full">
        <tbody>
          {#each made.told.numbers as n (n.tag)}
            <tr class="align-baseline">
              <td class="figures pr-2"
                ><button
                  class="text-left hover:underline"
                  title={n.formula}
                  onclick={() => work.showTag(n.tag)}>{n.tag}</button
                ></td
              >
              <td class="figures pr-2 text-right whitespace-nowrap">{n.shown}</td>
              <td class="text-[0.8125rem] text-graphite">{OF[n.of]}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
    <h3 class="mt-3 border-t border-rule pt-1 font-semibold">Stands on it</h3>
    {#each made.told.standing as s (s.step)}
      <p>
        <button class="blank" onclick={() => edit(s.step)}>{s.name}</button>{#if !s.straight}<span
            class="text-graphite">, through others</span
          >{/if}
      </p>
    {:else}
      <p class="text-graphite">No step.</p>
    {/each}
  </div>
</Card>
