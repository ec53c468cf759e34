<script lang="ts">
  /** A name for a face: it is called so on the stage, in sentences, and in a STEP file. */
  import { setFaceLook } from '../state/deeds';
  import { useWorkplace } from '../state/workplace.svelte';
  import Card from './Card.svelte';
  import { focused } from './focused';

  const work = useWorkplace();
  const naming = $derived(work.namingFace!);
  let name = $state(work.namingFace!.name);
  async function submit(event: SubmitEvent) {
    event.preventDefault();
    if (await setFaceLook(work, naming.thing, { name })) work.namingFace = null;
  }
</script>

<Card
  title="Name of a face"
  close="Close"
  onclose={() => (work.namingFace = null)}
  name="face-name"
  wide="w-72"
>
  <form class="flex gap-2 px-3 py-2" onsubmit={submit}>
    <input
      use:focused
      class="min-w-0 flex-1 border border-brass bg-white px-1"
      aria-label="name of the face"
      maxlength="80"
      placeholder={naming.thing.brief ?? ''}
      bind:value={name}
      onkeydown={(e) => {
        if (e.key === 'Escape') work.namingFace = null;
        e.stopPropagation();
      }}
    />
    <button class="button !py-0">Keep</button>
  </form>
</Card>
