<script lang="ts">
  /** Two versions or parts compared: what each has alone, in space, step by step, in figures. */
  import type { Compared } from '../api/types';
  import { useWorkplace } from '../state/workplace.svelte';
  import { figure } from './figures';
  import Panel from './Panel.svelte';

  const work = useWorkplace();
  const { session, versions } = work;
  const told = $derived(versions.compared);
  type Change = Compared['ledger'][number];
  const choices = $derived([
    ...(versions.list?.versions ?? [])
      .filter((v) => v.number !== (session.past || session.version))
      .slice(0, 200)
      .map((v) => ({
        value: `${session.id} ${v.number}`,
        words: `v${v.number} ${v.name ? `“${v.name}”` : v.summary}`,
      })),
    ...versions.parts
      .filter((p) => p.id !== session.id)
      .map((p) => ({ value: `${p.id} 0`, words: `part ${p.name}` })),
  ]);
  const chosen = $derived(`${versions.other.part} ${versions.other.version}`);
  function choose(value: string) {
    const [part, version] = value.split(' ').map(Number);
    if (part) void versions.compare(part, version);
  }
  const bodies = $derived(session.scene?.bodies ?? []);
  let two = $state(['', '']);
  // The first two, until others are chosen.
  $effect(() => {
    const there = (id: string) => bodies.some((b) => b.id === id);
    if (bodies.length > 1 && !two.every(there)) two = [bodies[0].id, bodies[1].id];
  });
  const compareTwo = () => versions.compareBodies(two.map((id) => bodies.find((b) => b.id === id)!));
  const volume = (v: number) => `${figure(v)} mm³`;
  const same = $derived(
    told &&
      !told.steps.length &&
      !told.ledger.length &&
      !told.part.length &&
      told.bodies.every((b) => b.state === 'same'),
  );
  const WAS: Record<string, string> = {
    ...{ added: 'is new', removed: 'is not there any more' },
    ...{ moved: 'stands elsewhere', changed: 'changed' },
  };
  const name = (v: Compared['before']) => (v.part === session.id ? `v${v.version}` : v.name);
  /** What the two are called: versions of one part by their time, two parts by which is open. */
  const said = $derived(
    versions.trying
      ? [versions.than || 'as it is', versions.trying]
      : told && told.before.part !== told.after.part
        ? ['the other part', 'this part']
        : ['earlier', 'later'],
  );
  const sides = $derived([
    ['here', `Only ${said[0]}`, 'text-carmine'],
    ['common', 'Common', 'text-graphite'],
    ['there', `Only ${said[1]}`, 'text-verdigris'],
  ] as const);
</script>

