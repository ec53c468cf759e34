<script lang="ts">
  /** The least wall: asked for by a click, drawn on the stage. */
  import { Refusal, type Spot, type WallsFound } from '../api/types';
  import { useWorkplace } from '../state/workplace.svelte';

  /** feet : where it is, to be drawn on the stage. */
  let { body, feet = $bindable() }: { body: string; feet: Spot[] | null } = $props();
  const work = useWorkplace();
  const { session } = work;
  let found = $state.raw<WallsFound | null>(null);
  let [trouble, busy] = $state(['', false]);
  let asked = 0;
  const wall = $derived(found?.walls.find((w) => w.id === body) ?? found?.walls[0]);
  // What was found is of the part as it was.
  $effect(() => {
    void session.scene;
    asked++;
    [found, trouble, busy] = [null, '', false];
  });
  async function find() {
    const number = ++asked;
    [busy, trouble] = [true, ''];
    try {
      const told = await session.socket.ask({ type: 'ask', ask: { of: 'wall' } } as never);
      if (number === asked && told.type === 'answer' && told.answer.of === 'wall') found = told.answer;
    } catch (error) {
      if (number === asked) trouble = error instanceof Refusal ? error.message : String(error);
    }
    if (number === asked) busy = false;
  }
  $effect(() => {
    feet = (wall?.feet as Spot[] | undefined) ?? null;
  });
</script>

<p class="flex justify-between gap-2">
  <span class="text-graphite">least wall</span>
  {#if wall}<span class="figures" data-testid="least-wall" title={wall.between.join(' – ')}>{wall.shown}</span
    >{:else}<button class="button !py-0" disabled={busy} onclick={find}>{busy ? 'looking …' : 'Find'}</button
    >{/if}
</p>
{#if wall}<p class="text-[0.8125rem] text-graphite">{wall.between.join(' – ')}</p>{/if}
{#if trouble}<p class="text-carmine" role="alert">{trouble}</p>{/if}
