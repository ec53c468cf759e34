/** The open part's workplace: what is picked, what is being edited, the stage, and what happens to them. */
import { getContext, setContext, tick } from 'svelte';
import { Box3 } from 'three';
import type { About, FrameData, Kind, Step } from '../api/types';
import { Drawing } from '../pages/drawing.svelte';
import { Board } from '../sketch/board.svelte';
import type { Stage } from '../stage/stage';
import { standsFor, type Thing } from '../stage/things';
import type { Action } from './action';
import { actionsOf } from './actions';
import { look } from './deeds';
import { Exchange } from './exchange.svelte';
import { Editing } from './editing.svelte';
import { relation } from './footing';
import { bodyThing, sketchThing, stepThing } from './listed';
import { Measuring, measurable, type KeptRow } from './measuring.svelte';
import { Offers } from './offers.svelte';
import { troubles } from './troubles';
import { Session } from './session.svelte';
import { RouteWork } from './route.svelte';
import { Sights } from './sights.svelte';
import { Together } from './together.svelte';
import { Trust } from './trust.svelte';
import { Versions } from './versions.svelte';

export class Workplace {
  readonly session: Session;
  readonly versions: Versions;
  readonly together: Together;
  readonly trust: Trust;
  readonly exchange: Exchange;
  readonly route = new RouteWork(this);
  readonly drawing: Drawing;
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
  /**
   * Things to choose from, at a place of the stage: what lies under the pointer, or all that fits a blank.
   */
  listing = $state.raw<{ x: number; y: number; things: () => Thing[] } | null>(null);

  /** What is being measured. */
  measuring = $state.raw<Measuring | null>(null);
  /** How the part is looked at. */
  readonly sights = new Sights(this);
  /** Mass and size are shown. */
  weighing = $state(false);
  /** Whether the holes are listed. */
  scheduling = $state(false);
  /** The body whose mass and size were asked for, "" for the first. */
  weighed = $state('');

  readonly offers = new Offers(this);

  constructor(
    part: number,
    readonly about: About,
    past = 0,
  ) {
    this.session = new Session(part, past);
    this.versions = new Versions(this.session);
    this.together = new Together(this.session);
    this.trust = new Trust(this.session, this);
    this.drawing = new Drawing(this);
    this.exchange = new Exchange(this.session, about.formats, () => this.picked);
    troubles.tell = (text) => this.session.note(text, true);
  }

  // — actions —

  get actions(): Action[] {
    return actionsOf(this);
  }

  /** Write the drawing as a file: all pages as PDF, the open one else. */
  async writePages(ending: string): Promise<void> {
    await this.exchange.writePages(ending, this.drawing.open);
  }

  /** Print all pages: their PDF is opened beside this page. */
  async printPages(): Promise<void> {
    await this.exchange.print();
  }

  /** How the stage is turned, as a view of the drawing keeps it. */
  stageTurn(): number[] | null {
    return this.stage?.view.camera.quaternion.toArray() ?? null;
  }

  /** Measure what is picked, and what is picked next. */
  measure(things = this.picked): void {
    this.putAside();
    this.stopEditing();
    this.offers.noGhost();
    this.weighing = false;
    this.measuring = new Measuring(this.session, things);
    this.picked = [];
  }

  /** Show what a kept measure measures; anew : pick again what it is taken of. */
  showKept(row: KeptRow, anew = false): void {
    this.measure([]);
    const things = row.kept.things.map((ref, i): Thing => ({
      ...{ kind: 'face', key: `kept:${row.tag}:${i}`, words: row.kept.of[i] ?? 'what was measured' },
      ...{ facets: [], ref, depth: 0 },
    }));
    this.measuring = new Measuring(this.session, anew ? [] : things, anew ? row.tag : '', row.kept.key);
  }

  stopMeasuring(): void {
    this.measuring = null;
  }

  /** Show mass and size, of one body first where that is asked for; else put them away again. */
  weigh(body = ''): void {
    this.stopMeasuring();
    this.scheduling = false;
    this.weighing = body !== '' || !this.weighing;
    this.weighed = body;
  }

  /** List the holes, and put the list away again. */
  schedule(): void {
    this.stopMeasuring();
    this.weighing = false;
    this.scheduling = !this.scheduling;
  }