{#snippet change(c: Change)}
  <tr class="align-baseline">
    <td class="pr-3"
      >{c.field}{#if c.tag}<span class="figures block text-graphite">{c.tag}</span>{/if}</td
    >
    <td class="figures pr-3 break-words text-carmine">{c.before}</td>
    <td class="figures break-words text-verdigris">{c.after}</td>
  </tr>
{/snippet}

<Panel
  title="Compare"
  of={told
    ? versions.trying
      ? `${versions.than || 'the part as it is'} with ${versions.trying}`
      : `${name(told.before)} (${said[0]}) with ${name(told.after)} (${said[1]})`
    : ''}
  close="Close the comparison"
  onclose={() => versions.close()}
  name="compare"
  width="400px"
>
  {#snippet buttons()}
    <button class="button !py-0.5" onclick={() => ((versions.compared = null), versions.toggle())}
      >Versions</button
    >
  {/snippet}
  <div class="border-b border-rule px-4 py-2 text-[0.875rem]">
    <label class="flex items-baseline gap-2"
      >with
      <select
        class="open-blank min-w-0 flex-1"
        value={chosen}
        aria-label="Compare with"
        onchange={(e) => choose(e.currentTarget.value)}
      >
        {#if !choices.some((c) => c.value === chosen)}<option value={chosen}>choose …</option>{/if}
        {#each choices as c (c.value)}<option value={c.value}>{c.words}</option>{/each}
      </select></label
    >
    {#if bodies.length > 1}
      <p class="mt-1 flex items-baseline gap-2">
        or body
        {#each [0, 1] as i (i)}
          <select class="open-blank min-w-0 flex-1" aria-label={i ? 'with body' : 'body'} bind:value={two[i]}>
            {#each bodies as b (b.id)}<option value={b.id}>{b.name}</option>{/each}
          </select>
          {#if !i}with{/if}
        {/each}
        <button class="button !py-0" disabled={two[0] === two[1]} onclick={compareTwo}>Compare</button>
      </p>
    {/if}
  </div>
  {#if versions.trouble}<p class="px-4 py-2 text-carmine" role="alert">{versions.trouble}</p>{/if}
  {#if versions.busy}<p class="px-4 py-2 text-graphite" aria-live="polite">
      Comparing … both are built where they are not remembered.
    </p>{/if}
  {#if told && !versions.busy}
    <div class="min-h-0 flex-1 overflow-y-auto px-4 py-2 text-[0.875rem]" data-testid="compared">
      {#if same}<p class="font-semibold">No difference.</p>{/if}
      <h3 class="mt-1 font-semibold">Bodies</h3>
      <p class="mt-1 flex flex-wrap gap-x-4">
        {#each sides as [side, words, colour] (side)}
          <label class="flex items-center gap-1.5 {colour}"
            ><input type="checkbox" bind:checked={versions.see[side]} /> {words}</label
          >
        {/each}
        {#if told.sketches.length}<label class="flex items-center gap-1.5"
            ><input type="checkbox" bind:checked={versions.sketches} /> sketches over one another</label
          >{/if}
      </p>
      <label class="mt-1 flex items-center gap-2 text-graphite"
        >{said[0]}
        <input
          type="range"
          class="flex-1"
          min="0"
          max="1"
          step="0.02"
          aria-label="Between the earlier and the later one"
          bind:value={versions.mix}
        />
        {said[1]}</label
      >
      {#each told.bodies as b (b.id + b.state)}
        <div class="mt-2 border-t border-rule pt-1" data-testid="body-compared" data-state={b.state}>
          <p><strong>{b.name}</strong> {b.words || 'is another shape'}</p>
          {#if b.state !== 'same' || b.volumes[0] !== b.volumes[1]}
            <table class="figures mt-1 w-full">
              <tbody>
                <tr
                  ><td class="text-carmine">{said[0]}</td><td>{volume(b.volumes[0])}</td><td
                    >{b.masses[0] ? `${figure(b.masses[0])} g` : ''}</td
                  ><td class="text-right">alone {volume(b.shares[1])}</td></tr
                >
                <tr
                  ><td class="text-verdigris">{said[1]}</td><td>{volume(b.volumes[1])}</td><td
                    >{b.masses[1] ? `${figure(b.masses[1])} g` : ''}</td
                  ><td class="text-right">alone {volume(b.shares[2])}</td></tr
                >
                <tr><td class="text-graphite">common</td><td>{volume(b.shares[0])}</td><td></td><td></td></tr>
              </tbody>
            </table>
          {/if}
          {#if b.faces.length}<details class="mt-1">
              <summary class="cursor-pointer"
                >{b.faces.length}
                {b.faces.length === 1 ? 'face that only one has' : 'faces that only one has'}</summary
              >
              <ul>
                {#each b.faces as f, i (i)}
                  <li class={f.side === 'here' ? 'text-carmine' : 'text-verdigris'}>
                    <button
                      class="text-left hover:underline"
                      onpointerenter={() => work.stage?.markOld(f.at)}
                      onpointerleave={() => work.stage?.markOld(null)}>{f.words}</button
                    >
                  </li>
                {/each}
              </ul>
            </details>{/if}
        </div>
      {:else}
        <p class="mt-1 text-graphite">Neither has a body.</p>
      {/each}
      {#if told.steps.length}
        <h3 class="mt-4 border-t border-ink pt-2 font-semibold">
          {told.steps.length}
          {told.steps.length === 1 ? 'step' : 'steps'}
        </h3>
        {#each told.steps as s (s.was + s.id)}
          <div class="mt-1" data-testid="step-compared" data-was={s.was}>
            <p>
              <strong>{s.name}</strong>
              <span
                class={s.was === 'added'
                  ? 'text-verdigris'
                  : s.was === 'removed'
                    ? 'text-carmine'
                    : 'text-graphite'}>{WAS[s.was]}</span
              >
            </p>
            {#if s.fields?.length}<table class="ml-3 text-[0.84375rem]">
                <tbody
                  >{#each s.fields as c, i (i)}{@render change(c)}{/each}</tbody
                >
              </table>{/if}
          </div>
        {/each}
      {/if}
      {#if told.ledger.length || told.values.length}
        <h3 class="mt-4 border-t border-ink pt-2 font-semibold">Ledger</h3>
        <table class="text-[0.84375rem]">
          <tbody
            >{#each told.ledger as c, i (i)}{@render change(c)}{/each}
            {#each told.values as v (v.tag)}<tr
                ><td class="figures pr-3">{v.tag}</td><td class="figures pr-3 text-carmine"
                  >{v.before || 'not there'}</td
                ><td class="figures text-verdigris">{v.after || 'not there'}</td></tr
              >{/each}</tbody
          >
        </table>
      {/if}
      {#if told.part.length}
        <h3 class="mt-4 border-t border-ink pt-2 font-semibold">Beside the steps</h3>
        <table class="text-[0.84375rem]">
          <tbody
            >{#each told.part as c, i (i)}{@render change(c)}{/each}</tbody
          >
        </table>
      {/if}
    </div>
  {/if}
</Panel>
