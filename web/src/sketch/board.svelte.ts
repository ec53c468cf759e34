/** The drawing board: the tool in hand, what is picked, and edits sent to the pen. */
import { FromFile } from './fromFile.svelte';
import { Refusal, type Drawing, type Flat, type SketchView } from '../api/types';
import type { Thing } from '../stage/things';
import { Binding } from './binding.svelte';
import { Chain } from './chain';
import { copied, type Copied } from './clipboard';
import type { Desk } from './desk';
import { Cutting } from './cutting';
import { Form } from './form.svelte';
import { FORMS } from './forms';
import {
  AXES,
  ORIGIN,
  catchPlace,
  chainOf,
  distance,
  inside,
  place,
  roundStep,
  straighten,
  touching,
  under,
  within,
  type Snap,
} from './geometry';
import { inMm } from './lengths';
import { Moving } from './moving.svelte';
import { CornerPull } from './rounding';
import type { Hand, Picks } from './surface';
import { CUTS, SHAPES, isCut, isShape, type Manner } from './tools';
import { Trial, type Edit } from './trial.svelte';

/** Whether two references mean the same thing, wherever it was picked. */
function likeRef(a: Record<string, unknown>, b: Record<string, unknown>): boolean {
  const told = (r: Record<string, unknown>): string =>
    JSON.stringify([
      r.of,
      r.body,
      r.names,
      r.faces,
      r.step,
      r.entity,
      r.index,
      r.name,
      r.at,
      r.edge && told(r.edge as Record<string, unknown>),
    ]);
  return told(a) === told(b);
}

const REACH = 8; // px
/** What of the model a place is caught on: points before curves. */
const CORNERS = ['vertex', 'dot', 'spot'];
const EDGES = ['edge', 'curve'];
const ROUND = 4.5; // px: the least a round step takes on the screen

const DOUBLE = 350; // ms within which a second click belongs to the first

export class Board implements Hand, Picks {
  /** A shape, a cutting tool, a tool that is filled in, or "" for picking. */
  tool = $state('');
  /** Which of the tool's manners. */
  manner = $state(0);
  form = $state<Form | null>(null);
  /** Places given so far to the shape or cut in hand. */
  given = $state.raw<Snap[]>([]);
  /** Counts the tools taken in hand, so that a late answer does not touch the next one. */
  hand = 0;
  pointer = $state.raw<Snap | null>(null);
  suggested = $state<'horizontal' | 'vertical' | 'tangent' | ''>('');
  /** The curve that a circle in hand would touch. */
  touched = '';
  quiet = $state(false);
  construction = $state(false);
  picked = $state.raw<string[]>([]);
  /** Where things were picked. */
  private pickedAt: Record<string, Flat> = {};
  hovered = $state('');
  /** What a freedom that is pointed at in the panel would move. */
  lit = $state.raw<string[]>([]);
  /**
   * The thing of the model under the pointer that could be taken in, and those that are picked, by the ids
   * they have among the picks.
   */
  model = $state.raw<Thing | null>(null);
  private models = $state.raw<Record<string, Thing>>({});
  /** The dimension whose figure is being typed. */
  typing = $state('');
  typed = $state<Record<string, string>>({});
  refusedMeasure = $state('');
  asked = $state.raw<{ kind: string; title: string; wants: string } | null>(null);
  trouble = $state('');
  refusal: unknown = null;
  /** The character of a formula at which it was refused. */
  fault = $state<number | null>(null);
  /** A dimension whose figure is being dragged, and where it stands meanwhile. */
  placing = $state.raw<{ id: string; at: Flat } | null>(null);
  /** A box, lasso or sweep that is being drawn (mm). */
  stretch = $state.raw<Flat[]>([]);
  /** The pointer's place (mm), null outside. */
  at: Flat | null = null;
  /** Where the pointer is, and what it is over or to be given. */
  readout = $state.raw<[string, string]>(['', '']);
  readonly pull = new CornerPull(this);
  readonly moving = new Moving(this, (constraint, formula) => this.binding.setValue(constraint, formula));
  readonly binding = new Binding(this);
  readonly cutting = new Cutting(this);
  readonly chain = new Chain(this);
  readonly fromFile = new FromFile(this);
  readonly trial: Trial;

