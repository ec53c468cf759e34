/** The drawing of the part: the open page as the server drew it, what is picked on it, and what is done to it. */
import { Refusal, type OnPage, type PageData, type PageDrawn } from '../api/types';
import type { Thing } from '../stage/things';
import type { Session } from '../state/session.svelte';

export type Flat = [number, number];
/** A line of a view that is picked: the view it was picked in, and what of the part it is. */
export type PickedLine = { view: string; thing: Thing };
export type Tool = '' | 'section' | 'detail' | 'note' | 'datum' | 'geometry' | 'texture';
type Tried = { kind: string; said: string };

interface Around {
  readonly session: Session;
  picked: Thing[];
  readonly stage: {
    readonly bodies: { at(body: string, kind: 'edge' | 'face', index: number): Thing | null };
  } | null;
}

export const KINDS: Record<string, string> = {
  ...{ across: 'across', up: 'up', straight: 'straight', angle: 'angle', radius: 'radius' },
  ...{ diameter: 'diameter', holes: 'hole note', chamfer: 'chamfer', width: 'width', height: 'height' },
  ...{ places_x: 'places across', places_y: 'places up', chain_x: 'chain across', chain_y: 'chain up' },
};
export const WAYS: Record<string, string> = {
  ...{ front: 'Front', back: 'Back', left: 'From the left', right: 'From the right' },
  ...{ top: 'From above', bottom: 'From below', corner: 'From the corner' },
  ...{ turned: 'As on the stage', section: 'Section', detail: 'Detail' },
};

export class Drawing {
  /** The page that is open, "" for none. */
  open = $state('');
  shown = $state.raw<PageDrawn | null>(null);
  trouble = $state('');
  busy = $state(false);
  /** Things on the page that are picked, by their ids. */
  chosen = $state.raw<string[]>([]);
  lines = $state.raw<PickedLine[]>([]);
  hovered = $state('');
  /** The line that is pointed at by keys, and which one of the ring it is. */
  pointed = $state.raw<{ view: string; key: string; words: string } | null>(null);
  private at = -1;
  tool = $state<Tool>('');
  /** Places that the tool in hand was given, mm of a view from the middle of the part; and which view. */
  given = $state.raw<Flat[]>([]);
  givenIn = $state('');
  /** What the picked lines can be as a dimension, and which of it is meant. */
  kinds = $state.raw<Tried[]>([]);
  why = $state('');
  turned = $state(0);
  /** The dimension whose number is typed, by its id. */
  typing = $state('');
  refused = $state('');
  clouds = $state(false);
  /** The issue that the page is compared with; "" for the last one. */
  since = $state('');
  adding = $state(false);
  /** Shows the whole page; set while one is shown. */
  fit: (() => void) | null = null;
  issuing = $state(false);
  /** What was asked last: the page and the edition, so that the same is not asked again. */
  private asked = '';
  private number = 0;
  private tried = 0;

  constructor(private on: Around) {}

  get pages(): PageData[] {
    return (this.on.session.part?.pages ?? []) as PageData[];
  }

  get page(): PageData | null {
    return this.pages.find((p) => p.id === this.open) ?? null;
  }

  item(id: string): OnPage | undefined {
    return this.shown?.items.find((i) => i.id === id);
  }

  get letters(): string[] {
    return (this.page?.views ?? []).map((v) => v.letter ?? '').filter(Boolean);
  }

  private get free(): string {
    return [...'ABCDEFGHJKLMNPQRSTUVWXYZ'].find((l) => !this.letters.includes(l)) ?? 'A';
  }

  // — asking —

  private async ask<T>(ask: Record<string, unknown>): Promise<T> {
    const told = await this.on.session.socket.ask({ type: 'ask', ask } as never);
    if (told.type !== 'answer') throw new Error('This was not answered.');
    return told.answer as T;
  }

