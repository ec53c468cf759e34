<script lang="ts">
  /** The bodies under the route: each with its name, its colour, its volume, shown or hidden. */
  import type { SceneBody } from '../api/types';
  import { look, nextColour } from '../state/deeds';
  import { bodyThing } from '../state/listed';
  import { useWorkplace } from '../state/workplace.svelte';

  const work = useWorkplace();
  const { session } = work;
  const bodies = $derived(session.scene?.bodies ?? []);
  const figure = (v: number) => v.toLocaleString('en-GB', { maximumFractionDigits: 0 }).replaceAll(',', ' ');

  async function rename(body: SceneBody, name: string) {
    work.naming = '';
    if (name.trim() !== body.name) await look(session, body, { name: name.trim() });
  }
  /** While the step under edit takes bodies, a click here gives this one. */
  const gives = (body: SceneBody) => (work.editing?.accepts.includes('body') ? bodyThing(body) : null);
  const begin = (field: HTMLInputElement) => (field.focus(), field.select());
</script>

{#if bodies.length}
  <section class="max-h-40 shrink-0 overflow-y-auto border-t-2 border-ink" data-testid="bodies">
    <h3 class="px-4 pt-1.5 text-[0.8125rem] text-graphite">
      {bodies.length === 1 ? '1 body' : `${bodies.length} bodies`}
    </h3>
    {#each bodies as body (body.id)}
      <div
        class="flex items-center gap-2.5 px-4 py-1 text-[0.875rem] {body.visible ? '' : 'opacity-55'} {gives(
          body,
        )
          ? 'bg-wash'
          : ''}"
        data-body={body.id}
      >
        <button
          class="h-3.5 w-3.5 shrink-0 border border-ink"
          style:background="var(--color-{body.colour || 'stone'})"
          aria-label="Colour of {body.name}"
          title="Another colour"
          onclick={() => nextColour(session, body)}
        ></button>
        {#if work.naming === body.id}
          <input
            use:begin
            class="min-w-0 flex-1 border border-brass bg-white px-1"
            aria-label="Name of the body"
            value={body.name}
            onblur={(e) => work.naming && rename(body, e.currentTarget.value)}
            onkeydown={(e) => {
              e.stopPropagation();
              if (e.key === 'Enter') void rename(body, e.currentTarget.value);
              if (e.key === 'Escape') work.naming = '';
            }}
          />
        {:else}
          <button
            class="min-w-0 flex-1 truncate text-left hover:underline"
            title={gives(body) ? 'Pick this body' : 'Rename'}
            onclick={() => {
              const thing = gives(body);
              if (thing) work.pick(thing, false);
              else work.naming = body.id;
            }}>{body.name}</button
          >
        {/if}
        <span class="figures text-graphite"
          >{body.mass.sheet
            ? `sheet, ${figure(body.mass.area)} mm²`
            : `${figure(body.mass.volume)} mm³`}</span
        >
        <button
          class="w-9 text-right text-[0.8125rem] text-graphite hover:text-ink"
          onclick={() => look(session, body, { visible: !body.visible })}
          >{body.visible ? 'hide' : 'show'}</button
        >
      </div>
    {/each}
  </section>
{/if}