  constructor(
    readonly desk: Desk,
    readonly step: string,
  ) {
    this.trial = new Trial(desk.session, step);
  }

  get view(): SketchView | null {
    const view = this.desk.session.sketch;
    return view?.step === this.step ? view : null;
  }

  /** The drawing as it is to be shown now. */
  get drawing(): Drawing {
    const drawing =
      this.view?.drawing ?? ({ points: {}, curves: {}, constraints: {}, last: 0 } as unknown as Drawing);
    const { moved } = this.moving;
    if (!moved) return drawing;
    const curves = Object.fromEntries(
      Object.entries(drawing.curves ?? {}).map(([id, c]) => [
        id,
        {
          ...c,
          ...('radius' in c && id in moved.radii && { radius: moved.radii[id] }),
          ...(id in moved.aways && { away: moved.aways[id] }),
        },
      ]),
    );
    return { ...drawing, points: { ...drawing.points, ...moved.points }, curves } as Drawing;
  }

  private get scale(): number {
    return this.desk.stage?.view.scale ?? 4;
  }
  get reach(): number {
    return REACH / this.scale;
  }
  get step_mm(): number {
    const size = inMm(this.unit);
    return roundStep(ROUND / this.scale / size) * size;
  }
  get unit(): string {
    return this.desk.session.part?.units?.length ?? 'mm';
  }

  /** The shape in hand, in its manner. */
  get shape(): Manner | null {
    return isShape(this.tool) ? SHAPES[this.tool][this.manner] : null;
  }
  get manners(): string[] {
    if (isShape(this.tool)) return SHAPES[this.tool].map((m) => m.name);
    return isCut(this.tool) ? CUTS[this.tool].map((m) => m.name) : [];
  }
  get needs(): string[] {
    if (isCut(this.tool)) return CUTS[this.tool][this.manner].needs;
    return this.shape?.needs ?? [];
  }
  get wants(): string {
    if (this.taking)
      return this.taking === 'cut'
        ? 'a face or plane that crosses the sketch plane'
        : 'an edge, corner or face of the model';
    return this.form ? '' : (this.needs[Math.min(this.given.length, this.needs.length - 1)] ?? '');
  }
  get measures(): string[] {
    return this.given.length ? (this.shape?.measures ?? []) : [];
  }

  /** A tool that takes in the model: how it brings things into the plane. */
  get taking(): 'project' | 'cut' | '' {
    return this.tool === 'project' ? 'project' : this.tool === 'cut line' ? 'cut' : '';
  }
  get modelThings(): Thing[] {
    return this.picked.map((e) => this.models[e]).filter((t) => t !== undefined);
  }

  /** What of the model lies under the pointer, the likeliest first. */
  overModel(things: Thing[]): void {
    const wanted: Record<string, string[]> = {
      project: ['vertex', 'spot', 'edge', 'flat', 'face', 'datum', 'curve', 'dot'],
      cut: ['flat', 'face', 'datum', 'base', 'edge'],
      '': ['vertex', 'spot', 'edge'],
    };
    const free = this.taking || (!this.tool && !this.hovered);
    this.model =
      (free && things.find((t) => wanted[this.taking].includes(t.kind) && t.step !== this.step)) || null;
    this.desk.hovered = this.model;
  }

  /** Whether the place in hand is caught on something drawn. */
  get caughtDrawn(): boolean {
    return !!this.pointer && this.pointer.kind !== 'free' && !this.pointer.on.startsWith('model:');
  }

  /** What of the model a place in hand is caught on, and where that lies in the sketch. */
  private caughtModel: { id: string; thing: Thing; at: Flat; kind: Snap['kind'] } | null = null;

