<script lang="ts">
  /** An open part: head line, kit, stage, route card or sketch panel, ledger. */
  import type { About } from '../api/types';
  import { begin } from '../api/underway';
  import AskedDialog from './AskedDialog.svelte';
  import PullCard from './PullCard.svelte';
  import TriedCard from './TriedCard.svelte';
  import TogetherPanel from './TogetherPanel.svelte';
  import BoardStrip from '../sketch/BoardStrip.svelte';
  import SketchPanel from '../sketch/SketchPanel.svelte';
  import ToolRail from '../sketch/ToolRail.svelte';
  import { sentTo } from '../state/sent';
  import { provideWorkplace, Workplace } from '../state/workplace.svelte';
  import PageView from '../pages/PageView.svelte';
  import PagesPanel from '../pages/PagesPanel.svelte';
  import FamilyPanel from './FamilyPanel.svelte';
  import FindAction from './FindAction.svelte';
  import HeadLine from './HeadLine.svelte';
  import KeyCard from './KeyCard.svelte';
  import Keys from './Keys.svelte';
  import KeysHere from './KeysHere.svelte';
  import Kit from './Kit.svelte';
  import Ledger from './Ledger.svelte';
  import MovesPanel from './MovesPanel.svelte';
  import Notes from './Notes.svelte';
  import RouteCard from './RouteCard.svelte';
  import ShakedownPanel from './ShakedownPanel.svelte';
  import ComparePanel from './ComparePanel.svelte';
  import PastBanner from './PastBanner.svelte';
  import StageView from './StageView.svelte';
  import VersionsPanel from './VersionsPanel.svelte';

  let { part, past, about }: { part: number; past: number; about: About } = $props();
  // A page is made anew for every part and version, so all are fixed for its life.
  // svelte-ignore state_referenced_locally
  const work = new Workplace(part, about, past);
  provideWorkplace(work);
  $effect(() => () => work.session.socket.close());
  $effect(() => {
    const sent = work.session.linked && work.session.scene ? sentTo(part) : null;
    if (sent) void work.exchange.taken(sent.file, sent.told);
  });
  $effect(() => (work.session.turning ? begin() : undefined));
  $effect(() => {
    if (!work.board || !work.session.part || work.session.saving || work.session.step(work.board.step))
      return;
    work.closeBoard();
    work.session.note('The open sketch is not there any more: its step was deleted or undone.', true);
  });
  /** What a wide panel covers of the stage, so that the part stands beside it. */
  const beside = $derived(
    work.board ? '' : { shakedown: '292px', moves: '212px', family: '332px', '': '' }[work.trust.open],
  );
</script>

<svelte:head><title>{work.session.part ? `${work.session.part.name} – Wendal` : 'Wendal'}</title></svelte:head
>

{#if work.session.gone}
  <p class="m-10">This part was deleted. <a class="blank" href="#parts">Back to the list of parts</a></p>
{:else}
  <Keys />
  <main
    class="grid h-full grid-cols-[60px_auto_minmax(0,1fr)_348px] grid-rows-[44px_minmax(0,1fr)_auto]"
    data-part={part}
  >
    <div class="col-span-4 border-b border-rule"><HeadLine /></div>
    <Kit />
    <div class="min-h-0">
      {#if work.board}<ToolRail board={work.board} />{/if}
    </div>
    <div class="@container flex min-h-0 flex-col" style:padding-right={beside}>
      {#if past}<PastBanner />{/if}
      <div class="relative min-h-0 flex-1 overflow-hidden">
        <StageView />
        {#if work.drawing.open && !work.board}<PageView />{/if}
        {#if work.trust.pulling && !work.board}<PullCard
          />{:else if work.trust.trying && !work.board}<TriedCard />{/if}
        <KeyCard />
        <Notes />
      </div>
      {#if work.board}<BoardStrip board={work.board} />{/if}
    </div>
    <div class="min-h-0">
      {#if work.board}<SketchPanel
          board={work.board}
        />{:else if work.drawing.open && !work.editing}<PagesPanel />{:else}<RouteCard />{/if}
    </div>
    {#if work.together.shown && !work.board}<TogetherPanel
      />{:else if work.versions.comparing && !work.board}<ComparePanel
      />{:else if work.versions.shown && !work.board}<VersionsPanel
      />{:else if work.trust.open === 'shakedown' && !work.board}<ShakedownPanel
      />{:else if work.trust.open === 'moves' && !work.board}<MovesPanel
      />{:else if work.trust.open === 'family' && !work.board}<FamilyPanel />{/if}
    <div class="col-span-4 border-t border-rule"><Ledger /></div>
  </main>
  <FindAction />
  <KeysHere />
  <AskedDialog />
{/if}