  /** Cut the part open at the picked planes or flat faces, and whole again; a sketch at its own plane. */
  cutOpen(): void {
    const { sights } = this;
    if (this.board) this.sectioned = !this.sectioned;
    else if (this.picked.length && this.picked.some((t) => this.frameOf(t))) {
      this.stopMeasuring();
      [this.weighing, this.scheduling] = [false, false];
      const cut = this.picked.map((t) => sights.cutAt(t));
      if (cut.includes(false))
        this.session.note('A part is cut at planes and flat faces, at three at most.', true);
      this.picked = [];
    } else if (sights.sections.length) sights.sections = [];
    else this.session.note('Pick a plane or a flat face to cut the part open at, then l s.', true);
  }

  /** The frames at which bodies are shown cut: what lies on the normals' side of all is taken away. */
  get cutsAt(): FrameData[] {
    if (!this.board) return this.sights.frames;
    const frame = this.session.scene?.sketches.find((s) => s.step === this.board?.step)?.frame;
    return this.sectioned && frame ? [frame] : [];
  }

  /** See through the picked bodies, or not any more. */
  async seeThrough(): Promise<void> {
    const ids = new Set(this.picked.flatMap((t) => (t.body ? [t.body] : [])));
    const all = this.session.scene?.bodies ?? [];
    const bodies = ids.size ? all.filter((b) => ids.has(b.id)) : all.length === 1 ? all : [];
    if (!bodies.length) return this.session.note('Pick a body, or a face of it, to see through it.', true);
    const through = !bodies[0].through;
    for (const body of bodies) await look(this.session, body, { through });
    this.picked = [];
  }

  /** Show only the picked bodies, or all of them again. */
  async onlyThis(): Promise<void> {
    const ids = new Set(this.picked.flatMap((t) => (t.body ? [t.body] : [])));
    const bodies = this.session.scene?.bodies ?? [];
    if (!ids.size && bodies.every((b) => b.visible))
      return this.session.note('Pick a body, or a face of it, to see it alone.', true);
    for (const body of bodies) {
      const visible = !ids.size || ids.has(body.id);
      if (body.visible !== visible) await look(this.session, body, { visible });
    }
    this.picked = [];
  }

  /** Show what is picked as large as it goes. */
  fitPicked(): void {
    const places = this.picked.flatMap((t) => this.stage?.extent(t) ?? []);
    if (!places.length || !this.stage) return this.session.note('Pick what is to be shown large.', true);
    const box = new Box3().setFromPoints(places);
    this.stage.view.fit(box.min, box.max);
  }

  async workIn(): Promise<void> {
    const step = this.picked.find((p) => p.facets.includes('system'));
    if (!step && this.picked.length)
      return this.session.note(
        `This is no coordinate system: ${this.picked[0].words}. Nothing was changed.`,
        true,
      );
    if (!step && !this.session.part?.active_system)
      return this.session.note('Pick a coordinate system to work in.', true);
    await this.session.try({ do: 'set_active_system', step: step?.step ?? '' });
    this.picked = [];
  }

  // — what stands on what —

  /** The step whose footing is shown. */
  related = $state('');

  relation(step: string): 'under' | 'over' | '' {
    return relation(this.session, this.related, step);
  }

  /** What the shown step stands on, on the stage. */
  get relatedThings(): Thing[] {
    if (!this.related || !this.stage) return [];
    const shown = [
      this.related,
      ...this.session.steps.map((s) => s.id).filter((s) => this.relation(s) === 'under'),
    ];
    return shown.flatMap((s) => this.stage!.planes.ofStep(s));
  }

  /** Show on the stage what a reference means. */
  pointAt(ref: Record<string, unknown> | null, old: Record<string, unknown> | null = null): void {
    this.stage?.markOld((old?.near as number[] | undefined) ?? null);
    this.hovered = ref
      ? (this.stage?.bodies.named((ref.of === 'spot' ? ref.edge : ref) as Record<string, unknown>) ?? null)
      : null;
  }

  squareTo(): void {
    const sketch = this.board && this.session.scene?.sketches.find((s) => s.step === this.board?.step);
    const frame = sketch ? sketch.frame : this.frameOf(this.picked[0]);
    if (frame) this.stage?.squareTo(frame);
    else this.session.note('Pick a flat face, a plane or a sketch region to look square at.');
  }

  frameOf(thing: Thing | undefined): FrameData | null {
    const scene = this.session.scene;
    if (!thing || !scene) return null;
    if (thing.kind === 'base') return this.stage?.frameOf(thing) ?? null;
    if (thing.kind === 'datum' && thing.facets.includes('plane'))
      return scene.datums.find((d) => d.step === thing.step && d.index === thing.ref.index)?.frame ?? null;
    if (thing.kind === 'region') return scene.sketches.find((s) => s.step === thing.step)?.frame ?? null;
    return this.stage?.frameOf(thing) ?? null;
  }