  /**
   * A shape in hand is caught on corners, points and edges of the model, where nothing drawn catches it. flat :
   * where a place of the model lies in the sketch (mm).
   */
  catchModel(things: Thing[], flat: (thing: Thing) => Flat | null, p: Flat): void {
    const found =
      this.shape && !this.quiet
        ? (things.find((t) => CORNERS.includes(t.kind) && t.step !== this.step) ??
          things.find((t) => EDGES.includes(t.kind) && t.step !== this.step))
        : undefined;
    const at = found && flat(found);
    this.caughtModel =
      found && at
        ? {
            id: `model:${found.key}`,
            thing: found,
            at,
            kind: CORNERS.includes(found.kind) ? 'point' : 'curve',
          }
        : null;
    this.hover(p);
    this.model = this.pointer?.on === this.caughtModel?.id && found ? found : null;
    this.desk.hovered = this.model;
  }

  take(tool: string): void {
    this.lay();
    [this.tool, this.manner] = [tool, 0];
    const picked = this.picked;
    const models = this.modelThings;
    if (this.taking && models.length && models.length === picked.length) {
      void this.takeIn(models, this.taking, this.pickedAt[picked[0]] ?? null, this.construction).then(
        (taken) => taken && (this.picked = taken),
      );
      this.tool = '';
      return;
    }
    if (FORMS[tool]) {
      this.form = new Form(
        tool,
        this.trial,
        (e) => this.kind(e),
        (e) => (this.kind(e) === 'point' ? place(this.drawing, e) : null),
        (e) => chainOf(this.drawing, e),
        this.desk.about.fonts,
      );
      this.form.begin(picked, this.pickedAt);
    }
    this.picked = [];
  }

  /** Lay the tool down. */
  lay(): void {
    this.hand++;
    [this.tool, this.manner, this.form, this.given, this.typed] = ['', 0, null, [], {}];
    [this.trouble, this.typing, this.stretch, this.pointer] = ['', '', [], null];
    this.asked = null;
    this.binding.refused = null;
    this.trial.show(null);
  }

  /**
   * Esc: first what is under way, then the tool, then the selection. Returns false when there was nothing to
   * step back from.
   */
  stepBack(): boolean {
    const had = this.trouble;
    this.trouble = '';
    if (this.fromFile.file) this.fromFile.close();
    else if (this.moving.held) this.moving.giveUp();
    else if (this.stretch.length) this.stretch = [];
    else if (this.binding.proposals) this.binding.proposals = null;
    else if (this.binding.refused) this.binding.refused = null;
    else if (this.typing) this.binding.leave();
    else if (this.given.length) [this.given, this.typed] = [[], {}];
    else if (this.form?.takeBack()) return true;
    else if (this.tool) this.lay();
    else if (this.asked) [this.asked, this.picked] = [null, []];
    else if (this.picked.length) this.picked = [];
    else return had !== '';
    return true;
  }

  /** What a picked thing is called. */
  called(entity: string): string {
    return (
      this.models[entity]?.words ??
      this.view?.names[entity] ??
      (AXES[entity] ? `${entity[0].toUpperCase()} axis` : entity)
    );
  }

  /** The other answer of what is in hand. */
  other(): boolean {
    if (this.form) this.form.other();
    else if (this.manners.length > 1) this.turnTo((this.manner + 1) % this.manners.length);
    else if (!this.tool && this.picked.length === 1 && this.othersOf(this.picked[0]).length)
      void this.retake(this.picked[0], this.othersOf(this.picked[0])[0]);
    else return false;
    return true;
  }

  turnTo(manner: number): void {
    const chained = this.tool === 'line' && this.given.length === 1;
    this.manner = manner;
    if (!chained) this.given = [];
    this.trial.show(null);
  }

