<script lang="ts">
  /** A name under which something is kept with the part. keep : returns whether it was. */
  let { what, keep }: { what: string; keep: (name: string) => Promise<boolean> } = $props();
  let name = $state('');
  async function submit(event: SubmitEvent) {
    event.preventDefault();
    if (await keep(name)) name = '';
  }
</script>

<form class="mt-2 flex gap-1 border-t border-rule pt-2" onsubmit={submit}>
  <input
    class="min-w-0 flex-1 border border-rule bg-white px-1"
    placeholder="keep this {what} as"
    aria-label="name of the {what}"
    bind:value={name}
    onkeydown={(e) => e.key !== 'Escape' && e.stopPropagation()}
  />
  <button class="button !py-0" disabled={!name.trim()}>Keep</button>
</form>
