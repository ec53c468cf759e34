<script lang="ts">
  /** What is said of the part on lists and drawings. */
  import { useWorkplace } from '../state/workplace.svelte';
  import Card from './Card.svelte';
  import { choosing } from './choosing';

  const work = useWorkplace();
  const { session, route } = work;
  const held = $derived({
    number: '',
    material: '',
    drawn_by: '',
    note: '',
    general: 'm' as 'f' | 'm' | 'c' | 'v',
    ...session.part?.about,
  });
  const FIELDS = [
    ['number', 'Number'],
    ['material', 'Material'],
    ['drawn_by', 'Drawn by'],
  ] as const;
  const GENERAL = [
    ['f', 'fine'],
    ['m', 'medium'],
    ['c', 'coarse'],
    ['v', 'very coarse'],
  ] as const;
  async function set(name: string, value: string) {
    if (value.trim() !== (held as Record<string, string>)[name])
      await session.try({ do: 'set_about', about: { ...held, [name]: value.trim() } as typeof held });
  }
</script>

<Card title="About the part" close="Close" onclose={() => (route.aboutOpen = false)} name="about" wide="w-80">
  <div class="grid gap-2 px-3 py-2">
    {#each FIELDS as [name, words] (name)}
      <label class="grid grid-cols-[5rem_1fr] items-baseline"
        >{words}
        <input
          class="min-w-0 border-b border-line bg-transparent"
          value={held[name]}
          maxlength="80"
          disabled={!!session.barred}
          onchange={(e) => set(name, e.currentTarget.value)}
          onkeydown={(e) => {
            if (e.key === 'Enter') e.currentTarget.blur();
            if (e.key !== 'Escape') e.stopPropagation();
          }}
        /></label
      >
    {/each}
    <label
      class="grid grid-cols-[5rem_1fr] items-baseline"
      title="ISO 2768-1, where no tolerance is laid down"
      >General
      <select
        class="min-w-0 border-b border-line bg-transparent"
        aria-label="general tolerances"
        disabled={!!session.barred}
        use:choosing={{ value: held.general, set: (v) => set('general', v) }}
      >
        {#each GENERAL as [letter, words] (letter)}<option value={letter}>ISO 2768-{letter}, {words}</option
          >{/each}
      </select></label
    >
    <label class="grid gap-0.5"
      >Remarks
      <textarea
        class="min-h-20 border border-rule bg-transparent px-1"
        maxlength="2000"
        value={held.note}
        disabled={!!session.barred}
        onchange={(e) => set('note', e.currentTarget.value)}
        onkeydown={(e) => e.key !== 'Escape' && e.stopPropagation()}></textarea></label
    >
  </div>
</Card>