  /** The pointer is over a place (mm). */
  hover(p: Flat): void {
    this.at = p;
    if (this.moving.held) return this.moving.to(p);
    if (!this.shape) {
      this.hovered = this.under(p)[0] ?? '';
      if (this.form?.tool.places) this.aim(p, this.form);
      if (isCut(this.tool)) this.trial.show(this.cutting.edit(p));
      return;
    }
    this.pointer =
      this.shape.shape === 'circle' && this.given.length === 1
        ? this.caughtRim(p, this.given[0].at)
        : this.caughtPlace(p, this.shape.shape === 'line' ? this.given[0] : undefined);
    const model = this.caughtModel;
    const near = model && distance(model.at, p) < 2 * this.reach;
    if (near && !this.quiet && this.pointer.kind === 'free') {
      this.models = { ...this.models, [model.id]: model.thing };
      this.pickedAt[model.id] = model.at;
      [this.pointer, this.suggested] = [{ at: model.at, on: model.id, kind: model.kind }, ''];
    }
  }

  /**
   * What a circle's rim is caught on: a point, else a curve that it would touch there, else what any place is
   * caught on.
   */
  private caughtRim(p: Flat, centre: Flat): Snap {
    const snap = this.caughtPlace(p);
    const touch = this.quiet || snap.kind === 'point' ? null : touching(this.drawing, centre, p, this.reach);
    if (!touch) return snap;
    [this.suggested, this.touched] = ['tangent', touch.on];
    return { at: touch.at, on: '', kind: 'curve' };
  }

  /** What a place is caught on; a line from a start is made level or upright. */
  private caughtPlace(p: Flat, start?: Snap): Snap {
    const snap = catchPlace(this.drawing, p, this.reach, this.step_mm, this.quiet);
    this.suggested = '';
    if (!start || this.quiet) return snap;
    const straight = straighten(start.at, snap.at);
    this.suggested = straight.kind;
    return snap.kind === 'free' ? { ...snap, at: straight.at } : snap;
  }

  /** A form that takes places: the one under the pointer, unless a curve there would be picked. */
  private aim(p: Flat, form: Form): void {
    this.suggested = '';
    this.pointer = form.givesPlace(this.hovered)
      ? this.caughtPlace(p, form.places.length === 1 ? form.places[0] : undefined)
      : null;
    if (this.pointer) form.aimAt(this.pointer, this.suggested);
  }

  /** What lies under a place, texts after all else. */
  private under(p: Flat): string[] {
    const on = (this.view?.texts ?? []).filter((t) => t.boxes.some((box) => within(box as Flat[], p)));
    return [...under(this.drawing, p, this.reach), ...on.map((t) => t.id)];
  }

  /** A double click: the words of a text are typed anew. */
  reopen(p: Flat): void {
    const [first] = this.under(p);
    if (!this.tool && this.drawing.texts?.[first]) this.typing = first;
  }

  /** A click at a place (mm); more keeps what is picked. */
  async click(p: Flat, more: boolean): Promise<void> {
    if (this.form) {
      const first = this.under(p)[0];
      if (this.form.givesPlace(first ?? '')) {
        this.hover(p);
        if (this.pointer) this.form.givePlace(this.pointer);
        this.suggested = '';
      } else if (first) this.trouble = this.form.pick(first, p);
      return;
    }
    if (isCut(this.tool)) return this.cutting.click(p);
    if (this.taking) {
      if (this.model) await this.takeIn([this.model], this.taking, p, this.construction);
      return;
    }
    if (!this.shape) return this.pick(p, more);
    this.hover(p);
    if (!this.pointer) return;
    const last = this.given.at(-1);
    if (
      this.shape.least &&
      last &&
      Math.hypot(last.at[0] - this.pointer.at[0], last.at[1] - this.pointer.at[1]) < this.reach / 2
    ) {
      await this.chain.end(); // a click on the last place again
      return;
    }
    this.given = [...this.given, this.pointer];
    if (!this.shape.least && this.given.length === this.needs.length) await this.chain.finish();
  }