  /** Have the open page drawn as the part stands now; the older picture stays until then. */
  async draw(): Promise<void> {
    const { session } = this.on;
    const key = `${this.open} ${session.shown} ${session.past} ${this.clouds} ${this.since}`;
    if (!this.open || key === this.asked) return;
    this.asked = key;
    const number = ++this.number;
    this.busy = true;
    try {
      const issued = this.page?.issues?.some((i) => i.name === this.since);
      const since = issued ? this.since : '';
      const wanted = { of: 'page', page: this.open, clouds: this.clouds, since };
      // What takes long comes as a draft first, then exact.
      let drawn = await this.ask<PageDrawn>({ ...wanted, drafts: true });
      if (number !== this.number) return;
      [this.shown, this.trouble] = [drawn, ''];
      if (!drawn.views.some((v) => v.draft)) return;
      drawn = await this.ask<PageDrawn>({ ...wanted, drafts: false });
      if (number === this.number) this.shown = drawn;
    } catch (error) {
      if (number !== this.number) return;
      if (error instanceof Refusal && error.code === 'superseded') this.asked = '';
      else [this.shown, this.trouble] = [null, error instanceof Error ? error.message : String(error)];
    } finally {
      if (number === this.number) this.busy = false;
    }
  }

  /** Draw again whatever was drawn, as after a lost line. */
  again(): void {
    this.asked = '';
    void this.draw();
  }

  show(page: string): void {
    this.drop();
    if (page !== this.open) this.shown = null;
    [this.open, this.asked, this.trouble] = [page, '', ''];
    void this.draw();
  }

  close(): void {
    this.drop();
    [this.open, this.shown] = ['', null];
  }

  /** Open the drawing, or put it away; a part without one gets its first page. */
  async toggle(): Promise<void> {
    if (this.open) this.close();
    else if (this.pages.length) this.show(this.pages[0].id);
    else await this.newPage();
  }

  // — by keys —

  /** The lines that can be picked, view by view, each thing once a view. */
  private get ring(): { view: string; body: string; edge: number; face: number }[] {
    const found = new Map<string, { view: string; body: string; edge: number; face: number }>();
    for (const item of this.shown?.items ?? [])
      for (const p of item.kind === 'view' ? item.paths : [])
        if (p.pen === 'outline' && ((p.edge ?? -1) >= 0 || (p.face ?? -1) >= 0))
          found.set(`${item.id} ${p.body} ${p.edge} ${p.face}`, {
            ...{ view: item.id, body: p.body ?? '', edge: p.edge ?? -1, face: p.face ?? -1 },
          });
    return [...found.values()];
  }

  /** Go on to the next line, or back; it is pointed at. */
  step(by: 1 | -1): void {
    const ring = this.ring;
    if (!ring.length) return;
    this.at = this.at < 0 ? (by > 0 ? 0 : ring.length - 1) : (this.at + by + ring.length) % ring.length;
    const held = ring[this.at];
    const kind = held.edge >= 0 ? 'edge' : 'face';
    const index = held.edge >= 0 ? held.edge : held.face;
    const thing = this.on.stage?.bodies.at(held.body, kind, index) ?? null;
    this.pointed = thing && { view: held.view, key: thing.key, words: thing.words };
  }

  /** Pick the line that is pointed at. */
  pickPointed(): void {
    const held = this.ring[this.at];
    if (held) this.pickLine(held.view, held.body, held.edge, held.face, this.lines.length > 1);
  }

  /** Move what is picked by so many mm. */
  async nudge(by: Flat): Promise<void> {
    const id = this.chosen.length === 1 ? this.chosen[0] : '';
    const view = this.shown?.views.find((v) => v.id === id);
    const item = this.item(id);
    if (view) await this.move(id, { at: [view.at[0] + by[0], view.at[1] + by[1]] });
    else if (item && /^[dm]\d/.test(id))
      await this.move(id, { put: [0, 1].map((i) => item.place[i] - item.base[i] + by[i]) });
  }

  /** Let go of the tool, of picks and of what is typed. */
  drop(): void {
    [this.tool, this.given, this.givenIn, this.typing, this.refused] = ['', [], '', '', ''];
    [this.chosen, this.lines, this.kinds, this.why, this.turned] = [[], [], [], '', 0];
    [this.adding, this.issuing] = [false, false];
    [this.pointed, this.at] = [null, -1];
  }

  /** Step back: what is typed, the tool, the pick; tells whether there was any. */
  escape(): boolean {
    if (this.typing) this.typing = '';
    else if (this.issuing || this.adding) [this.issuing, this.adding] = [false, false];
    else if (this.given.length) [this.given, this.givenIn] = [[], ''];
    else if (this.tool) this.tool = '';
    else if (this.lines.length || this.chosen.length) this.drop();
    else return false;
    return true;
  }

