/** Everything that can be found by its words: actions, menus, steps, tags, bodies, parts. */
import type { Action } from '../state/action';
import { handbook } from '../state/handbook.svelte';
import type { Workplace } from '../state/workplace.svelte';

export interface Findable {
  id: string;
  key: string;
  title: string;
  explains: string;
  /** Other words of the trade for it. */
  also: string;
  run: () => void;
}

/** What else the trade calls an action, by its key. */
const ALSO: Record<string, string> = {
  'b e': 'boss pad pocket cut push pull recess slot',
  'b r': 'turn lathe rotate groove',
  'b w': 'pipe tube carry along path',
  'b l': 'blend sections transition',
  'b i': 'web stiffener gusset',
  'b n': 'emboss engrave text round',
  'b h': 'drill bore thread tap counterbore countersink screw bolt clearance',
  'b f': 'round radius blend edge',
  'b c': 'bevel break edge',
  'b s': 'hollow wall thin',
  'b d': 'taper mould angle incline',
  'b p': 'pattern array copies grid ring circular linear array of holes',
  'b m': 'reflect symmetric copy',
  'b j': 'join add subtract intersect unite boolean merge',
  'b k': 'cut trim divide',
  'b v': 'move copy turn rotate translate place',
  'b o': 'push pull thicken enlarge',
  'b y': 'shift move direct',
  'b b': 'extend to surface',
  'b g': 'divide part line',
  'b x': 'delete erase heal remove fillet hole',
  'b u': 'patch cap plane surface',
  'b a': 'surface copy sheet',
  'b q': 'lengthen surface',
  'b z': 'stitch join sheets close',
  'b t': 'offset sheet to solid wall',
  'd p': 'datum offset plane angle tangent midplane',
  'd a': 'datum axis centre line',
  'd o': 'datum point centre',
  'd s': 'datum origin coordinates work system',
  'd w': 'activate system origin',
  'k n': 'draw profile outline',
  'k f': 'fillet radius',
  'k h': 'bevel',
  'k o': 'parallel',
  'k y': 'pattern array copies',
  'k m': 'reflect symmetric',
  'k j': 'reference edge take in',
  'k x': 'auxiliary helper line',
  'k q': 'exit finish leave',
  'k z': 'dimension fully constrain auto',
  'c d': 'length distance radius diameter angle size measure',
  'l f': 'zoom all whole',
  'l m': 'distance angle length area diameter radius dimension gauge',
  'l w': 'front top left right bottom back isometric view orientation',
  'l a': 'sensitivity influence derivative depends',
  'l o': 'stack chain worst case statistical rss iso 2768',
  'l v': 'goal seek solve target wish optimise',
  'r m': 'direct modelling push drag move face',
  'l y': 'variants sizes configurations table members series',
  'l k': 'robust range limits what breaks test stress sensitivity',
  'l r': 'visible invisible hidden list layers',
  'l g': 'transparent translucent glass',
  'l i': 'isolate alone solo',
  'l u': 'previous view last',
  'l x': 'next view',
  'l q': 'hidden lines wireframe shaded dashed',
  'l p': 'least wall thickness weight density inertia centre of gravity volume box material',
  'l l': 'holes table list bores drilling threads csv coordinates',
  'l n': 'square front view',
  'l s': 'cut open inside',
  'l h': 'visible invisible',
  'l 1': 'ambient occlusion shadow depth shaded',
};