  private pick(p: Flat, more: boolean): void {
    const [first] = this.under(p);
    this.binding.refused = null;
    more = more || this.asked !== null;
    if (!first && !this.model && this.asked?.kind === 'dimension' && this.picked.length)
      return void this.binding.dimension();
    if (first) this.pickThing(first, more, p);
    else if (this.model) {
      const id = `model:${this.model.key}`;
      this.models = { ...this.models, [id]: this.model };
      this.pickThing(id, more, p);
    } else this.picked = more ? this.picked : [];
    void this.binding.given();
  }

  /** Take things of the model into the sketch; returns what they became, or null when that was refused. */
  async takeIn(
    things: Thing[],
    manner: 'project' | 'cut',
    near: Flat | null,
    construction: boolean,
  ): Promise<string[] | null> {
    const before = new Set(Object.keys(this.drawing.taken ?? {}));
    const done = await this.edit({
      op: 'take_in',
      refs: things.map((t) => t.ref),
      manner,
      near,
      construction,
    });
    return done ? Object.keys(this.drawing.taken ?? {}).filter((e) => !before.has(e)) : null;
  }

  /** Picks with things of the model taken in, as construction; null when one of them can not be. */
  async resolved(picks: string[]): Promise<string[] | null> {
    const found: string[] = [];
    for (const e of picks) {
      const thing = this.models[e];
      const known =
        thing &&
        Object.entries(this.drawing.taken ?? {}).find(
          ([, t]) => t.manner === 'project' && likeRef(t.ref as never, thing.ref),
        );
      if (!thing) found.push(e);
      else if (known) found.push(known[0]);
      else {
        const taken = await this.takeIn([thing], 'project', this.pickedAt[e] ?? null, true);
        if (!taken?.length) return null;
        found.push(taken[0]);
      }
    }
    return found;
  }

  /** Pick all that is drawn. */
  selectAll(): void {
    if (this.form) this.form.catch(Object.keys(this.drawing.curves ?? {}));
    else if (!this.tool) this.picked = Object.keys(this.drawing.curves ?? {});
  }

  private clicked = { id: '', at: 0 };
  pickThing(id: string, more: boolean, p?: Flat): void {
    if (p) this.pickedAt[id] = p;
    // The second click of a double click unpicks nothing.
    const now = performance.now();
    const again = this.clicked.id === id && now - this.clicked.at < DOUBLE;
    this.clicked = { id, at: now };
    if (again && this.picked.includes(id)) return;
    if (this.picked.includes(id)) this.picked = this.picked.filter((e) => e !== id);
    else this.picked = more ? [...this.picked, id] : [id];
  }

  /** What can be taken hold of at a place. */
  holdable(p: Flat): string {
    const found = this.under(p).find((e) => e !== ORIGIN && !AXES[e]) ?? '';
    return this.drawing.texts?.[found]?.base ?? found; // a text is moved by its base line
  }

  /** A box (two places) or lasso was drawn: everything wholly in it is picked. */
  caught(shape: Flat[], more: boolean): void {
    const texts = (this.view?.texts ?? []).filter(
      (t) => t.boxes.length && t.boxes.every((box) => box.every((p) => within(shape, p as Flat))),
    );
    const found = [...inside(this.drawing, shape), ...texts.map((t) => t.id)];
    if (this.form) this.form.catch(found);
    else if (!this.tool) this.picked = more ? [...new Set([...this.picked, ...found])] : found;
  }

  /** What was taken in from the model and is not there any more. */
  get lostTakings() {
    return (
      this.desk.session
        .report(this.step)
        ?.references.filter((r) => r.field.startsWith('taken:') && r.state === 'lost') ?? []
    );
  }

  /** The other pieces that something taken in could be, such as the second line in which a plane cuts a face. */
  othersOf(entity: string) {
    const found = this.desk.session
      .report(this.step)
      ?.references.find((r) => r.field === `taken:${entity}` && r.state === 'sound');
    return found?.candidates ?? [];
  }

  /** What is taken in becomes another piece; what stands on it stays. */
  retake(entity: string, to: { ref: unknown; answer?: unknown }): Promise<boolean> {
    return this.edit({ op: 'retake', entity, ref: to.ref, answer: to.answer } as never);
  }

