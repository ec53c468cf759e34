/** The open part's workplace: selection, what is being edited, the stage, and every action with its words and keys. */
import { getContext, setContext } from 'svelte';
import type { About, Blank, Kind, Offer, PreviewShape, Step } from '../api/types';
import { Board } from '../sketch/board.svelte';
import type { Stage } from '../stage/stage';
import { standsFor, type Thing } from '../stage/things';
import { Editing } from './editing.svelte';
import { troubles } from './troubles';
import { Session } from './session.svelte';

/** The key of its own for the other answer: no browser takes it, no formula has it. */
export const OTHER = ';';

export type Action = {
  group: 'datum' | 'sketch' | 'constrain' | 'build' | 'look';
  key: string;
  title: string;
  explains: string;
  run: () => void;
  /** Why it can not be done now, or "". */
  barred?: () => string;
  /** For what stands in the rail of the drawing board: its group there, the tool that it takes in hand, and a short title where the own one is long. */
  rail?: 'Draw' | 'Change' | 'Take in' | 'Constrain';
  tool?: string;
  short?: string;
};

export class Workplace {
  readonly session: Session;
  stage = $state.raw<Stage | null>(null);
  editing = $state<Editing | null>(null);
  board = $state<Board | null>(null);
  picked = $state.raw<Thing[]>([]);
  hovered = $state.raw<Thing | null>(null);
  under = $state.raw<Thing[]>([]);
  /** Its key has chosen among the things under the pointer. */
  chosen = false;
  finding = $state(false);
  /** The words that an action is looked for by. */
  sought = $state('');
  drawer = $state<string>('');
  dimensions = $state(true);
  /** The part is shown cut at the plane of the open sketch. */
  sectioned = $state(false);
  /** The first stroke of a key pair, while the second is waited for. */
  stroke = $state('');
  ledgerOpen = $state(false);
  /** The sheet with the keys of where one is. */
  keysShown = $state(false);
  /** Base planes and axes are left out of the view. */
  bare = $state(false);
  /** Things to choose from, at a place of the stage: what lies under the pointer, or all that fits a blank. */
  listing = $state.raw<{ x: number; y: number; things: () => Thing[] } | null>(null);

  constructor(
    part: number,
    readonly about: About,
  ) {
    this.session = new Session(part);
    troubles.tell = (text) => this.session.note(text, true);
  }

  // — actions —

  get actions(): Action[] {
    const kinds = this.about.kinds.map((kind): Action => ({
      group: kind.group as Action['group'],
      key: kind.key,
      title: kind.kind === 'sketch' ? 'New sketch' : kind.title,
      explains: kind.explains,
      run: () => this.begin(kind),
    }));
    return [...kinds, ...this.drawing(), ...this.constraining(), ...this.looking()];
  }

  private needBoard = () => (this.board ? '' : 'Open a sketch first: make one, or click one on the route card.');

