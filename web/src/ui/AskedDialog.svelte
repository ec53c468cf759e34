<script lang="ts">
  /** Before steps are deleted, moved or suppressed: what would stop, what bodies would be, in which way it is done. */
  import { AlertDialog } from 'bits-ui';
  import { figure } from './figures';
  import { sayLost } from '../state/saying';
  import { useWorkplace } from '../state/workplace.svelte';
  import { markOf } from './marks';

  const work = useWorkplace();
  const { route } = work;
  const asked = $derived(route.asked);
  const amiss = $derived(asked?.foreseen?.steps.filter((s) => ['stopped', 'held'].includes(s.state)) ?? []);
  const others = $derived((asked?.foreseen?.steps.length ?? 0) - amiss.length);
  /** What it would do, on the stage; from there it is done, or asked again. */
  function see() {
    const held = asked!;
    const back = () => (route.asked = held);
    route.asked = null;
    void work.trust.tryOn({
      ...{ values: {}, command: held.ways[held.way].command, title: held.title },
      accept: { words: held.title.split(' ')[0], run: () => (back(), route.accept()) },
      back: { words: 'Back to the question', run: back },
    });
  }
  const volume = (v: number | null | undefined) => (v == null ? 'not there' : `${figure(v, 8)} mm³`);
  type Figures = NonNullable<NonNullable<typeof asked>['foreseen']>['bodies'][number]['was'];
  const box = (f: Figures) => (f ? f.high.map((h, i) => figure(h - f.low[i], 5)).join(' × ') : '');
</script>

<AlertDialog.Root open={asked !== null} onOpenChange={(open) => !open && (route.asked = null)}>
  <AlertDialog.Portal>
    <AlertDialog.Overlay class="fixed inset-0 z-40 bg-ink/25" />
    <AlertDialog.Content
      class="fixed top-[12%] left-1/2 z-50 flex max-h-[76%] w-[540px] -translate-x-1/2 flex-col border border-ink bg-paper"
      data-testid="asked"
    >
      {#if asked}
        <AlertDialog.Title class="border-b-2 border-ink px-5 py-3 font-semibold"
          >{asked.title}</AlertDialog.Title
        >
        <div class="min-h-0 flex-1 overflow-y-auto px-5 py-3 text-[0.875rem]">
          <AlertDialog.Description class="sr-only">What it would do, and in which way</AlertDialog.Description
          >
          {#if asked.ways.length > 1}
            <fieldset class="mb-3">
              {#each asked.ways as way, i (i)}
                <label class="flex items-baseline gap-2 py-0.5"
                  ><input
                    type="radio"
                    name="way"
                    checked={asked.way === i}
                    onchange={() => route.choose(i)}
                  />
                  {way.words}</label
                >
              {/each}
            </fieldset>
          {/if}
          {#if asked.trouble}<p class="text-carmine" role="alert">{asked.trouble}</p>
          {:else if !asked.foreseen}<p class="text-graphite" aria-live="polite">Looking what it would do …</p>
          {:else}
            {#if amiss.length}
              <p class="font-medium">
                {amiss.length}
                {amiss.length === 1 ? 'step would not stand' : 'steps would not stand'} as before:
              </p>
              {#each amiss as s (s.id)}
                <p class="mt-1 flex gap-2">
                  <span class={markOf(s.state)[1]}>{markOf(s.state)[0]}</span><span
                    ><strong>{s.name}</strong> {s.state}: {s.message}</span
                  >
                </p>
              {/each}
            {:else}<p class="text-verdigris">All other steps stand as before.</p>{/if}
            {#if others > 0}<p class="mt-1 text-graphite">
                {others} more {others === 1 ? 'step is' : 'steps are'} built anew.
              </p>{/if}
            {#each sayLost(asked.foreseen) as line (line)}<p class="mt-1 flex gap-2">
                <span class={markOf('stopped')[1]}>{markOf('stopped')[0]}</span><span>{line}</span>
              </p>{/each}
            {#each asked.foreseen.bodies as b (b.name)}
              <div class="mt-2 border-t border-rule pt-1">
                <p>
                  <strong>{b.name}</strong>
                  <span class="figures">{volume(b.before)} → {volume(b.after)}</span>
                </p>
                {#if b.was && b.will && box(b.was) !== box(b.will)}<p class="figures text-graphite">
                    size {box(b.was)} → {box(b.will)}
                  </p>{/if}
                {#if b.was?.mass && b.will?.mass}<p class="figures text-graphite">
                    {figure(b.was.mass)} g → {figure(b.will.mass)} g
                  </p>{/if}
              </div>
            {/each}
          {/if}
        </div>
        <div class="flex gap-3 border-t border-rule px-5 py-3">
          <button class="button-strong" disabled={!!asked.trouble} onclick={() => route.accept()}
            >{asked.title.startsWith('Build again') ? 'Build again' : asked.title.split(' ')[0]}</button
          >
          {#if asked.foreseen}<button class="button" onclick={see}>See it</button>{/if}
          <AlertDialog.Cancel class="button">Leave it</AlertDialog.Cancel>
        </div>
      {/if}
    </AlertDialog.Content>
  </AlertDialog.Portal>
</AlertDialog.Root>