  /** Enter: carry out what is filled in. */
  async acceptForm(): Promise<void> {
    const { form } = this;
    const edit = form?.edit;
    if (!form) return;
    if (!edit) {
      this.trouble = `Still needs ${form.missing}.`;
      return;
    }
    // What it leaves undone, such as a corner that stays sharp, is told after it, too.
    const undone = form.name === 'round' || form.name === 'chamfer' ? await this.trial.notesOf(edit) : [];
    if (!(await this.edit(edit))) return;
    this.lay();
    if (undone.length) this.desk.session.note(undone.join(' '), true);
  }

  async edit(edit: Edit): Promise<boolean> {
    [this.trouble, this.fault, this.binding.foreseen, this.refusal] = ['', null, null, null];
    try {
      await this.desk.session.command({ do: 'edit_sketch', step: this.step, edit } as never);
      return true;
    } catch (error) {
      this.refusal = error;
      if (error instanceof Refusal) [this.trouble, this.fault] = [error.message, error.at];
      else this.desk.session.refused(error);
      return false;
    }
  }

  isModel(entity: string): boolean {
    return entity in this.models;
  }

  kind(entity: string): string {
    const model = this.models[entity];
    if (model) return ['line', 'circle', 'point'].find((f) => model.facets.includes(f)) ?? '';
    if (entity === ORIGIN || this.drawing.points?.[entity]) return 'point';
    if (this.drawing.texts?.[entity]) return 'text';
    return AXES[entity] ? 'line' : (this.drawing.curves?.[entity]?.kind ?? '');
  }

  async remove(): Promise<void> {
    const own = this.picked.filter((e) => e !== ORIGIN && !AXES[e] && !this.models[e]);
    const before = this.view?.constraints ?? [];
    if (!own.length || !(await this.edit({ op: 'remove', entities: own }))) return;
    this.picked = [];
    const left = new Set(this.view?.constraints.map((c) => c.id));
    const gone = before
      .filter((c) => c.dimension && !left.has(c.id) && !own.includes(c.id))
      .map((c) => (c.tag ? `${c.tag} ${c.shown}` : c.words));
    if (gone.length) this.desk.session.noteUndo(`${gone.join(', ')} went with it.`);
  }

  async toggleConstruction(): Promise<void> {
    const curves = this.picked.filter((e) => this.drawing.curves?.[e]);
    if (!curves.length) {
      this.construction = !this.construction;
      this.desk.session.note(
        this.construction ? 'New curves are construction lines now.' : 'New curves are real lines now.',
      );
      return;
    }
    const on = !curves.every((c) => this.drawing.curves![c].construction);
    await this.edit({ op: 'construction', curves, on });
  }

  /** The figure of a dimension was dropped. */
  async placed(): Promise<void> {
    const placing = this.placing;
    if (placing) await this.edit({ op: 'place_figure', constraint: placing.id, at: placing.at });
    this.placing = null;
  }

  /** Light up what fights, or say that nothing does. */
  showConflicts(): void {
    const fights = this.binding.fights;
    if (fights.length) this.picked = [...new Set(fights.flatMap((f) => f.of))];
    else this.desk.session.note('Nothing fights: every constraint is met.');
  }

  // — copy and paste —

  copy(): void {
    const what = copied.take(this.drawing, this.picked);
    this.desk.session.note(
      what
        ? `Copied ${what === 1 ? 'one curve or point' : `${what} curves and points`}.`
        : 'Pick what is to be copied.',
    );
  }

  async paste(at: Flat | null): Promise<void> {
    const what: Copied | null = copied.what;
    if (!what) return this.desk.session.note('Nothing was copied yet.', true);
    const move = at
      ? [at[0] - what.middle[0], at[1] - what.middle[1]]
      : [10 * this.step_mm, 10 * this.step_mm];
    await this.edit({ op: 'paste', what: what.drawing, move });
  }
}