  private drawing(): Action[] {
    const tools = (rail: Action['rail']) => (key: string, title: string, name: string, explains: string, short?: string): Action => ({
      group: 'sketch', key, title, explains, barred: this.needBoard, run: () => this.board?.take(name), rail, tool: name, short,
    });
    const [draw, change, take] = [tools('Draw'), tools('Change'), tools('Take in')];
    return [
      draw('k l', 'Line', 'line', 'Straight lines, one after the other; ; for a tangent arc.'),
      draw('k r', 'Rectangle', 'rectangle', 'By two corners, by its middle, or aslant.'),
      draw('k c', 'Circle', 'circle', 'By centre, through three places, or touching three curves.'),
      draw('k a', 'Arc', 'arc', 'By start, end and a place between, or about its centre.'),
      draw('k e', 'Ellipse', 'ellipse', 'By its middle, the end of an axis, and a place on it.'),
      draw('k u', 'Curve (spline)', 'spline', 'Through points, or pulled by them; Enter ends it.', 'Curve'),
      draw('k s', 'Slot', 'slot', 'Straight or curved, and a place on its rim.'),
      draw('k g', 'Polygon', 'polygon', 'Regular, by its middle and a corner.'),
      draw('k p', 'Point', 'point', 'A point of its own.'),
      draw('k t', 'Text', 'text', 'Letters along a curve or a new base line, to build from.'),
      change('k i', 'Trim', 'trim', 'The nearest piece, a sweep, a corner, inside or outside two boundaries.'),
      change('k d', 'Extend', 'extend', 'Lengthen an end up to the next curve.'),
      change('k b', 'Break', 'split', 'Split a curve in two.'),
      change('k w', 'Add a spline point', 'spline point', 'One point more to pull at; the curve stays as it is.', 'Add point'),
      change('k f', 'Round a corner', 'round', 'Corners, two lines, or all in a box; the sharp corner stays as a point.', 'Round'),
      change('k h', 'Chamfer a corner', 'chamfer', 'By equal legs, two legs, or a leg and an angle.', 'Chamfer'),
      change('k o', 'Offset a chain', 'offset', 'Beside a chain, outside or inside; it follows.', 'Offset'),
      change('k m', 'Mirror', 'mirror', 'A linked half or a free copy.'),
      change('k y', 'Repeat in the sketch', 'repeat', 'Along a line or about a point; copies follow.', 'Repeat'),
      change('k v', 'Move, turn or scale', 'transform', 'Picked curves and points, or a copy of them.', 'Move'),
      { group: 'sketch', key: 'k x', title: 'Make construction / make real', explains: 'Construction lines bound no region.', barred: this.needBoard, run: () => void this.board?.toggleConstruction(), rail: 'Change', short: 'Construction' },
      take('k j', 'Project', 'project', 'Takes in edges, corners and faces of the model; they follow it.'),
      take('k k', 'Cut line', 'cut line', 'Takes in the line where a face or plane meets the sketch plane.'),
      { group: 'sketch', key: 'k q', title: 'Close sketch', explains: 'Back to the part; undo opens it again.', barred: this.needBoard, run: () => this.closeBoard() },
      { group: 'sketch', key: 'k z', title: 'Constrain the rest', explains: 'Proposes what would fully constrain the sketch, measured from what is picked.', barred: this.needBoard, run: () => void this.board?.binding.propose() },
    ];
  }

  private constraining(): Action[] {
    const seen = new Set<string>();
    const found: Action[] = [];
    for (const c of this.about.constraints) {
      if (!c.key || seen.has(c.key)) continue;
      seen.add(c.key);
      const dimension = c.quantity !== '';
      found.push({
        group: 'constrain', key: c.key, title: dimension ? 'Dimension' : c.title,
        explains: dimension ? 'Distance, diameter, radius or angle: the kind follows the picks.' : `Wants ${c.wants}.`,
        barred: this.needBoard, rail: 'Constrain', run: () => void (dimension ? this.board?.binding.dimension() : this.board?.binding.constrain(c.kind)),
      });
    }
    found.push({ group: 'constrain', key: 'c w', title: 'Show what still moves', explains: 'Plays every freedom that is left.', barred: this.needBoard, run: () => void this.board?.moving.playAll(), rail: 'Constrain', short: 'Freedoms' });
    found.push({ group: 'constrain', key: 'c x', title: 'Show conflicts', explains: 'What keeps the sketch from being solved, and ways out.', barred: this.needBoard, run: () => this.board?.showConflicts(), rail: 'Constrain', short: 'Conflicts' });
    return found;
  }

  private looking(): Action[] {
    return [
      { group: 'datum', key: 'd w', title: 'Work in this system', explains: 'Coordinates, read-out and files follow the picked coordinate system.', run: () => void this.workIn() },
      { group: 'look', key: 'l f', title: 'Fit', explains: 'Show the whole part.', run: () => this.stage?.fit() },
      { group: 'look', key: 'l n', title: 'Square to', explains: 'Look square at the picked face or plane, or the open sketch.', run: () => this.squareTo() },
      { group: 'look', key: 'l s', title: 'Section', explains: 'Cut the part open at the plane of the open sketch, and whole again.', barred: this.needBoard, run: () => (this.sectioned = !this.sectioned) },
      { group: 'look', key: 'l d', title: 'Dimensions on / off', explains: 'Show or hide dimensions and constraint symbols.', run: () => (this.dimensions = !this.dimensions) },
      { group: 'look', key: 'l b', title: 'Base planes', explains: 'Leave the base planes and axes out of the view, or show them again.', run: () => (this.bare = !this.bare) },
      { group: 'look', key: 'l h', title: 'Hide / show', explains: 'Hide the picked datum or sketch; show it again on the route card.', run: () => void this.hide() },
    ];
  }

