<script lang="ts">
  /** The tool in hand: its manners, what it is made of, its numbers and choices, and what it would lose. */
  import { tick } from 'svelte';
  import type { Board } from './board.svelte';
  import { PLACE } from './chain';
  import { OTHER } from '../state/action';
  import { useWorkplace } from '../state/workplace.svelte';
  import { nudged } from '../ui/nudge';
  import Suggest from '../ui/Suggest.svelte';
  import { largestOf } from './rounding';
  import { isShape } from './tools';

  let { board }: { board: Board } = $props();
  const work = useWorkplace();
  const form = $derived(board.form);
  const title = $derived(
    form
      ? form.tool.title
      : board.tool === 'split'
        ? 'Break'
        : board.tool === 'spline point'
          ? 'Add a spline point'
          : board.tool[0].toUpperCase() + board.tool.slice(1),
  );
  const largest = $derived(largestOf([board.trial.trouble, ...board.trial.notes]));
  const say = (n: number) => (n === 0 ? '…' : n === 1 ? '1 picked' : `${n} picked`);
  let bar = $state<HTMLElement>();
  // The first number of a form is selected when it opens and after every pick, so that what is typed goes
  // there.
  $effect(() => {
    void form?.asked;
    if (!form) return;
    const field = bar?.querySelector<HTMLInputElement>('[data-field]');
    field?.focus();
    field?.select();
  });
  /**
   * What a field held when it was entered: Esc leaves the value and puts that back; the next one leaves the
   * tool.
   */
  let before = '';
  const enter = (event: FocusEvent & { currentTarget: HTMLInputElement }) =>
    (before = event.currentTarget.value);
  function key(event: KeyboardEvent & { currentTarget: HTMLInputElement }, name: string) {
    if (event.key === 'Escape') {
      const changed = event.currentTarget.value !== before;
      if (!changed) {
        event.currentTarget.blur();
        board.stepBack();
      } else if (form) form.set(name, before);
      else board.typed = { ...board.typed, [name]: before };
    } else if (form && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
      const next = nudged(form.values[name], event.key === 'ArrowUp');
      if (next === null) return;
      form.set(name, next);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }
  // A measure that was refused has the focus, selected, so that it is typed over.
  $effect(() => {
    const name = board.refusedMeasure;
    if (!name) return;
    board.refusedMeasure = '';
    void tick().then(() => {
      const input = bar?.querySelector<HTMLInputElement>(`[data-measure="${board.measures.indexOf(name)}"]`);
      input?.focus();
      input?.select();
    });
  });
  /** The measure that is being typed. */
  let field = $state.raw<HTMLInputElement | null>(null);
  let typing = $state('');
  let suggest = $state<Suggest>();
  /** Two letters that begin no word of a formula are the key of an action. */
  let [kept, said] = ['', ''];
  function stray(input: HTMLInputElement, name: string) {
    if (input.value.length === 1) kept = said;
    said = input.value;
    const action = work.keyIn(said);
    if (!action) return;
    board.typed = { ...board.typed, [name]: kept };
    input.blur();
    work.run(action);
  }
  const accept = (event: SubmitEvent) => {
    event.preventDefault();
    void (form ? board.acceptForm() : board.chain.acceptTyped());
  };
  function turn() {
    board.other();
    form?.ask();
  }
</script>

<form class="text-[0.84375rem]" data-testid="toolbar" bind:this={bar} onsubmit={accept}>
  <div class="flex flex-wrap items-center gap-x-3 gap-y-1.5">
    <span class="font-medium">{title}</span>
    {#if board.manners.length > 1}
      <span class="flex gap-2" role="radiogroup" aria-label="Manner">
        {#each board.manners as name, i (name)}
          <button
            type="button"
            role="radio"
            aria-checked={board.manner === i}
            class="px-0.5 {board.manner === i
              ? 'border-b-[1.5px] border-brass'
              : 'text-graphite hover:bg-wash'}"
            onclick={() => board.turnTo(i)}>{name}</button
          >
        {/each}
        <span class="figures self-center text-graphite">{OTHER}</span>
      </span>
    {/if}
    {#if form}
      {#each form.tool.slots as slot, i (slot.name)}
        <button
          type="button"
          class="px-1 {form.slot === i ? 'border-b-[1.5px] border-brass bg-wash' : 'blank'}"
          title={slot.label}
          onclick={() => (form.slot = i)}
        >
          {i ? `${slot.label} ` : ''}{form.places.length && !i
            ? form.places.length === 2
              ? 'a new base line'
              : 'a new base line …'
            : slot.many || !form.picks[slot.name].length
              ? say(form.picks[slot.name].length)
              : board.called(form.picks[slot.name][0])}
        </button>
      {/each}
      {#each form.fields as field (field.name)}
        <label class="flex items-center gap-1.5">
          {field.label}
          {#if field.choices}
            <select
              class="border-b-[1.5px] border-brass bg-transparent"
              value={form.values[field.name]}
              onchange={(e) => form.set(field.name, e.currentTarget.value)}
            >
              {#each Object.entries(field.choices) as [value, words] (value)}<option {value}>{words}</option
                >{/each}
            </select>
          {:else}
            <input
              data-field={field.name}
              data-words={field.wide}
              class="{field.wide ? 'w-48' : 'figures w-20'} border-b-[1.5px] border-brass bg-transparent px-1"
              value={form.values[field.name]}
              oninput={(e) => form.set(field.name, e.currentTarget.value)}
              onfocus={enter}
              onkeydown={(e) => key(e, field.name)}
              spellcheck="false"
              placeholder={field.name === 'spacing' ? '20 mm' : ''}
            />
          {/if}
        </label>
      {/each}
      <button class="button-strong !py-0.5" disabled={!!form.missing}>Accept</button>
      {#if form.tool.other}<button type="button" class="button !py-0.5" onclick={turn}
          >Other answer <span class="figures">{OTHER}</span></button
        >{/if}
      <button type="button" class="button !py-0.5" data-cancel onclick={() => board.lay()}>Cancel</button>
    {:else if isShape(board.tool)}
      {#each board.measures as name, i (name)}
        <label class="flex items-center gap-1.5">
          {name}
          <input
            class="figures w-24 border-b-[1.5px] border-brass bg-transparent px-1"
            bind:value={board.typed[name]}
            placeholder="type …"
            data-measure={i}
            onfocus={(e) => {
              enter(e);
              [field, typing, said] = [e.currentTarget, name, e.currentTarget.value];
            }}
            onblur={() => (field = null)}
            oninput={(e) => stray(e.currentTarget, name)}
            onkeydown={(e) => suggest?.key(e) || key(e, name)}
          />
        </label>
      {/each}
      <label class="flex items-center gap-1.5">
        at
        <input
          class="figures w-24 border-b-[1.5px] border-rule bg-transparent px-1 focus:border-brass"
          bind:value={board.typed[PLACE]}
          placeholder="x, y"
          data-place
          onfocus={enter}
          onkeydown={(e) => key(e, PLACE)}
        />
      </label>
      {#if field}<Suggest
          bind:this={suggest}
          {field}
          text={board.typed[typing] ?? ''}
          put={(text) => (board.typed = { ...board.typed, [typing]: text })}
        />{/if}
      {#if board.measures.length}<button class="button !py-0.5">Draw</button>{/if}
    {/if}
    {#if form && (form.missing || form.places.length)}<span class="text-graphite" data-testid="form-asks"
        >{form.asks[0].toUpperCase()}{form.asks.slice(1)}{form.active.many && !form.places.length
          ? '; a box picks many'
          : ''}.</span
      >{/if}
    {#if form?.name === 'round' && largest}<button
        type="button"
        class="button !py-0.5"
        onclick={() => form.set('radius', largest)}>Take {largest}, which all of them take</button
      >{/if}
    {#if form && board.trial.trouble}<span class="text-carmine" role="alert" data-testid="trial-trouble"
        >{board.trial.trouble}</span
      >{/if}
    {#if form && board.trouble && board.trouble !== board.trial.trouble}<span
        class="text-carmine"
        role="alert">{board.trouble}</span
      >{/if}
    {#each board.trial.notes as note, i (i)}<span class="text-carmine" data-testid="trial-note">{note}</span
      >{/each}
    {#if board.trial.lost.length}<span class="text-carmine" data-testid="trial-lost"
        >Loses {board.trial.lost.join('; ')}.</span
      >{/if}
  </div>
</form>