  // — changing —

  private async change(command: Record<string, unknown>): Promise<boolean> {
    const done = await this.on.session.try(command as never);
    if (done) await this.draw();
    return done;
  }

  put(what: Record<string, unknown>): Promise<boolean> {
    return this.change({ do: 'put_on_page', page: this.open, ...what });
  }

  edit(thing: string, fields: Record<string, unknown>, pinned: Record<string, Flat> = {}): Promise<boolean> {
    return this.change({ do: 'edit_on_page', page: this.open, thing, fields, pinned });
  }

  /** Put something where the hand let it go; from then on all views stay where they stand. */
  move(thing: string, fields: Record<string, unknown>): Promise<boolean> {
    const views = this.shown?.views ?? [];
    return this.edit(thing, fields, Object.fromEntries(views.map((v) => [v.id, v.at as Flat])));
  }

  editPage(fields: Record<string, unknown>): Promise<boolean> {
    return this.change({ do: 'edit_page', page: this.open, fields });
  }

  /** The next smaller scale of the series, for the whole page. */
  async smaller(): Promise<void> {
    const at = SCALES.indexOf(this.page?.scale ?? '1:1');
    await this.editPage({ scale: SCALES[Math.min(at + 1, SCALES.length - 1)] });
  }

  /** A page by itself: main views at the scale that fits, with the dimensions that are wanted first. */
  async newPage(): Promise<void> {
    const { session } = this.on;
    if (session.barred) return session.note(session.barred, true);
    this.busy = true;
    try {
      const like = this.page ?? this.pages.at(-1);
      const told = await this.ask<{ page: PageData }>({
        ...{ of: 'page_proposed', size: like?.size ?? 'A3', angle: like?.angle ?? 'first' },
        dimensions: true,
      });
      if (await session.try({ do: 'add_page', page: told.page } as never)) {
        const made = this.pages.at(-1);
        if (made) this.show(made.id);
      }
    } catch (error) {
      session.refused(error);
    } finally {
      this.busy = false;
    }
  }

  async removePage(): Promise<void> {
    const gone = this.open;
    if (!gone) return;
    const next = this.pages.find((p) => p.id !== gone);
    if (await this.on.session.try({ do: 'remove_page', page: gone } as never)) {
      if (next) this.show(next.id);
      else this.close();
    }
  }

  async addView(way: string, turn: number[] | null = null): Promise<void> {
    const main = this.page?.views?.find(
      (v) => !v.parent && ['front', 'top', 'left', 'right'].includes(v.way ?? ''),
    );
    const parent = ['corner', 'turned'].includes(way) ? '' : (main?.id ?? '');
    this.adding = false;
    await this.put({ views: [{ id: 'v1', way, parent, turn }] });
  }

  /** The dimensions that the page wants and does not have. */
  async dimensionAll(): Promise<void> {
    const { session } = this.on;
    try {
      const views = this.chosen.filter((c) => c.startsWith('v'));
      const told = await this.ask<{ dimensions: unknown[] }>({
        of: 'dimensions_proposed',
        page: this.open,
        views,
      });
      const held = new Set((this.page?.dimensions ?? []).map((d) => said(d)));
      const fresh = (told.dimensions as Record<string, unknown>[]).filter((d) => !held.has(said(d)));
      if (!fresh.length) session.note('All that is told first is on the page already.');
      else if (await this.put({ dimensions: fresh })) session.note(`${fresh.length} dimensions more.`);
    } catch (error) {
      session.refused(error);
    }
  }

  /** Take what is picked off the page. */
  async remove(): Promise<void> {
    const things = this.chosen.filter((c) => /^[vdm]\d/.test(c));
    if (!things.length)
      return this.on.session.note('Pick a view, a dimension or a mark on the page first.', true);
    if (await this.change({ do: 'take_off_page', page: this.open, things })) this.chosen = [];
  }

  // — picking —