  private async workIn(): Promise<void> {
    const step = this.picked.find((p) => p.facets.includes('system'));
    if (!step && this.picked.length) return this.session.note(`This is no coordinate system: ${this.picked[0].words}. Nothing was changed.`, true);
    if (!step && !this.session.part?.active_system) return this.session.note('Pick a coordinate system to work in.', true);
    await this.session.try({ do: 'set_active_system', step: step?.step ?? '' });
    this.picked = [];
  }

  // — what stands on what —

  /** The step whose footing is shown. */
  related = $state('');

  /** "under": the shown step stands on this one, straight or through others; "over": this one stands on it. */
  relation(step: string): 'under' | 'over' | '' {
    if (!this.related || this.related === step) return '';
    const footing = (of: string, seen = new Set<string>()): Set<string> => {
      for (const s of this.session.report(of)?.stands_on ?? []) if (!seen.has(s)) footing(s, seen.add(s));
      return seen;
    };
    if (footing(this.related).has(step)) return 'under';
    return footing(step).has(this.related) ? 'over' : '';
  }

  /** What the shown step stands on, on the stage. */
  get relatedThings(): Thing[] {
    if (!this.related || !this.stage) return [];
    const shown = [this.related, ...this.session.steps.map((s) => s.id).filter((s) => this.relation(s) === 'under')];
    return shown.flatMap((s) => this.stage!.planes.ofStep(s));
  }

  /** Show on the stage what a reference means. */
  pointAt(ref: Record<string, unknown> | null, old: Record<string, unknown> | null = null): void {
    this.stage?.markOld((old?.near as number[] | undefined) ?? null);
    this.hovered = ref ? (this.stage?.bodies.named((ref.of === 'spot' ? ref.edge : ref) as Record<string, unknown>) ?? null) : null;
  }

  private squareTo(): void {
    const sketch = this.board && this.session.scene?.sketches.find((s) => s.step === this.board?.step);
    const frame = sketch ? sketch.frame : this.frameOf(this.picked[0]);
    if (frame) this.stage?.squareTo(frame);
    else this.session.note('Pick a flat face, a plane or a sketch region to look square at.');
  }

  frameOf(thing: Thing | undefined) {
    const scene = this.session.scene;
    if (!thing || !scene) return null;
    if (thing.sort === 'base') return this.stage?.frameOf(thing) ?? null;
    if (thing.sort === 'datum' && thing.facets.includes('plane')) return scene.datums.find((d) => d.step === thing.step && d.index === thing.ref.index)?.frame ?? null;
    if (thing.sort === 'region') return scene.sketches.find((s) => s.step === thing.step)?.frame ?? null;
    return this.stage?.frameOf(thing) ?? null;
  }

  private async hide(): Promise<void> {
    if (this.picked.some((p) => p.sort === 'base')) {
      [this.bare, this.picked] = [true, []];
      return this.session.note('The base planes are hidden; l b shows them again.');
    }
    const step = this.picked.find((p) => p.step)?.step;
    const found = step && this.session.step(step);
    if (!found) return this.session.note('Pick a datum plane or a sketch region to hide.');
    await this.session.try({ do: 'edit_step', step: found.id, fields: { visible: !found.visible } });
    this.picked = [];
  }

  /** Look for an action by its words. */
  find(): void {
    if (!this.finding) this.sought = '';
    this.finding = true;
  }

  run(action: Action): void {
    const barred = action.barred?.() ?? '';
    [this.stroke, this.drawer, this.finding] = ['', '', false];
    if (barred) this.session.note(barred, true);
    else action.run();
  }

