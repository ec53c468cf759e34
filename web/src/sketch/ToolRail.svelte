<script lang="ts">
  /**
   * The tools of the drawing board, open beside the drawing: what fits the selection is inked, the rest faint
   * with its reason.
   */
  import type { Action } from '../state/action';
  import { useWorkplace } from '../state/workplace.svelte';
  import type { Board } from './board.svelte';
  import { roved } from '../ui/roving';
  import Picture from '../ui/Picture.svelte';
  import { PICTOGRAMS } from './pictograms';

  let { board }: { board: Board } = $props();
  const work = useWorkplace();
  const NARROW = 1180; // px: in a window narrower than this the rail begins folded
  const KEPT = 'wendal.rail';
  let folded = $state((localStorage.getItem(KEPT) ?? (innerWidth < NARROW ? 'folded' : '')) === 'folded');
  function fold() {
    folded = !folded;
    localStorage.setItem(KEPT, folded ? 'folded' : 'open');
  }

  const GROUPS = { Draw: 'k', Change: 'k', 'Take in': 'k', Constrain: 'c' };
  /** What is wanted most stands first; whatever else there is follows. */
  const FIRST = [
    'c d',
    'c c',
    'c o',
    'c m',
    'c h',
    'c v',
    'c p',
    'c s',
    'c t',
    'c n',
    'c l',
    'c e',
    'c y',
    'c f',
  ];
  const place = (a: Action) => (FIRST.includes(a.key) ? FIRST.indexOf(a.key) : FIRST.length);
  const groups = $derived(
    Object.entries(GROUPS).map(([name, letter]) => ({
      name,
      letter,
      actions: work.actions.filter((a) => a.rail === name).sort((a, b) => place(a) - place(b)),
    })),
  );
  const fits = $derived(new Set(board.picked.length ? work.offers.list?.map((o) => o.key) : []));
  /** Why an action does nothing with what is picked, or "". */
  function barred(action: Action): string {
    if (action.group !== 'constrain' || action.key === 'c w') return '';
    if (action.key === 'c x') return board.binding.fights.length ? '' : 'Nothing fights.';
    const does = action.key === 'c d' ? board.binding.ways.length > 0 : fits.has(action.key);
    return does ? '' : board.picked.length ? 'What is picked does not fit.' : 'Pick first.';
  }
  /** Where Tab stops: the tool that had the focus last, else the first. */
  let stop = $state('');
  const first = $derived(groups[0]?.actions[0]?.key);
  function key(event: KeyboardEvent) {
    roved(
      event,
      [...(event.currentTarget as Element).querySelectorAll<HTMLElement>('[data-tool]')],
      folded ? 1 : 2,
    );
  }
  let over = $state<{ action: Action; top: number } | null>(null);
  const show = (action: Action, event: Event) =>
    (over = { action, top: (event.currentTarget as HTMLElement).getBoundingClientRect().top });
  const away = () => (over = null);
</script>

<nav
  class="relative z-10 flex h-full flex-col border-r border-rule bg-paper {folded ? 'w-[76px]' : 'w-[206px]'}"
  aria-label="Tools of the drawing board"
  data-testid="rail"
  onpointerleave={away}
>
  <div
    class="min-h-0 flex-1 overflow-y-auto px-1.5 py-2"
    role="toolbar"
    tabindex="-1"
    aria-label="Drawing, changing, taking in, constraining"
    onscroll={away}
    onkeydown={key}
  >
    {#each groups as group (group.name)}
      <div class="mb-1.5 flex justify-between px-1.5 text-[0.8125rem] font-medium">
        <span class={folded ? 'text-[0.75rem]' : ''}>{group.name}</span>{#if !folded}<span
            class="figures text-brass">{group.letter}</span
          >{/if}
      </div>
      <div class="mb-2.5 grid grid-cols-2 gap-x-0.5">
        {#each group.actions as action (action.key)}
          {@const picture = PICTOGRAMS[action.key]}
          {@const held = action.tool
            ? board.tool === action.tool
            : action.key === 'k x' && board.construction}
          <button
            class="flex min-h-[24px] min-w-0 items-center gap-1.5 border px-1 py-0.5 text-left text-[0.8125rem] {held
              ? 'border-brass bg-wash'
              : 'border-transparent hover:bg-wash'} {barred(action) ? 'text-graphite' : ''} {folded
              ? 'justify-center'
              : ''} {action.key === 'k x' && !folded ? 'col-span-2' : ''}"
            aria-label={!action.short || folded || action.title.includes(action.short)
              ? action.title
              : `${action.short}: ${action.title}`}
            aria-pressed={!!held}
            data-tool
            tabindex={action.key === (stop || first) ? 0 : -1}
            aria-describedby={over?.action.key === action.key ? 'rail-tip' : undefined}
            onpointerenter={(e) => show(action, e)}
            onfocus={(e) => ((stop = action.key), show(action, e))}
            onblur={away}
            onclick={(e) => {
              e.currentTarget.blur();
              work.run(action);
            }}
          >
            <Picture {picture} faint={!!barred(action)} />
            {#if !folded}<span class="truncate">{action.short ?? action.title}</span>{/if}
          </button>
        {/each}
      </div>
    {/each}
  </div>
  <button
    class="flex justify-between border-t border-rule px-3 py-1.5 text-left text-[0.8125rem] text-graphite hover:bg-wash"
    aria-expanded={!folded}
    aria-label={folded ? 'names of the tools' : 'fold to pictograms'}
    onclick={fold}
  >
    <span>{folded ? 'names' : 'fold to pictograms'}</span><span class="text-brass" aria-hidden="true"
      >{folded ? '▸' : '◂'}</span
    >
  </button>
  {#if over}
    <div
      id="rail-tip"
      role="tooltip"
      class="pointer-events-none fixed z-30 w-64 border border-ink bg-paper px-2.5 py-1.5 text-[0.8125rem]"
      style:left="{folded ? 142 : 272}px"
      style:top="{Math.min(over.top, innerHeight - 110)}px"
    >
      <p class="font-medium">
        {over.action.title} <span class="figures ml-1 text-brass">{over.action.key}</span>
      </p>
      <p>{over.action.explains}</p>
      {#if barred(over.action)}<p class="text-graphite">{barred(over.action)}</p>{/if}
    </div>
  {/if}
</nav>
