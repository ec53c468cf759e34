<script lang="ts">
  /** A step being made or edited: its sentence with open blanks, what it still needs, what it will do. */
  import { tick } from 'svelte';
  import type { Editing } from '../state/editing.svelte';
  import { OTHER } from '../state/action';
  import { useWorkplace } from '../state/workplace.svelte';
  import { sayForeseen } from '../state/saying';
  import Note from './Note.svelte';
  import { nudged } from './nudge';
  import { bare, sentence } from './sentence';
  import Suggest from './Suggest.svelte';

  let { editing, number }: { editing: Editing; number: number } = $props();
  const work = useWorkplace();
  const { session } = work;
  let box = $state<HTMLElement>();
  // Whatever is said later makes the box grow; its buttons stay in sight.
  $effect(() => {
    void [
      editing.outlook.report,
      editing.outlook.foreseen,
      editing.outlook.trouble,
      editing.ways,
      editing.how,
    ];
    box?.scrollIntoView({ block: 'nearest' });
  });

  // The number that is asked for is selected, so that what is typed goes there; a step without numbers takes
  // the keys itself.
  $effect(() => {
    void editing.wanted;
    void tick().then(() => focusNumber(true));
  });
  // Where the field that had the focus went with another way or choice, the number that is asked for now has
  // it; what was typed meanwhile stands in it.
  $effect(() => {
    if (editing.ahead && !editing.deciding && !editing.numbers.length) {
      session.note(`This step asks for no number, so “${editing.ahead}” went nowhere.`);
      editing.ahead = '';
    }
    void [editing.numbers.join(' '), editing.ahead];
    void tick().then(() => {
      const nowhere = !document.activeElement || document.activeElement === document.body;
      if (nowhere || editing.ahead) focusNumber(!editing.ahead && !editing.typing);
    });
  });
  function focusNumber(select: boolean) {
    if (editing.naming) {
      const name = box?.querySelector<HTMLInputElement>('input[aria-label=name]');
      name?.focus();
      name?.select();
      editing.naming = !name;
      return;
    }
    const name = editing.wantedNumber();
    const field = box?.querySelector<HTMLInputElement>(`[data-number="${name}"]`);
    if (!field) {
      if (!box?.contains(document.activeElement)) box?.focus();
      return;
    }
    field.focus();
    if (editing.ahead) {
      editing.enter(name, editing.ahead);
      editing.ahead = '';
    }
    if (select) field.select();
    else void tick().then(() => field.setSelectionRange(field.value.length, field.value.length));
  }
  /** The number that is being typed. */
  let field = $state.raw<HTMLInputElement | null>(null);
  let suggest = $state<Suggest>();
  /** What a field held when it was entered: Esc leaves the value and puts that back. */
  let before = '';
  function numberKey(event: KeyboardEvent & { currentTarget: HTMLInputElement }, name: string) {
    if (event.key === 'Escape') {
      const changed = formula(name) !== before;
      if (changed) setFormula(name, before);
      else work.escape();
    } else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
      const next = nudged(formula(name), event.key === 'ArrowUp');
      if (next !== null) setFormula(name, next);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }
  /** Two letters that begin no word of a formula are the key of an action: the number stays as it was. */
  let kept = '';
  function typed(field: HTMLInputElement, name: string) {
    if (field.value.length === 1) kept = formula(name);
    const action = work.keyIn(field.value);
    if (!action) return editing.enter(name, field.value);
    editing.enter(name, kept);
    field.blur();
    work.run(action);
  }
  function nameKey(event: KeyboardEvent & { currentTarget: HTMLInputElement }, name: string) {
    if (event.key !== 'Escape') return;
    if (editing.fields[name] !== before) editing.fields[name] = before;
    else work.escape();
    event.stopPropagation();
  }
  function answerKey(event: KeyboardEvent) {
    if (!event.key.startsWith('Arrow')) return;
    editing.other();
    event.preventDefault();
  }
  function blankKey(event: KeyboardEvent, name: string) {
    if (event.key === 'ArrowDown') {
      editing.aim(name);
      work.listAll();
    } else if (event.key === 'Delete' || event.key === 'Backspace') editing.clear(name);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
  function open(event: MouseEvent, name: string) {
    editing.aim(name);
    if (event.detail === 0)
      work.listAll(); // by a key
    else editing.ask();
  }
  function turn() {
    editing.other();
    editing.ask();
  }

  // It stays in sight when the ledger opens or the window becomes small.
  $effect(() => {
    void work.ledgerOpen;
    void tick().then(() => box?.scrollIntoView({ block: 'nearest' }));
  });

  const tokens = $derived(sentence(editing.variant, editing.fields));
  const ways = $derived(Object.entries(editing.kind.variants));
  const others = $derived(editing.ways.filter((w) => w.how !== editing.how).slice(0, 4));
  const ordinal = ['first', 'second', 'third', 'fourth'];
  const formula = (name: string) => (editing.fields[name] as { formula: string }).formula;
  const setFormula = (name: string, text: string) =>
    editing.set(name, { ...(editing.fields[name] as object), formula: text });
  const length = (name: string) => `${Math.min(Math.max(formula(name).length + 2, 7), 26)}ch`;
  const figure = (v: number) => v.toLocaleString('en-GB', { maximumFractionDigits: 0 }).replaceAll(',', ' ');
  const willDo = $derived.by(() => {
    const p = editing.outlook.preview;
    return [
      p?.added &&
        (p.added.area ? `A sheet of ${figure(p.added.area)} mm².` : `Adds ${figure(p.added.volume)} mm³.`),
      p?.removed && `Removes ${figure(p.removed.volume)} mm³.`,
    ]
      .filter(Boolean)
      .join(' ');
  });
  const isNumber = $derived(
    editing.number !== '' && editing.variant.blanks[editing.number]?.kind === 'number',
  );
  const hasOther = $derived(editing.answers > 1 || editing.turning !== undefined);
</script>

<svelte:window onresize={() => box?.scrollIntoView({ block: 'nearest' })} />

<li
  class="border-y border-l-4 border-brass bg-wash outline-none"
  bind:this={box}
  tabindex="-1"
  data-testid="editor"
>
  <div class="flex gap-2 py-2.5 pr-3 pl-3">
    <span class="figures w-7 pt-1 text-right text-graphite">{number}</span>
    <div class="min-w-0 flex-1">
      {#if ways.length > 1}
        <select
          class="mb-1 max-w-full cursor-pointer border-b border-rule bg-transparent text-[0.8125rem] text-graphite [field-sizing:content]"
          aria-label="way"
          value={editing.how}
          onchange={(e) => editing.choose(e.currentTarget.value)}
        >
          {#each ways as [how, v] (how)}<option value={how}>{v.title}</option>{/each}
        </select>
      {/if}
      <p class="leading-loose">
        {#each tokens as token, i (typeof token === 'string' ? i : token.name)}
          {#if typeof token === 'string'}<span>{token}</span>
          {:else}<span class="whitespace-pre-wrap">{token.before}</span
            >{/if}{#if typeof token === 'string'}<!-- said above -->
          {:else if token.blank.kind === 'name'}
            <input
              class="{editing.fields[token.name]
                ? ''
                : 'min-w-14'} open-blank font-semibold [field-sizing:content] placeholder:font-normal placeholder:text-graphite"
              placeholder="name"
              aria-label="name"
              value={editing.fields[token.name] as string}
              onfocus={(e) => (before = e.currentTarget.value)}
              oninput={(e) => (editing.fields[token.name] = e.currentTarget.value)}
              onkeydown={(e) => nameKey(e, token.name)}
            />
          {:else if token.blank.kind === 'number'}
            <input
              class="figures border bg-white px-1.5 py-px leading-[20px] {editing.outlook.trouble?.field ===
              token.name
                ? 'border-carmine'
                : 'border-brass'}"
              style:width={length(token.name)}
              aria-label={token.blank.label}
              aria-invalid={editing.outlook.trouble?.field === token.name}
              value={formula(token.name)}
              spellcheck="false"
              autocomplete="off"
              data-number={token.name}
              onfocus={(e) => {
                [before, editing.number, field] = [e.currentTarget.value, token.name, e.currentTarget];
                e.currentTarget.select();
              }}
              oninput={(e) => typed(e.currentTarget, token.name)}
              onkeydown={(e) => suggest?.key(e) || numberKey(e, token.name)}
              onblur={() => {
                field = null;
                editing.pause();
              }}
            />
          {:else if token.blank.kind === 'answer'}
            {#if editing.answers > 1}<span
                >; <button class="open-blank" aria-label="answer" onkeydown={answerKey} onclick={turn}
                  >{ordinal[Number(editing.fields.answer)]} of {editing.answers} answers</button
                ></span
              >{/if}
          {:else if token.blank.kind === 'facing'}<span></span>
          {:else if token.blank.kind === 'choice'}
            <select
              class="open-blank -mr-0.5 cursor-pointer [field-sizing:content]"
              aria-label={token.blank.label}
              value={editing.fields[token.name] as string}
              onchange={(e) => editing.set(token.name, e.currentTarget.value)}
            >
              {#each Object.entries(token.blank.words ?? {}).filter(([v]) => v || !token.blank.clause) as [v, words] (v)}<option
                  value={v}>{bare(words)}</option
                >{/each}
            </select>{#if token.blank.clause}<button
                class="ml-1 text-graphite hover:text-carmine"
                aria-label="Take away {token.blank.clause}"
                title="Take this away"
                onclick={() => editing.clause(token.name, false)}>×</button
              >{/if}
          {:else if token.blank.kind === 'words'}
            <input
              class="open-blank [field-sizing:content] placeholder:text-graphite"
              placeholder={token.blank.hint}
              aria-label={token.blank.label}
              data-words
              value={editing.fields[token.name] as string}
              onfocus={(e) => (before = e.currentTarget.value)}
              oninput={(e) => editing.set(token.name, e.currentTarget.value)}
              onkeydown={(e) => nameKey(e, token.name)}
            />
          {:else if token.blank.kind === 'dots'}
            {#if editing.leftOut.length}<span
                >, leaving out {editing.leftOut.join(', ')}
                <button
                  class="text-graphite hover:text-carmine"
                  aria-label="Leave none out"
                  onclick={() => editing.set(token.name, [])}>×</button
                ></span
              >{/if}
          {:else}
            <button
              class="open-blank {editing.active === token.name ? '!bg-white' : ''} {editing.empty(token.name)
                ? 'text-graphite italic'
                : ''}"
              onclick={(e) => open(e, token.name)}
              onkeydown={(e) => blankKey(e, token.name)}
              title="Pick on the stage; arrow down lists all that fits"
              data-testid="blank-{token.name}">{editing.say(token.name)}</button
            >{#if !editing.empty(token.name)}<button
                class="ml-1 text-graphite hover:text-carmine"
                tabindex="-1"
                aria-label="Clear {token.blank.label}"
                onclick={() => editing.clear(token.name)}>×</button
              >{/if}
          {/if}{#if typeof token !== 'string' && token.after}<span>{token.after}</span>{/if}
        {/each}
      </p>
      {#if field && isNumber}<Suggest
          bind:this={suggest}
          {field}
          text={formula(editing.number)}
          put={(text) => editing.enter(editing.number, text)}
        />{/if}
      {#if editing.clauses.length}
        <p class="mt-1 flex flex-wrap gap-1.5" data-testid="clauses">
          {#each editing.clauses as [name, blank] (name)}
            <button
              class="border border-rule px-1.5 text-[0.8125rem] text-graphite hover:border-ink hover:text-ink"
              onclick={() => editing.clause(name, true)}>+ {blank.clause}</button
            >
          {/each}
        </p>
      {/if}
      <p class="mt-1 min-h-[1.4em] text-[0.84375rem]" aria-live="polite" data-testid="editor-state">
        {#if editing.outlook.trouble}<span class="text-carmine" role="alert"
            >{editing.outlook.trouble.message}</span
          >
          {#if editing.outlook.trouble.offer}<button class="blank" onclick={() => editing.takeOffer()}
              >Take {editing.outlook.trouble.offer}</button
            >{:else if editing.outlook.trouble.findable}<button class="blank" onclick={() => editing.seek()}
              >Find the largest that works</button
            >{/if}
        {:else if editing.missing.length}Still needs {editing.missing.join(' and ')}.
        {:else if session.saving}<span class="text-graphite"
            >{session.building ? `Building ${session.building} …` : 'Accepting …'}</span
          >
        {:else if editing.outlook.waiting}<span class="text-graphite">Previewing …</span>
        {:else}<span class="font-medium text-verdigris">Complete.</span>
          {willDo}
          <Note text={editing.outlook.report?.message ?? ''} />
          {#if editing.outlook.foreseen}<span class="text-graphite" data-testid="foreseen"
              >{sayForeseen(editing.outlook.foreseen, editing.step)}</span
            >{/if}{/if}
      </p>
      {#if editing.meanwhile}
        <p class="mt-1 border-l-2 border-carmine pl-2 text-[0.84375rem]" role="alert" data-testid="meanwhile">
          {#if editing.meanwhile === 'changed'}
            This step was changed elsewhere meanwhile. What stands here replaces that when it is accepted.
            <button class="blank" onclick={() => editing.takeTheirs()}>Take the other</button>
            <button class="blank" onclick={() => editing.keepMine()}>Keep this</button>
          {:else}
            This step was deleted elsewhere. {#if session.undoes}<button
                class="blank"
                onclick={() => session.move('undo')}>Undo: {session.undoes}</button
              >, or{/if} cancel here.
          {/if}
        </p>
      {/if}
      {#if others.length && !editing.step}
        <p class="mt-1 text-[0.8125rem] text-graphite" data-testid="ways">
          or {#each others as way, i (way.how)}{i ? ', ' : ''}<button
              class="blank"
              onclick={() => (editing.take(way), editing.ask())}>{way.title.toLowerCase()}</button
            >{/each}
        </p>
      {/if}
      <p class="mt-2 flex flex-wrap gap-2">
        <button class="button-strong" disabled={session.saving > 0} onclick={() => work.accept()}
          >Accept</button
        >
        {#if !editing.step && editing.kind.makes !== 'sketch'}<button
            class="button"
            title="Accept, and begin another of the same (shift enter)"
            disabled={session.saving > 0}
            onclick={() => work.accept(true)}>and another</button
          >{/if}
        <button class="button" data-cancel onclick={() => work.giveUp()}>Cancel</button>
        {#if hasOther}<button class="button" onclick={turn}
            >Other answer <span class="figures">{OTHER}</span></button
          >{/if}
      </p>
    </div>
  </div>
</li>