  async hide(): Promise<void> {
    if (this.picked.some((p) => p.kind === 'base')) {
      this.picked = [];
      if (!this.sights.without.includes('base')) await this.sights.toggle('base');
      return this.session.note('The base planes are hidden; l b shows them again.');
    }
    const bodies = new Set(this.picked.flatMap((t) => (t.body ? [t.body] : [])));
    if (bodies.size) {
      for (const body of this.session.scene?.bodies ?? [])
        if (bodies.has(body.id)) await look(this.session, body, { visible: false });
      this.picked = [];
      return this.session.note('Hidden; l i without a pick, or the list of l r, shows it again.');
    }
    const step = this.picked.find((p) => p.step)?.step;
    const found = step && this.session.step(step);
    if (!found) return this.session.note('Pick a datum plane or a sketch region to hide.');
    await this.session.try({ do: 'edit_step', step: found.id, fields: { visible: !found.visible } });
    this.picked = [];
  }

  /** Show a tag's line in the ledger. */
  showTag(tag: string): void {
    this.ledgerOpen = true;
    void tick().then(() => {
      const line = document.querySelector(`[data-tag="${CSS.escape(tag)}"]`);
      line?.scrollIntoView({ block: 'center' });
      line?.querySelectorAll('button')[1]?.focus();
    });
  }

  /** Look for an action by its words. */
  find(): void {
    if (!this.finding) this.sought = '';
    this.finding = true;
  }

  /** The action of which a number holds the key, where the letters begin no word of a formula. */
  keyIn(text: string): Action | null {
    if (!/^[dkcblrg][a-z;]$/.test(text)) return null;
    const { functions, units } = this.about.formula;
    const words = [...this.session.ledger.map((r) => r.tag), ...functions.map((f) => f.name), ...units];
    if (words.some((w) => w.startsWith(text))) return null;
    return this.actions.find((a) => a.key === `${text[0]} ${text[1]}`) ?? null;
  }

  /** What a step still lacks in this part, in words; it can be begun all the same. */
  lacks(action: Action): string {
    const kind = this.about.kinds.find((k) => k.kind === action.kind);
    if (!kind || kind.group !== 'build') return '';
    const bodies = this.session.scene?.bodies ?? [];
    if (kind.wants_file) return '';
    if (kind.shelf === 'Shape from a sketch' || kind.kind === 'fill')
      return this.session.steps.some((s) => s.kind === 'sketch') || bodies.length
        ? ''
        : 'Needs a sketch first.';
    return bodies.length ? '' : 'Needs a body first.';
  }

  run(action: Action): void {
    const barred = action.barred?.() ?? '';
    [this.stroke, this.drawer, this.finding] = ['', '', false];
    if (barred) return this.session.note(barred, true);
    // What is done on the stage is done where it is seen.
    if (!['drawing', 'route'].includes(action.group)) this.drawing.close();
    action.run();
  }

  // — steps —

  begin(kind: Kind, how = ''): void {
    if (this.session.barred) return this.session.note(this.session.barred, true);
    if (kind.wants_file) return this.exchange.choose();
    this.stopMeasuring();
    this.putAside();
    if (this.board) this.closeBoard();
    this.stopEditing();
    const marks = this.marks(kind);
    if (marks.length) this.route.marked = [];
    const picks = [...marks, ...this.picked];
    this.picked = [];
    this.offers.noGhost();
    this.editing = new Editing(this.session, kind, '', null, picks, this.facing, how);
    const last = picks.length ? null : this.lastSketch(kind);
    if (last) this.editing.presume(last);
  }

  /** For a step that wants regions and has no pick: the sketch at the end of the route that nothing stands on. */
  private lastSketch(kind: Kind): Thing | null {
    const last = this.session.steps.at(-1);
    const drawn = last?.drawing as { curves?: object } | undefined;
    const [first] = Object.values(kind.variants);
    const takes = Object.values(first.blanks).some(
      ({ accepts }) => accepts?.includes('region') && accepts.includes('sketch'),
    );
    if (!last || last.kind !== 'sketch' || last.suppressed || !takes || this.session.part?.stop_after)
      return null;
    if (!Object.keys(drawn?.curves ?? {}).length) return null;
    this.session.note(`All of ${last.name}, the last sketch, is taken; a pick takes its place.`);
    return sketchThing(last);
  }

