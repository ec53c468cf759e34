<script lang="ts">
  /** What is shown: bodies, datums and sketches one by one, and kinds of them; also what is hidden. */
  import type { Step } from '../api/types';
  import { look } from '../state/deeds';
  import { useWorkplace } from '../state/workplace.svelte';
  import Card from './Card.svelte';

  const work = useWorkplace();
  const { sights, session } = work;
  const KINDS = [
    ['base', 'base planes and axes'],
    ['plane', 'planes'],
    ['axis', 'axes'],
    ['point', 'points'],
    ['system', 'coordinate systems'],
    ['sketch', 'sketches'],
  ] as const;
  const of = (kind: string) => session.steps.filter((s) => s.kind === kind);
  const show = (step: Step) =>
    session.try({ do: 'edit_step', step: step.id, fields: { visible: !step.visible } });
  /** Faces that have looks of their own, and whether they are there now. */
  const looks = $derived.by(() => {
    const found = (session.scene?.bodies ?? []).flatMap((b) => Object.values(b.painted ?? {}));
    const there = new Set(found.map((f) => f.look));
    return (session.part?.faces ?? []).map((f, i) => ({
      ...{ face: f.face, name: f.name ?? '', colour: f.colour ?? '', there: there.has(i) },
    }));
  });
  let wanted = $state('');
  const fits = (name: string) => name.toLowerCase().includes(wanted.toLowerCase());
</script>

<Card title="What is shown" close="Close what is shown" onclose={() => (sights.listing = false)} name="shown">
  <input
    class="mx-3 mt-2 border-b border-rule bg-transparent"
    placeholder="Find by name"
    aria-label="Find by name"
    bind:value={wanted}
    onkeydown={(e) => e.key !== 'Escape' && e.stopPropagation()}
  />
  <div class="min-h-0 flex-1 overflow-y-auto px-3 py-2">
    {#each (session.scene?.bodies ?? []).filter((b) => fits(b.name)) as body (body.id)}
      <p class="flex items-center gap-2">
        <label class="flex min-w-0 flex-1 items-center gap-2"
          ><input
            type="checkbox"
            checked={body.visible}
            onchange={() => look(session, body, { visible: !body.visible })}
          /><span class="truncate">{body.name}</span></label
        >
        <label class="flex items-center gap-1 text-graphite"
          ><input
            type="checkbox"
            aria-label="See through {body.name}"
            checked={body.through}
            onchange={() => look(session, body, { through: !body.through })}
          />see-through</label
        >
      </p>
    {/each}
    {#each looks as { face, name, colour, there }, i (i)}
      {#if fits(name || colour)}
        <p class="flex items-baseline gap-2 pl-4" data-testid="face-look">
          <span class="min-w-0 flex-1 truncate">{name || `a face in ${colour}`}</span>
          {#if !there}<span class="text-carmine">is not there</span>{/if}
          <button
            aria-label="Take the look of {name || `the face in ${colour}`} away"
            onclick={() => session.try({ do: 'set_face_look', face, name: '', colour: '' })}>×</button
          >
        </p>
      {/if}
    {/each}
    {#each KINDS as [kind, words] (kind)}
      {@const steps = of(kind).filter((s) => fits(s.name))}
      {#if !wanted || steps.length}
        <p class="mt-1.5 border-t border-rule pt-1">
          <label class="flex items-center gap-2 font-medium"
            ><input
              type="checkbox"
              checked={!sights.without.includes(kind)}
              onchange={() => sights.toggle(kind)}
            />{words}</label
          >
        </p>
      {/if}
      {#each steps as step (step.id)}
        <p class="pl-4 {sights.without.includes(kind) ? 'opacity-50' : ''}">
          <label class="flex items-center gap-2"
            ><input type="checkbox" checked={!!step.visible} onchange={() => show(step)} /><span
              class="truncate">{step.name}</span
            ></label
          >
        </p>
      {/each}
    {/each}
  </div>
</Card>