/** All that can be found in a part now. parts : all parts, for going to one. */
export function findables(
  work: Workplace,
  save: (ending: string) => void,
  parts: { id: number; name: string }[],
): Findable[] {
  const { session } = work;
  const actions = work.actions.map((a: Action) => ({
    ...{ id: a.key, key: a.key, title: a.title, explains: a.explains, also: ALSO[a.key] ?? '' },
    run: () => work.run(a),
  }));
  const plain = (title: string, explains: string, also: string, run: () => void, key = '') => ({
    ...{ id: `menu:${title}`, key, title, explains, also },
    run: () => ((work.finding = false), run()),
  });
  const menus = [
    plain('Undo', 'Take the last change back.', 'back revert', () => work.undo(), 'ctrl z'),
    plain('Redo', 'Make it again.', 'again forward', () => void session.move('redo'), 'ctrl y'),
    plain('Keys', 'All keys of where you are.', 'shortcuts help', () => (work.keysShown = true), '?'),
    plain(
      'Handbook',
      'How Wendal works, task by task.',
      'help manual guide how tutorial documentation',
      () => (handbook.page = 'ideas'),
    ),
    plain('All parts', 'The list of parts.', 'open home library new part', () => (location.hash = '#parts')),
    plain(
      'Ledger',
      'All dimensions of the part.',
      'parameters variables tags table formulas',
      () => (work.ledgerOpen = true),
    ),
    plain(
      'Write files',
      'STEP, meshes, DXF, SVG: of the part, a face, a sketch, a section.',
      'export dxf svg zip',
      () => work.exchange.show(),
    ),
    ...work.about.formats
      .filter((f) => f.subjects.includes('part'))
      .map((f) =>
        plain(`Write ${f.title}`, 'A file of the part.', 'export save print exchange', () => save(f.ending)),
      ),
    ...(['mm', 'in'] as const).map((length) =>
      plain(
        `Units: ${length}`,
        'What lengths are shown in.',
        'inch metric millimetre',
        () =>
          void session.try({
            do: 'set_units',
            units: { length, angle: session.part?.units?.angle ?? 'deg' },
          }),
      ),
    ),
  ];
  const named = (id: string, title: string, explains: string, run: () => void) => ({
    ...{ id, key: '', title, explains, also: '' },
    run: () => ((work.finding = false), run()),
  });
  const steps = session.steps.map((s) =>
    named(
      `step:${s.id}`,
      s.name,
      `${s.kind.replace('_', ' ')}: edit it (rename, delete, suppress, reorder beside it)`,
      () => (s.kind === 'sketch' ? work.openBoard(s.id) : work.edit(s)),
    ),
  );
  const tags = session.ledger.map((r) =>
    named(`tag:${r.tag}`, r.tag, `dimension, ${r.shown}`, () => work.showTag(r.tag)),
  );
  const bodies = (session.scene?.bodies ?? []).map((b) =>
    named(`body:${b.id}`, b.name, 'body: fit it into the view (weight, colour, hide beside it)', () =>
      work.stage?.fit(),
    ),
  );
  const others = parts.map((p) =>
    named(`part:${p.id}`, p.name, 'part: open it', () => (location.hash = `#part/${p.id}`)),
  );
  return [...actions, ...menus, ...steps, ...tags, ...bodies, ...others];
}

/** Those that have all words that are typed, each as the beginning of one of theirs; the best first. */
export function found(all: Findable[], sought: string): Findable[] {
  const words = sought
    .toLowerCase()
    .split(/[\s,]+/)
    .filter(Boolean);
  if (!words.length) return all.filter((f) => f.key && !f.id.startsWith('menu:'));
  const begins = (text: string, word: string) =>
    text
      .toLowerCase()
      .split(/[^\p{L}\p{N}_]+/u)
      .some((w) => w.startsWith(word));
  const score = (f: Findable) => {
    let sum = f.key === sought.toLowerCase() ? 20 : 0;
    if (f.title.toLowerCase() === sought.toLowerCase().trim()) sum += 8;
    if (f.title.toLowerCase().startsWith(sought.toLowerCase())) sum += 4;
    const whole = sum > 0;
    for (const word of words) {
      const here = begins(f.title, word) ? 5 : begins(f.also, word) ? 3 : begins(f.explains, word) ? 1 : 0;
      if (!here && !whole) return 0;
      sum += here;
    }
    return sum;
  };
  return all
    .map((f, i) => ({ f, i, s: score(f) }))
    .filter((x) => x.s > 0)
    .sort((a, b) => b.s - a.s || a.i - b.i)
    .map((x) => x.f);
}