  /** Pick a line of a view; a second one is measured to. */
  pickLine(view: string, body: string, edge: number, face: number, more: boolean): void {
    const kind = edge >= 0 ? 'edge' : 'face';
    const thing = this.on.stage?.bodies.at(body, kind, edge >= 0 ? edge : face);
    if (!thing)
      return this.on.session.note('This line is where the section cuts; it is no edge of the part.', true);
    const held = more || this.lines.length === 1 ? this.lines.filter((l) => l.view === view) : [];
    this.lines = held.some((l) => l.thing.key === thing.key)
      ? held.filter((l) => l.thing.key !== thing.key)
      : [...held, { view, thing }];
    this.chosen = [];
    this.on.picked = this.lines.map((l) => l.thing);
    void this.tryDimension();
  }

  pickItem(id: string, more: boolean): void {
    this.lines = [];
    this.kinds = [];
    this.on.picked = [];
    this.chosen = more
      ? this.chosen.includes(id)
        ? this.chosen.filter((c) => c !== id)
        : [...this.chosen, id]
      : [id];
  }

  pickNothing(): void {
    [this.lines, this.chosen, this.kinds, this.why] = [[], [], [], ''];
    this.on.picked = [];
  }

  private async tryDimension(): Promise<void> {
    const number = ++this.tried;
    [this.kinds, this.why, this.turned] = [[], '', 0];
    if (!this.lines.length) return;
    try {
      const told = await this.ask<{ kinds: Tried[]; trouble: string }>({
        ...{ of: 'dimension_tried', page: this.open, view: this.lines[0].view },
        things: this.lines.map((l) => l.thing.ref),
      });
      if (number === this.tried) [this.kinds, this.why] = [told.kinds, told.trouble];
    } catch (error) {
      if (number === this.tried) this.why = error instanceof Error ? error.message : String(error);
    }
  }

  /** Put a dimension of what is picked on the page: the likeliest kind, or the one that is meant. */
  async dimension(kind = ''): Promise<void> {
    if (!this.lines.length)
      return this.on.session.note('Pick an edge in a view, or two, and press Enter.', true);
    const meant = kind || this.kinds[this.turned % Math.max(this.kinds.length, 1)]?.kind;
    if (!meant) return this.on.session.note(this.why || 'These are not measured to each other here.', true);
    const things = this.lines.map((l) => l.thing.ref);
    if (await this.put({ dimensions: [{ id: 'd1', view: this.lines[0].view, kind: meant, things }] }))
      this.pickNothing();
  }

  other(): boolean {
    if (this.kinds.length < 2) return false;
    this.turned = (this.turned + 1) % this.kinds.length;
    return true;
  }

  // — tools —

  take(tool: Tool): void {
    if (!this.open) return;
    [this.tool, this.given, this.givenIn] = [tool, [], ''];
    if ((tool === 'datum' || tool === 'geometry' || tool === 'texture') && this.lines.length)
      void this.mark();
  }

  /** A place in a view was clicked with a tool in hand. */
  async give(view: string, at: Flat, snap: boolean): Promise<void> {
    if (this.tool === 'section' && (!this.givenIn || this.givenIn === view)) {
      const last = this.given.at(-1);
      const straight: Flat = last && snap ? squared(last, at) : at;
      [this.given, this.givenIn] = [[...this.given, straight], view];
    } else if (this.tool === 'detail') {
      if (!this.given.length) [this.given, this.givenIn] = [[at], view];
      else await this.endTool(at);
    }
  }

  /** The tool has all it needs: a section's line, a detail's circle. */
  async endTool(at: Flat | null = null): Promise<void> {
    const { tool, given, givenIn } = this;
    if (tool === 'section') {
      if (given.length < 2)
        return this.on.session.note('Click a second place: the line at which it is cut.', true);
      const view = {
        id: 'v1',
        way: 'section',
        parent: givenIn,
        line: given,
        letter: this.free,
        hidden: false,
      };
      [this.tool, this.given, this.givenIn] = ['', [], ''];
      await this.put({ views: [view] });
    } else if (tool === 'detail' && given.length && at) {
      const around = Math.hypot(at[0] - given[0][0], at[1] - given[0][1]);
      const held = this.page?.views?.find((v) => v.id === givenIn);
      const scale = larger(held?.scale || this.page?.scale || '1:1');
      [this.tool, this.given, this.givenIn] = ['', [], ''];
      if (around > 0)
        await this.put({
          views: [
            { id: 'v1', way: 'detail', parent: givenIn, middle: given[0], around, letter: this.free, scale },
          ],
        });
    }
  }

