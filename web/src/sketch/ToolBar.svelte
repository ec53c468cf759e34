<script lang="ts">
  /** The tool in hand: its manners, what it is made of, its numbers and choices, and what it would lose. */
  import type { Board } from './board.svelte';
  import { isShape } from './tools';

  let { board }: { board: Board } = $props();
  const form = $derived(board.form);
  const title = $derived(form ? form.tool.title : board.tool === 'split' ? 'Break' : board.tool === 'spline point' ? 'Add a spline point' : board.tool[0].toUpperCase() + board.tool.slice(1));
  const say = (n: number) => (n === 0 ? '…' : n === 1 ? '1 picked' : `${n} picked`);
  function escape(event: KeyboardEvent & { currentTarget: HTMLElement }) {
    if (event.key !== 'Escape') return;
    event.stopPropagation();
    event.currentTarget.blur();
    board.stepBack();
  }
  const accept = (event: SubmitEvent) => {
    event.preventDefault();
    void (form ? board.acceptForm() : board.chain.acceptTyped());
  };
</script>

<form class="absolute bottom-26 left-4 max-w-[calc(100%-2rem)] border border-rule bg-paper px-3 py-2 text-[13.5px]" data-testid="toolbar" onsubmit={accept}>
  <div class="flex flex-wrap items-center gap-x-3 gap-y-1.5">
    <span class="font-medium">{title}</span>
    {#if board.manners.length > 1}
      <span class="flex gap-2" role="radiogroup" aria-label="Manner">
        {#each board.manners as name, i (name)}
          <button type="button" role="radio" aria-checked={board.manner === i} class="px-0.5 {board.manner === i ? 'border-b-[1.5px] border-brass' : 'text-graphite hover:bg-wash'}" onclick={() => board.turnTo(i)}>{name}</button>
        {/each}
        <span class="figures self-center text-graphite">tab</span>
      </span>
    {/if}
    {#if form}
      {#each form.tool.slots as slot, i (slot.name)}
        <button type="button" class="px-1 {form.slot === i ? 'border-b-[1.5px] border-brass bg-wash' : 'blank'}" title={slot.label} onclick={() => (form.slot = i)}>
          {i ? `${slot.label} ` : ''}{form.places.length && !i ? (form.places.length === 2 ? 'a new base line' : 'a new base line …') : slot.many || !form.picks[slot.name].length ? say(form.picks[slot.name].length) : (board.view?.names[form.picks[slot.name][0]] ?? form.picks[slot.name][0].replace('_', ' '))}
        </button>
      {/each}
      {#each form.fields as field (field.name)}
        <label class="flex items-center gap-1.5">
          {field.label}
          {#if field.choices}
            <select class="border-b-[1.5px] border-brass bg-transparent" value={form.values[field.name]} onchange={(e) => form.set(field.name, e.currentTarget.value)}>
              {#each Object.entries(field.choices) as [value, words] (value)}<option {value}>{words}</option>{/each}
            </select>
          {:else}
            <!-- svelte-ignore a11y_autofocus -->
            <input autofocus={field.wide} class="{field.wide ? 'w-48' : 'figures w-20'} border-b-[1.5px] border-brass bg-transparent px-1" value={form.values[field.name]} oninput={(e) => form.set(field.name, e.currentTarget.value)} onkeydown={escape} spellcheck="false" placeholder={field.name === 'spacing' ? '20 mm' : ''} />
          {/if}
        </label>
      {/each}
      <button class="button-strong !py-0.5" disabled={!!form.missing}>Accept</button>
      <button type="button" class="button !py-0.5" onclick={() => board.lay()}>Cancel</button>
    {:else if board.measures.length && isShape(board.tool)}
      {#each board.measures as name, i (name)}
        <label class="flex items-center gap-1.5">
          {name}
          <input class="figures w-24 border-b-[1.5px] border-brass bg-transparent px-1" bind:value={board.typed[name]} placeholder="type …" data-measure={i} onkeydown={escape} />
        </label>
      {/each}
      <button class="button !py-0.5">Draw</button>
    {/if}
    {#if form?.missing}<span class="text-graphite">{form.missing.startsWith('its ') ? `Type ${form.missing}` : form.places.length ? `Click ${form.missing}` : `Pick ${form.missing}`}{form.active.many ? '; a box picks many' : ''}.</span>{/if}
    {#if form && board.trial.trouble}<span class="text-carmine" role="alert" data-testid="trial-trouble">{board.trial.trouble}</span>{/if}
    {#if form && board.trouble && board.trouble !== board.trial.trouble}<span class="text-carmine" role="alert">{board.trouble}</span>{/if}
    {#each board.trial.notes as note, i (i)}<span class="text-carmine" data-testid="trial-note">{note}</span>{/each}
    {#if board.trial.lost.length}<span class="text-carmine" data-testid="trial-lost">Loses {board.trial.lost.join('; ')}.</span>{/if}
  </div>
</form>
