<script lang="ts">
  /** The tools of the drawing board, open beside the drawing: what fits the selection is inked, the rest faint with its reason. */
  import { useWorkplace, type Action } from '../state/workplace.svelte';
  import type { Board } from './board.svelte';
  import { fitting } from './fitting';
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

  const groups = [
    { name: 'Draw', letter: 'k', keys: 'l r c a e u s g p t' },
    { name: 'Change', letter: 'k', keys: 'i d b w f h o m y v x' },
    { name: 'Take in', letter: 'k', keys: 'j k' },
    { name: 'Constrain', letter: 'c', keys: 'd c o m h v p s t n l e y f w x' },
  ];
  /** What stands in the rail where the action's own title is long. */
  const SHORT: Record<string, string> = {
    'k u': 'Curve', 'k w': 'Add point', 'k f': 'Round', 'k h': 'Chamfer', 'k o': 'Offset', 'k y': 'Repeat', 'k v': 'Move', 'k x': 'Construction',
    'c w': 'Freedoms', 'c x': 'Conflicts',
  };
  const TOOLS: Record<string, string> = {
    'k l': 'line', 'k r': 'rectangle', 'k c': 'circle', 'k a': 'arc', 'k e': 'ellipse', 'k u': 'spline', 'k s': 'slot', 'k g': 'polygon', 'k p': 'point', 'k t': 'text',
    'k i': 'trim', 'k d': 'extend', 'k b': 'split', 'k w': 'spline point', 'k f': 'round', 'k h': 'chamfer', 'k o': 'offset', 'k m': 'mirror', 'k y': 'repeat',
    'k v': 'transform', 'k j': 'project', 'k k': 'cut line',
  };
  const byKey = $derived(new Map(work.actions.filter((a) => a.group === 'sketch' || a.group === 'constrain').map((a) => [a.key, a])));
  const fits = $derived(new Set(fitting(board).map((c) => c.key)));
  /** Why an action does nothing with what is picked, or "". */
  function barred(action: Action): string {
    if (action.group !== 'constrain' || action.key === 'c w') return '';
    if (action.key === 'c x') return board.binding.fights.length ? '' : 'Nothing fights.';
    const does = action.key === 'c d' ? board.binding.ways.length > 0 : fits.has(action.key);
    return does ? '' : board.picked.length ? 'What is picked does not fit.' : 'Pick first.';
  }
  let over = $state<{ action: Action; top: number } | null>(null);
  const show = (action: Action, event: Event) => (over = { action, top: (event.currentTarget as HTMLElement).getBoundingClientRect().top });
  const away = () => (over = null);
</script>

<nav class="relative z-10 flex h-full flex-col border-r border-rule bg-paper {folded ? 'w-[76px]' : 'w-[206px]'}" aria-label="Tools of the drawing board" data-testid="rail" onpointerleave={away}>
  <div class="min-h-0 flex-1 overflow-y-auto px-1.5 py-2" onscroll={away}>
    {#each groups as group (group.name)}
      <div class="mb-1.5 flex justify-between px-1.5 text-[13px] font-medium"><span class={folded ? 'text-[12px]' : ''}>{group.name}</span>{#if !folded}<span class="figures text-brass">{group.letter}</span>{/if}</div>
      <div class="mb-2.5 grid grid-cols-2 gap-x-0.5">
        {#each group.keys.split(' ') as letter (letter)}
          {@const action = byKey.get(`${group.letter} ${letter}`)}
          {#if action}
            {@const picture = PICTOGRAMS[action.key]}
            {@const held = (TOOLS[action.key] && board.tool === TOOLS[action.key]) || (action.key === 'k x' && board.construction)}
            <button
              class="flex min-h-6 min-w-0 items-center gap-1.5 border px-1 py-0.5 text-left text-[13px] {held ? 'border-brass bg-wash' : 'border-transparent hover:bg-wash'} {barred(action) ? 'text-graphite/75' : ''} {folded ? 'justify-center' : ''} {action.key === 'k x' && !folded ? 'col-span-2' : ''}"
              aria-label={action.title}
              aria-pressed={!!held}
              aria-describedby={over?.action.key === action.key ? 'rail-tip' : undefined}
              onpointerenter={(e) => show(action, e)}
              onfocus={(e) => show(action, e)}
              onblur={away}
              onclick={(e) => {
                e.currentTarget.blur();
                work.run(action);
              }}
            >
              <svg viewBox="0 0 18 18" class="h-[18px] w-[18px] shrink-0 {barred(action) ? 'opacity-60' : ''}" fill="none" stroke="currentColor" stroke-width="1.4" aria-hidden="true">
                <path d={picture?.lines ?? ''} />
                {#if picture?.dashed}<path d={picture.dashed} stroke-dasharray="2 1.6" />{/if}
                {#each picture?.dots ?? [] as [x, y], i (i)}<circle cx={x} cy={y} r="1.7" fill="currentColor" stroke="none" />{/each}
              </svg>
              {#if !folded}<span class="truncate">{SHORT[action.key] ?? action.title}</span>{/if}
            </button>
          {/if}
        {/each}
      </div>
    {/each}
  </div>
  <button class="flex justify-between border-t border-rule px-3 py-1.5 text-left text-[13px] text-graphite hover:bg-wash" aria-expanded={!folded} aria-label={folded ? 'Unfold the tools' : 'Fold the tools to pictograms'} onclick={fold}>
    <span>{folded ? 'names' : 'fold to pictograms'}</span><span class="text-brass" aria-hidden="true">{folded ? '▸' : '◂'}</span>
  </button>
  {#if over}
    <div id="rail-tip" role="tooltip" class="pointer-events-none fixed z-30 w-64 border border-ink bg-paper px-2.5 py-1.5 text-[13px]" style:left="{folded ? 142 : 272}px" style:top="{Math.min(over.top, innerHeight - 110)}px">
      <p class="font-medium">{over.action.title} <span class="figures ml-1 text-brass">{over.action.key}</span></p>
      <p>{over.action.explains}</p>
      {#if barred(over.action)}<p class="text-graphite">{barred(over.action)}</p>{/if}
    </div>
  {/if}
</nav>
