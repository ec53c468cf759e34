<script lang="ts">
  /** A flat face is pulled: which dimension follows, how far, what comes of it. */
  import { useWorkplace } from '../state/workplace.svelte';
  import { figure } from './figures';
  import { heldBy, pullTo } from './pulling';

  const work = useWorkplace();
  const { session, trust } = work;
  const normal = $derived(trust.pulled ? work.frameOf(trust.pulled)?.normal : undefined);
  const found = $derived(heldBy(session.moved, session.version, normal));
  const ranked = $derived(found?.ranked ?? []);
  const chosen = $derived(ranked.find((d) => d.tag === trust.pullBy) ?? ranked[0]);
  let text = $state('');
  const told = $derived(trust.tried);
  /** Where the face comes to, where that is not where it was to be: it may go there along no way at all. */
  const missed = $derived.by(() => {
    const place = found && told?.figures[found.figure];
    const off =
      found && place !== undefined && place !== null && place - found.now - found.sign * trust.shift;
    return typeof off === 'number' && Math.abs(off) > 1e-5 && !trust.waiting ? place : null;
  });

  // The first flat face that is picked is taken up.
  $effect(() => {
    const face = work.picked.find((t) => t.kind === 'flat');
    if (face) trust.takeUp(face);
  });
  $effect(() => {
    if (found) text = figure(found.now + found.sign * trust.shift);
  });
  function place() {
    const value = Number(text.replace(',', '.').replace(/mm$/, ''));
    if (!found || !text.trim() || !Number.isFinite(value))
      return session.note(`“${text}” is no place. Write a number in mm.`, true);
    trust.shift = (value - found.now) * found.sign;
    see();
  }
  function see() {
    if (chosen && found) void trust.follow(pullTo(chosen, found, trust.shift));
  }
  async function take() {
    if (await trust.take(`Pull ${trust.pulled?.words ?? 'a face'}`.slice(0, 120))) trust.endPull();
  }
</script>

<div
  class="absolute top-4 right-4 left-36 z-20 max-w-[34rem] border border-ink bg-paper px-4 py-3 text-[0.875rem]"
  data-testid="pull"
  data-card
>
  {#if !trust.pulled}
    <p><strong>Pull a face.</strong> Pick a flat face; the dimension that moves it follows.</p>
    {#if work.picked.length}<p class="text-carmine" role="alert">
        {work.picked[0].words} is no flat face of a body.
      </p>{/if}
  {:else if !found}
    <p aria-live="polite"><strong>{trust.pulled.words}</strong>: what moves it is being found …</p>
  {:else if !chosen}
    <p class="text-carmine" role="alert">
      No dimension moves {trust.pulled.words}{found.flat ? '' : ' along its normal'}. Pick another face.
    </p>
  {:else}
    <p class="flex flex-wrap items-baseline gap-2">
      <strong>{trust.pulled.words}</strong> by
      {#if ranked.length > 1}<select
          class="figures border-b border-brass bg-transparent"
          aria-label="by which dimension"
          value={chosen.tag}
          onchange={(e) => ((trust.pullBy = e.currentTarget.value), see())}
          >{#each ranked as d (d.tag)}<option value={d.tag}>{d.tag}</option>{/each}</select
        >{:else}<span class="figures">{chosen.tag}</span>{/if}
      {found.words}
      <input
        class="figures w-24 border border-brass bg-white px-1 text-right"
        aria-label="place of the face"
        bind:value={text}
        onkeydown={(e) => {
          if (e.key === 'Enter') place();
          if (e.key === 'Escape') trust.endPull();
          e.stopPropagation();
        }}
      />
      {found.unit}
    </p>
    {#if trust.shift && told}
      {#if told.judgement === 'good'}<p>
          <span class="figures font-medium">{trust.trying?.title ?? ''}</span>
          {#if missed !== null}<span class="text-carmine"
              >With it the face comes to {figure(missed as number)} {found.unit}, no nearer.</span
            >{/if}
          {#if told.other}<span class="text-brass">{told.other}</span>{/if}
        </p>
      {:else}<p class="text-carmine" role="alert">{told.at ? `${told.at}: ` : ''}{told.why}</p>{/if}
    {:else}<p class="text-graphite">Pull its arrow, or write where it is to be.</p>{/if}
  {/if}
  <p class="mt-2 flex gap-2">
    {#if chosen && trust.shift && told?.judgement === 'good'}<button
        class="button-strong !py-0.5"
        disabled={trust.waiting}
        onclick={take}>Take it</button
      >{/if}
    <button class="button !py-0.5" data-cancel onclick={() => trust.endPull()}>Close</button>
  </p>
</div>