  // — steps —

  begin(kind: Kind, how = ''): void {
    if (this.board) this.closeBoard();
    this.stopEditing();
    const picks = this.picked;
    this.picked = [];
    this.ghost = null;
    this.editing = new Editing(this.session, kind, '', null, picks, this.facing, how);
  }

  private facing = (): number[] => this.stage?.view.towards().toArray() ?? [0, 0, 0];

  /** Edit a step; number : the one that was clicked, which is selected. */
  edit(step: Step, number = ''): void {
    this.stopEditing();
    if (this.board) this.closeBoard();
    const kind = this.about.kinds.find((k) => k.kind === step.kind);
    if (!kind) return;
    const index = this.session.steps.findIndex((s) => s.id === step.id);
    this.session.look(index ? this.session.steps[index - 1].id : '');
    this.picked = [];
    this.editing = new Editing(this.session, kind, step.id, step, [], this.facing, '', number);
  }

  /** What "Cancel" does: a step that is being built under "Accept" is given up and stays under edit, else the editing ends. */
  giveUp(): void {
    if (this.session.saving) this.session.socket.say({ type: 'cancel' });
    else this.stopEditing();
  }

  stopEditing(): void {
    this.editing?.close();
    this.editing = null;
    this.session.look(this.board ? this.board.step : null);
  }

  /** Keep the step under edit; again : begin another of the same, with its choices and empty picks. */
  async accept(again = false): Promise<void> {
    const editing = this.editing;
    if (!editing) return;
    const made = await editing.accept();
    if (made === null || this.editing !== editing) return;
    const fresh = !editing.step;
    this.stopEditing();
    if (fresh && editing.kind.makes === 'sketch') this.openBoard(made);
    else if (again) {
      this.begin(editing.kind, editing.how);
      this.editing?.like(editing);
    }
  }

  openBoard(step: string): void {
    this.stopEditing();
    this.picked = [];
    this.stage?.view.save();
    this.board = new Board(this, step);
    this.session.open(step);
    this.session.look(step);
  }

  /** The sketch that was closed last, and the edition then: undo opens it again as long as nothing else was done. */
  private closed: { step: string; edition: number } | null = null;

  /** Undo: a sketch that was just closed is opened again, else the last change is taken back. */
  undo(): void {
    const closed = this.closed;
    this.closed = null;
    if (!this.board && !this.editing && closed?.edition === this.session.edition && this.session.step(closed.step)) this.openBoard(closed.step);
    else void this.session.move('undo');
  }

  closeBoard(): void {
    if (this.board) this.closed = { step: this.board.step, edition: this.session.edition };
    this.board = null;
    this.stage?.view.restore();
    this.session.open('');
    this.session.look(null);
  }

  // — picking —

  /** What the pointer may take now: everything, or what the active blank accepts. */
  pickable(things: Thing[]): Thing[] {
    const editing = this.editing;
    if (!editing) return things;
    return things.filter((t) => standsFor(t, editing.accepts));
  }

  pick(thing: Thing | null, more: boolean): void {
    if (this.editing) {
      if (thing && !this.editing.pick(thing)) this.session.note(`This does not fit here: wanted is ${this.editing.missing[0] ?? 'something else'}.`, true);
      this.editing.ask();
      return;
    }
    this.ghost = null;
    if (!thing) this.picked = [];
    else if (this.picked.some((p) => p.key === thing.key)) this.picked = this.picked.filter((p) => p.key !== thing.key);
    else this.picked = more ? [...this.picked, thing] : [thing];
  }

  /** A box or lasso caught regions: the step under edit takes them, else they are picked. */
  catch(things: Thing[], more: boolean): void {
    if (this.editing) return this.editing.catch(things);
    const kept = more ? this.picked : [];
    this.ghost = null;
    this.picked = [...kept, ...things.filter((t) => !kept.some((p) => p.key === t.key))];
  }

  // — offers —

