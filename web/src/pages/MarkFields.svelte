<script lang="ts">
  /** What a mark on a page says: words, a datum's letter, a tolerance of form or place, a texture. */
  import type { Snippet } from 'svelte';
  import type { PageData } from '../api/types';
  import type { Drawing } from './drawing.svelte';

  type Mark = NonNullable<PageData['marks']>[number];
  let {
    mark,
    drawing,
    field,
    choice,
  }: {
    mark: Mark;
    drawing: Drawing;
    field: Snippet<[string, string, (v: string) => unknown]>;
    choice: Snippet<[string, string, [string, string][], (v: string) => unknown]>;
  } = $props();
  const NAMES: Record<string, string> = {
    ...{ note: 'Note', datum: 'Datum', geometry: 'Geometrical tolerance', texture: 'Surface texture' },
    ...{ weld: 'Weld', holes: 'Hole table', tolerances: 'Tolerance table' },
  };
  const SIGNS = [
    ...['straightness', 'flatness', 'circularity', 'cylindricity', 'line profile', 'surface profile'],
    ...['parallelism', 'perpendicularity', 'angularity', 'position', 'concentricity', 'symmetry'],
    ...['run-out', 'total run-out'],
  ];
  const letters = (text: string) =>
    text
      .toUpperCase()
      .split(/[\s,]+/)
      .filter(Boolean);
</script>

<h3 class="font-semibold">{NAMES[mark.kind]}</h3>
{#if mark.kind === 'note' || mark.kind === 'weld'}
  <textarea
    class="open-blank min-h-20 w-full"
    aria-label="Words"
    value={mark.words}
    onkeydown={(e) => e.key !== 'Escape' && e.stopPropagation()}
    onchange={(e) => void drawing.edit(mark.id, { words: e.currentTarget.value })}></textarea>
{:else if mark.kind === 'datum'}
  {@render field('letter', mark.letters?.[0] ?? 'A', (v) =>
    drawing.edit(mark.id, { letters: letters(v).slice(0, 1) }),
  )}
{:else if mark.kind === 'geometry'}
  {@render choice(
    'tolerance of',
    mark.sign ?? 'position',
    SIGNS.map((s) => [s, s]),
    (sign) => drawing.edit(mark.id, { sign }),
  )}
  {@render field('value', mark.value ?? '', (value) => drawing.edit(mark.id, { value }))}
  {@render field('datums', (mark.letters ?? []).join(' '), (v) =>
    drawing.edit(mark.id, { letters: letters(v).slice(0, 3) }),
  )}
{:else if mark.kind === 'texture'}
  {@render field('texture', mark.words ?? '', (words) => drawing.edit(mark.id, { words }))}
{/if}