  facing = (): number[] => this.stage?.view.towards().toArray() ?? [0, 0, 0];

  /** Fill blanks of the step under edit. */
  put(fields: Record<string, unknown>): void {
    this.editing?.put(fields);
  }

  /** Edit a step; number : the one that was clicked, which is selected. */
  edit(step: Step, number = ''): void {
    if (this.session.barred) return this.session.note(this.session.barred, true);
    this.stopMeasuring();
    if (this.editing?.step === step.id) {
      this.editing.naming = number === 'name';
      return void this.editing.ask(number);
    }
    this.putAside();
    this.stopEditing();
    if (this.board) this.closeBoard();
    const kind = this.about.kinds.find((k) => k.kind === step.kind);
    if (!kind) return;
    const index = this.session.steps.findIndex((s) => s.id === step.id);
    this.session.look(index ? this.session.steps[index - 1].id : '');
    this.picked = [];
    this.editing = new Editing(this.session, kind, step.id, step, [], this.facing, '', number);
  }

  /**
   * What "Cancel" does: a step that is being built under "Accept" is given up and stays under edit, else the
   * editing ends.
   */
  giveUp(): void {
    if (this.session.saving) this.session.socket.say({ type: 'cancel' });
    else this.stopEditing();
  }

  /** The body whose name is being typed. */
  naming = $state('');
  /** The face whose name is being typed. */
  namingFace = $state.raw<{ thing: Thing; name: string } | null>(null);

  /** A step in hand that was left for another one. */
  aside = $state.raw<Editing | null>(null);

  /** Another step is opened: one in hand in which something was picked or typed is put aside, not dropped. */
  putAside(): void {
    const { editing } = this;
    if (!editing?.touched) return;
    this.aside = editing;
    this.session.note(`${editing.title} is put aside.`, false, {
      words: 'Take it up again',
      run: () => this.takeUp(),
    });
  }

  /** Go on with the step that was put aside. */
  takeUp(): void {
    const { aside } = this;
    if (!aside) return;
    if (this.board) this.closeBoard();
    this.stopEditing();
    this.aside = null;
    const index = this.session.steps.findIndex((s) => s.id === aside.step);
    if (aside.step) this.session.look(index > 0 ? this.session.steps[index - 1].id : '');
    this.editing = aside;
    aside.refresh();
    aside.ask();
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
    if (this.session.barred) return this.session.note(this.session.barred, true);
    this.stopMeasuring();
    this.putAside();
    this.stopEditing();
    this.picked = [];
    this.stage?.view.save();
    this.board = new Board(this, step);
    this.session.open(step);
    this.session.look(step);
  }

  /** Undo: what was done last in the step in hand, else the last change of the part. */
  undo(): void {
    if (!this.editing?.undo()) void this.session.move('undo');
  }

  closeBoard(): void {
    const step = this.board && this.session.step(this.board.step);
    this.board = null;
    [this.hovered, this.under] = [null, []];
    // The sketch is at hand for the step that is built from it.
    const drawn = step?.drawing as { curves?: object } | undefined;
    if (step && Object.keys(drawn?.curves ?? {}).length) this.picked = [sketchThing(step)];
    this.stage?.restore(step?.id ?? '');
    this.session.open('');
    this.session.look(null);
  }

  // — picking —

  /** What the pointer may take now: everything, or what the active blank accepts. */
  pickable(things: Thing[]): Thing[] {
    const editing = this.editing;
    if (this.measuring) return things.filter(measurable);
    if (this.trust.pulling && !editing && !this.board) return things.filter((t) => t.kind === 'flat');
    if (!editing) return things;
    return things.filter((t) => standsFor(t, editing.accepts));
  }

  pick(thing: Thing | null, more: boolean): void {
    if (this.measuring) return this.measuring.pick(thing, more);
    if (this.editing) {
      if (thing && !this.editing.pick(thing))
        this.session.note(
          `This does not fit here: wanted is ${this.editing.missing[0] ?? 'something else'}.`,
          true,
        );
      this.editing.ask();
      return;
    }
    this.offers.noGhost();
    if (!thing) this.picked = [];
    else if (this.picked.some((p) => p.key === thing.key))
      this.picked = this.picked.filter((p) => p.key !== thing.key);
    else this.picked = more ? [...this.picked, thing] : [thing];
  }

