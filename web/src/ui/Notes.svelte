<script lang="ts">
  /** What was refused, and what happened elsewhere. */
  import { useWorkplace } from '../state/workplace.svelte';

  const { session } = useWorkplace();
</script>

<div class="absolute top-3 right-3 z-20 flex w-96 flex-col gap-2" aria-live="polite">
  {#each session.notes as note (note.id)}
    <div
      class="flex items-start gap-3 border bg-paper px-3 py-2 text-[0.875rem] {note.bad
        ? 'border-carmine'
        : 'border-rule'}"
      role={note.bad ? 'alert' : 'status'}
      data-card
      data-testid="note"
    >
      <p class="flex-1">
        {note.text}
        {#if note.way}<button class="blank ml-1" onclick={() => (note.way!.run(), session.dismiss(note.id))}
            >{note.way.words}</button
          >{/if}
      </p>
      <button aria-label="Dismiss" class="text-graphite" onclick={() => session.dismiss(note.id)}>×</button>
    </div>
  {/each}
</div>
