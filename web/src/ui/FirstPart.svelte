<script lang="ts">
  /** Six lines of a first part, each ticked off as it is done; put away for good by a click. */
  import { useWorkplace } from '../state/workplace.svelte';

  const work = useWorkplace();
  const { session } = work;
  const AWAY = 'wendal.first.away';
  const own = `wendal.first.${session.id}`;
  let away = $state(localStorage.getItem(AWAY) === 'yes');
  /** A part is a first one when it was seen empty; what can not be seen of it later is remembered here. */
  let marks = $state.raw<string[] | null>(JSON.parse(localStorage.getItem(own) ?? 'null'));
  function mark(...words: string[]) {
    marks = [...(marks ?? []), ...words];
    localStorage.setItem(own, JSON.stringify(marks));
  }
  $effect(() => {
    // A part that is new forgets what another of its number, in another store, had done.
    if (marks?.length !== 0 && session.part && !session.steps.length && session.version <= 1) {
      marks = [];
      mark();
    }
    const view = session.sketch;
    if (marks && !marks.includes('inked') && view?.regions.length && !view.free && !view.trouble)
      mark('inked');
  });
  /** A formula that is another than at the last look, once there is a body, is a changed dimension. */
  let known: Record<string, string> = {};
  $effect(() => {
    const now = Object.fromEntries(session.ledger.map((r) => [r.tag, r.formula]));
    const other =
      session.scene?.bodies.length && Object.keys(now).some((t) => t in known && known[t] !== now[t]);
    known = now;
    if (other && marks && !marks.includes('changed')) mark('changed');
  });
  const has = (...kinds: string[]) => session.steps.some((s) => kinds.includes(s.kind));
  const built = (kind: string) =>
    session.steps.some((s) => s.kind === kind && session.report(s.id)?.state === 'built');
  const outlined = $derived(
    !!session.sketch?.regions.length || (session.scene?.sketches ?? []).some((s) => s.regions.length),
  );
  const lines = $derived([
    { done: has('sketch'), words: 'A sketch on a base plane', how: 'click a plane, then k n' },
    { done: outlined, words: 'A closed outline in it', how: 'k r, two corners' },
    { done: !!marks?.includes('inked'), words: 'Fully constrained', how: 'pick, then c d; or k z' },
    { done: built('extrude'), words: 'Extruded to a body', how: 'close the sketch, then b e' },
    {
      done: has('fillet', 'chamfer', 'hole'),
      words: 'An edge rounded, or a hole',
      how: 'pick, then b f or b h',
    },
    {
      done: !!marks?.includes('changed'),
      words: 'A dimension changed',
      how: 'click its value in the ledger',
    },
  ]);
  const next = $derived(lines.findIndex((l) => !l.done));
  function putAway() {
    away = true;
    localStorage.setItem(AWAY, 'yes');
  }
</script>

{#if marks && !away}
  <section class="border-t border-rule px-4 py-3 text-[0.84375rem]" data-testid="first-part">
    <p class="mb-1 flex justify-between font-medium">
      <span>{next < 0 ? 'Your first part is done' : 'A first part'}</span><button
        class="font-normal text-graphite hover:text-brass"
        onclick={putAway}>put away</button
      >
    </p>
    <ol>
      {#each lines as line, i (line.words)}
        <li class="flex gap-2 py-0.5" data-done={line.done}>
          <span
            class="w-4 {line.done ? 'text-verdigris' : 'text-graphite'}"
            aria-label={line.done ? 'done' : 'to do'}>{line.done ? '✓' : i === next ? '▸' : '·'}</span
          >
          <span class="flex-1 {line.done ? 'text-graphite line-through' : ''}">{line.words}</span>
          {#if i === next}<span class="text-[0.78125rem] text-graphite">{line.how}</span>{/if}
        </li>
      {/each}
    </ol>
  </section>
{/if}