  /** A box or lasso caught regions: the step under edit takes them, else they are picked. */
  catch(things: Thing[], more: boolean): void {
    if (this.editing) return this.editing.catch(things);
    const kept = more ? this.picked : [];
    this.offers.noGhost();
    this.picked = [...kept, ...things.filter((t) => !kept.some((p) => p.key === t.key))];
  }

  // — what a blank could take —

  /** What a line of the route card stands for: the step itself, its sketch, body or datum. */
  private standing(step: Step): Thing[] {
    const makes = this.about.kinds.find((k) => k.kind === step.kind)?.makes;
    if (makes === 'sketch') return [sketchThing(step)];
    if (makes === 'datum') return this.stage?.planes.all().filter((t) => t.step === step.id) ?? [];
    const body = this.session.scene?.bodies.find((b) => b.id === step.id);
    return [stepThing(step), ...(body ? [bodyThing(body)] : [])];
  }

  /** What a line of the route card gives to the blank that waits. */
  gives(step: Step): Thing | null {
    const { editing } = this;
    if (!editing || editing.step === step.id) return null;
    return this.standing(step).find((t) => standsFor(t, editing.accepts)) ?? null;
  }

  /** What the marked steps give to a new step of a kind. */
  private marks(kind: Kind): Thing[] {
    const takes = Object.values(kind.variants).flatMap((v) =>
      Object.values(v.blanks).flatMap((b) => b.accepts ?? []),
    );
    return this.route.meant.flatMap((id) => {
      const step = this.route.marked.includes(id) && this.session.step(id);
      return (step && this.standing(step).find((t) => standsFor(t, takes))) || [];
    });
  }

  /** All that fits the blank that waits, to be chosen from by keys. */
  listAll(): void {
    const { stage, editing } = this;
    if (stage && editing)
      this.listing = {
        x: Math.max(stage.view.width - 300, 10),
        y: 60,
        things: () => this.pickable([...this.given(), ...stage.all()]),
      };
  }

  /** What is picked, else what lies under the pointer, and what can be done with it. */
  listHere(): void {
    const { stage } = this;
    const things = this.picked.length ? this.picked : this.under;
    if (stage) this.listing = { x: Math.max(stage.view.width - 300, 10), y: 60, things: () => things };
  }

  /** Steps, sketches and bodies that the blank that waits would take. */
  private given(): Thing[] {
    const before = this.editing?.step
      ? this.session.steps.findIndex((s) => s.id === this.editing!.step)
      : Infinity;
    const steps = this.session.steps
      .filter((_, i) => i < before)
      .map((s) => this.gives(s))
      .filter((t) => t !== null && ['step', 'sketch'].includes(t.kind)); // the others are on the stage
    return [...(steps as Thing[]), ...(this.session.scene?.bodies ?? []).map(bodyThing)];
  }

  /** The list is put away; typing goes where it belongs. */
  unlist(): void {
    this.listing = null;
    this.editing?.ask();
  }

  escape(): void {
    if (this.listing) this.unlist();
    else if (this.stroke || this.drawer || this.finding)
      [this.stroke, this.drawer, this.finding] = ['', '', false];
    else if (this.drawing.open && this.drawing.escape()) return;
    else if (!this.board && !this.editing && !this.measuring && this.route.escape()) return;
    else if (this.measuring?.things.length) this.measuring.pick(null, false);
    else if (this.measuring) this.stopMeasuring();
    else if (this.editing) this.giveUp();
    else if (this.weighing) this.weighing = false;
    else if (this.scheduling) this.scheduling = false;
    else if (this.exchange.asking) this.exchange.asking = null;
    else if (this.exchange.open && !this.picked.length) this.exchange.open = false;
    else if (this.together.shown) this.together.close();
    else if (this.versions.comparing || this.versions.shown) this.versions.close();
    else if (this.trust.pulling) this.trust.endPull();
    else if (this.trust.trying) this.trust.leave();
    else if (this.trust.open) this.trust.close();
    else if (this.sights.boxing) this.sights.boxing = false;
    else if (this.sights.viewing || this.sights.listing)
      [this.sights.viewing, this.sights.listing] = [false, false];
    else if (this.sights.section && !this.board && !this.picked.length) this.sights.uncut();
    else if (this.board) {
      if (!this.board.stepBack())
        this.session.note('Nothing to leave here. Close sketch (k q) goes back to the part.');
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