  /** A mark at what is picked. */
  async mark(): Promise<void> {
    const line = this.lines[0];
    const tool = this.tool;
    if (!line) return;
    const used = (this.page?.marks ?? []).flatMap((m) => (m.kind === 'datum' ? (m.letters ?? []) : []));
    const letter = [...'ABCDEFGHJKLMN'].find((l) => !used.includes(l)) ?? 'A';
    const common = { id: 'm1', view: line.view, thing: line.thing.ref, put: [12, 14] };
    const made = {
      datum: { ...common, kind: 'datum', letters: [letter] },
      geometry: { ...common, kind: 'geometry', sign: 'position', value: '0.1', letters: used.slice(0, 1) },
      texture: { ...common, kind: 'texture', words: 'Ra 3.2', put: [0, 0] },
    }[tool as 'datum' | 'geometry' | 'texture'];
    this.tool = '';
    if (made && (await this.put({ marks: [made] }))) {
      this.pickNothing();
      this.chosen = [this.page?.marks?.at(-1)?.id ?? ''].filter(Boolean);
    }
  }

  /** A note or a table on the page itself. */
  async note(kind: 'note' | 'holes' | 'tolerances'): Promise<void> {
    const high = this.shown?.paper[1] ?? 297;
    const put = kind === 'note' ? [26, 40] : [26, high - 20];
    const words = kind === 'note' ? 'Break all edges' : '';
    if (await this.put({ marks: [{ id: 'm1', kind, put, words }] }))
      this.chosen = [this.page?.marks?.at(-1)?.id ?? ''].filter(Boolean);
  }

  // — figures —

  /** Type the number that a dimension tells; one that tells none says so. */
  type(id: string): void {
    const item = this.item(id);
    if (!item?.drives) {
      this.pickItem(id, false);
      return this.on.session.note(
        'This is measured. It tells no one number of the part, so it is not typed.',
      );
    }
    [this.typing, this.refused, this.chosen] = [id, '', [id]];
  }

  formula(id: string): string {
    const tag = this.item(id)?.drives;
    return this.on.session.ledger.find((r) => r.tag === tag)?.formula ?? '';
  }

  async typed(text: string): Promise<void> {
    const tag = this.item(this.typing)?.drives;
    if (!tag) return;
    try {
      await this.on.session.command({ do: 'set_formula', tag, formula: text } as never);
      this.typing = '';
    } catch (error) {
      this.refused = error instanceof Error ? error.message : String(error);
    }
  }

  /** Give the page out: its figures now are kept under a name. */
  async issue(name: string, by: string, what: string): Promise<void> {
    const figures = Object.fromEntries(
      (this.shown?.items ?? []).filter((i) => i.told).map((i) => [i.id, i.told]),
    );
    const date = new Date().toISOString().slice(0, 10);
    const issue = { name, by, what, date, figures };
    if (await this.change({ do: 'issue_page', page: this.open, issue })) {
      this.issuing = false;
      const { session } = this.on;
      const page = this.page?.name ?? 'page';
      session.note(`${page} is given out as ${name}. What changes from here on is listed.`);
    }
  }
}

/** By what two dimensions say the same. */
const said = (d: Record<string, unknown>) =>
  JSON.stringify([
    d.view,
    d.kind,
    d.step,
    d.place,
    JSON.stringify(d.things).replace(/"near":\[[^\]]*\],?/g, ''),
  ]);

/** A place straight across from or above another one, whichever is nearer. */
export function squared(from: Flat, at: Flat): Flat {
  const [dx, dy] = [Math.abs(at[0] - from[0]), Math.abs(at[1] - from[1])];
  return dx > dy ? [at[0], from[1]] : [from[0], at[1]];
}

const SCALES = '50:1 20:1 10:1 5:1 2:1 1:1 1:2 1:5 1:10 1:20 1:50 1:100 1:200 1:500'.split(' ');
export { SCALES };
/** The next larger scale of the series. */
const larger = (scale: string) => SCALES[Math.max(SCALES.indexOf(scale) - 1, 0)];