  /** Datums that could be made of the selection, as the server ranks them. */
  datumOffers = $state.raw<Offer[]>([]);
  /** What the hovered offer would make. */
  ghost = $state.raw<PreviewShape | null>(null);
  private offered = 0;

  /** Ask for the datums that the selection could make. */
  async askOffers(): Promise<void> {
    const number = ++this.offered;
    const picks = this.picked.map((p) => p.facets);
    if (!picks.length || picks.length > 3) {
      this.datumOffers = [];
      return;
    }
    const answer = await this.session.socket.ask({ type: 'offers', picks, sorts: ['plane', 'axis', 'point', 'system'] }).catch(() => null);
    if (number === this.offered) this.datumOffers = answer?.type === 'offers' ? answer.offers : [];
  }

  /** What could be made of the selection, likeliest first: steps that take all of it, then datums. */
  get offers(): (Action & { hover?: () => void })[] {
    if (!this.picked.length) return [];
    // A face stands for its body and its step, too, but it is not what one has in mind.
    const is = (p: Thing, b: Blank) => p.facets.some((f) => b.accepts?.includes(f));
    const fits = this.about.kinds.filter((kind) => {
      if (!('' in kind.variants)) return false;
      // Every pick finds a blank of its own, or one that takes many; the first goes where something is needed.
      const open = Object.values(kind.variants['']?.blanks ?? {}).filter((b) => !Object.keys(b.when).length && b.accepts);
      const needed = open.filter((b) => !b.optional);
      return (
        this.picked.some((p) => needed.some((b) => is(p, b))) &&
        this.picked.every((p) => {
          const blank = open.find((b) => is(p, b));
          if (blank && !blank.many) open.splice(open.indexOf(blank), 1);
          return blank !== undefined;
        })
      );
    });
    const keys = new Set(fits.map((k) => k.key));
    const flat = this.picked.length === 1 && this.frameOf(this.picked[0]);
    const system = this.picked.length === 1 && this.picked[0].facets.includes('system');
    const steps = this.actions.filter((a) => keys.has(a.key));
    const looks = this.actions.filter((a) => (flat && a.key === 'l n') || ((this.picked[0].step || this.picked[0].sort === 'base') && a.key === 'l h') || (system && a.key === 'd w'));
    const nouns: Record<string, string> = { plane: 'Plane', axis: 'Axis', point: 'Point', system: 'System' };
    const here = this.picked.length === 1 && this.picked[0].sort === 'flat' && this.picked[0].place ? this.spotOffers() : [];
    const datums = this.datumOffers.map((o) => {
      const kind = this.about.kinds.find((k) => k.kind === o.sort)!;
      return {
        group: 'datum' as const, key: kind.key, title: `${nouns[o.sort]} ${o.title[0].toLowerCase()}${o.title.slice(1)}`, explains: o.needs.length ? `Still needs ${o.needs.join(' and ')}` : '',
        run: () => this.begin(kind, o.how), hover: o.needs.length ? undefined : () => void this.haunt(kind, o),
      };
    });
    const whole = datums.filter((o) => o.hover);
    const drawn = this.picked[0].sort === 'region' || this.picked[0].sort === 'sketch';
    const rare = new Set(fits.filter((k) => k.rare).map((k) => k.key));
    const [first, later] = [steps.filter((a) => drawn || a.group !== 'build'), steps.filter((a) => !drawn && a.group === 'build')];
    const [often, seldom] = [later.filter((a) => !rare.has(a.key)), later.filter((a) => rare.has(a.key))];
    // What does not fit into the strip is behind "more offers".
    return [...first, ...whole.slice(0, 5), ...here, ...looks, ...often, ...datums.filter((o) => !o.hover), ...seldom, ...whole.slice(5)];
  }

