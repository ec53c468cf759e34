<script lang="ts">
  /** Of a step that stopped: when it was built last, what has changed since, and the way back. */
  import type { Step } from '../api/types';
  import { useWorkplace } from '../state/workplace.svelte';

  let { step }: { step: Step } = $props();
  const work = useWorkplace();
  const { session, trust } = work;
  type Told = {
    version: number;
    words: string[];
    values: Record<string, string>;
    fields: object;
    whole: boolean;
  };
  let found = $state.raw<{ of: number; told: Told } | null>(null);
  let asking = $state(false);
  // What was found is of the version in which it was asked for.
  const told = $derived(found?.of === session.version ? found.told : null);
  async function ask() {
    asking = true;
    try {
      const answer = await session.socket.ask({ type: 'last_good', step: step.id } as never);
      if (answer.type === 'last_good') found = { of: session.version, told: answer as unknown as Told };
    } catch (error) {
      session.refused(error);
    } finally {
      asking = false;
    }
  }
  const backed = $derived(
    told?.whole
      ? Object.entries(told.values)
          .map(([t, f]) => `${t} = ${f}`)
          .join(', ') || 'its fields as they were'
      : '',
  );
  const command = $derived(
    told?.whole && !Object.keys(told.values).length
      ? { do: 'edit_step', step: step.id, fields: told.fields }
      : undefined,
  );
  async function putBack() {
    if (!told) return;
    const { version } = told;
    const edit = command ?? {
      do: 'set_formulas',
      values: told.values,
      why: `${step.name} as in v${version}`.slice(0, 120),
    };
    if (await session.try(edit as never)) session.noteUndo(`${step.name} as it was in v${version}.`);
  }
  const see = () =>
    trust.tryOn({
      values: command ? {} : told!.values,
      command: command as never,
      title: `${step.name} as it was in v${told!.version}`,
      accept: { words: 'Put it back', run: putBack },
    });
</script>

{#if !told}
  <button class="blank" disabled={asking} onclick={ask}
    >{asking ? 'Being looked for …' : 'What has changed since it was built'}</button
  >
{:else if !told.version}
  <span class="text-graphite">It was built in none of the versions before.</span>
{:else}
  {@const { version, words } = told}
  <div class="w-full" data-testid="since-good">
    <p>
      Built last in v{version}. {words.length ? 'Since then:' : 'Nothing of what it hangs on has changed.'}
    </p>
    <ul class="ml-4 list-disc">
      {#each words.slice(0, 8) as line, i (i)}<li class="figures">{line}</li>{/each}
    </ul>
    {#if words.length > 8}<p class="text-graphite">and {words.length - 8} more</p>{/if}
    <p class="flex flex-wrap gap-x-3">
      {#if told.whole}
        <button class="blank" onclick={see}>See it</button>
        <button class="blank" title={backed} onclick={putBack}
          >Put {backed.length < 40 ? backed : 'it'} back</button
        >
      {/if}
      <button class="blank" onclick={() => work.versions.look(version)}>Look at v{version}</button>
    </p>
  </div>
{/if}