  /** An axis or point at the picked place of a flat face, told by its distances from two edges. */
  private spotOffers(): Action[] {
    const face = this.picked[0];
    const edges = this.stage?.bodies.edgesOf(face) ?? [];
    if (edges.length < 2) return [];
    return [['axis', 'Axis square to the face, here'], ['point', 'Point on the face, here']].map(([sort, title]) => {
      const kind = this.about.kinds.find((k) => k.kind === sort)!;
      return {
        group: 'datum' as const, key: kind.key, title, explains: 'Kept by its distances from two edges of the face.',
        run: () => {
          this.begin(kind, 'spot');
          this.editing?.put({ first: face.ref, second: edges[0].ref, third: edges[1].ref, distance: { formula: edges[0].away, tag: '' }, distance_two: { formula: edges[1].away, tag: '' } });
        },
      };
    });
  }

  /** Show what an offer would make, before it is taken. */
  async haunt(kind: Kind, offer: Offer): Promise<void> {
    const number = ++this.offered;
    const variant = kind.variants[offer.how];
    const fields: Record<string, unknown> = { kind: kind.kind, how: offer.how };
    for (const [name, blank] of Object.entries(variant.blanks)) if (blank.sort === 'number') fields[name] = { formula: blank.start, tag: '' };
    if ('facing' in variant.blanks) fields.facing = this.facing();
    for (const [name, i] of Object.entries(offer.fills)) fields[name] = standsFor(this.picked[i], variant.blanks[name].accepts ?? []);
    const answer = await this.session.socket.ask({ type: 'preview', command: { do: 'add_step', step: fields, after: '' } } as never).catch(() => null);
    if (number === this.offered && answer?.type === 'preview' && !this.editing) this.ghost = answer.preview;
  }

  noGhost(): void {
    this.offered++;
    this.ghost = null;
  }

  /** What a line of the route card gives to the blank that waits, while that takes steps or sketches. */
  gives(step: Step, kind: Kind): Thing | null {
    const { editing } = this;
    if (!editing || editing.step === step.id) return null;
    const thing: Thing | null =
      kind.makes === 'body' && editing.accepts.includes('step')
        ? { sort: 'step', key: `step:${step.id}`, words: `step ${step.name}`, facets: ['step'], ref: { of: 'step', step: step.id }, step: step.id, depth: 0 }
        : kind.makes === 'sketch' && editing.accepts.includes('sketch')
          ? { sort: 'sketch', key: `sketch:${step.id}`, words: `all of ${step.name}`, facets: ['sketch'], ref: { of: 'sketch', step: step.id }, step: step.id, depth: 0 }
          : null;
    return thing;
  }

  /** All that fits the blank that waits, to be chosen from by keys. */
  listAll(): void {
    const { stage, editing } = this;
    if (stage && editing) this.listing = { x: Math.max(stage.view.width - 300, 10), y: 60, things: () => this.pickable([...this.given(), ...stage.all()]) };
  }

  /** Steps, sketches and bodies that the blank that waits would take. */
  private given(): Thing[] {
    const before = this.editing?.step ? this.session.steps.findIndex((s) => s.id === this.editing!.step) : Infinity;
    const steps = this.session.steps.filter((_, i) => i < before).map((s) => this.gives(s, this.about.kinds.find((k) => k.kind === s.kind)!));
    const bodies = (this.session.scene?.bodies ?? []).map((b): Thing => ({ sort: 'body', key: `body:${b.id}`, words: `body ${b.name}`, facets: ['body'], ref: { of: 'body', body: b.id }, depth: 0 }));
    return [...steps.filter((t) => t !== null), ...bodies];
  }

  /** The list is put away; typing goes where it belongs. */
  unlist(): void {
    this.listing = null;
    this.editing?.ask();
  }

  escape(): void {
    if (this.listing) this.unlist();
    else if (this.stroke || this.drawer || this.finding) [this.stroke, this.drawer, this.finding] = ['', '', false];
    else if (this.editing) this.giveUp();
    else if (this.board) {
      if (!this.board.stepBack()) this.session.note('Nothing to leave here. Close sketch (k q) goes back to the part.');
    } else this.picked = [];
  }
}

const KEY = Symbol('workplace');
export const provideWorkplace = (w: Workplace) => setContext(KEY, w);
export function useWorkplace(): Workplace {
  const found = getContext<Workplace | undefined>(KEY);
  if (!found) throw new Error('useWorkplace is called outside of an open part');
  return found;
}
