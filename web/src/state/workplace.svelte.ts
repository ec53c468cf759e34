/** The open part's workplace: selection, what is being edited, the stage, and every action with its words and keys. */
import { getContext, setContext } from 'svelte';
import type { About, Kind, Step } from '../api/types';
import { Board } from '../sketch/board.svelte';
import type { Stage } from '../stage/stage';
import { standsFor, type Thing } from '../stage/things';
import { Editing } from './editing.svelte';
import { Session } from './session.svelte';

export type Action = {
  group: 'datum' | 'sketch' | 'constrain' | 'build' | 'look';
  key: string;
  title: string;
  explains: string;
  run: () => void;
  /** Why it can not be done now, or "". */
  barred?: () => string;
};

export class Workplace {
  readonly session: Session;
  stage = $state.raw<Stage | null>(null);
  editing = $state<Editing | null>(null);
  board = $state<Board | null>(null);
  picked = $state.raw<Thing[]>([]);
  hovered = $state.raw<Thing | null>(null);
  under = $state.raw<Thing[]>([]);
  finding = $state(false);
  drawer = $state<string>('');
  dimensions = $state(true);
  /** The first stroke of a key pair, while the second is waited for. */
  stroke = $state('');
  ledgerOpen = $state(false);

  constructor(
    part: number,
    readonly about: About,
  ) {
    this.session = new Session(part);
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
    const tool = (key: string, title: string, name: Board['tool'], explains: string): Action => ({
      group: 'sketch', key, title, explains, barred: this.needBoard, run: () => this.board?.take(name),
    });
    return [
      tool('k l', 'Line', 'line', 'Straight lines, one after the other.'),
      tool('k r', 'Rectangle', 'rectangle', 'By two opposite corners.'),
      tool('k c', 'Circle', 'circle', 'By centre and a place on it.'),
      tool('k a', 'Arc', 'arc', 'By start, end and a place between.'),
      tool('k p', 'Point', 'point', 'A point of its own.'),
      { group: 'sketch', key: 'k x', title: 'Make construction / make real', explains: 'Construction lines bound no region.', barred: this.needBoard, run: () => void this.board?.toggleConstruction() },
    ];
  }

  private constraining(): Action[] {
    const seen = new Set<string>();
    const found: Action[] = [];
    for (const c of this.about.constraints) {
      if (seen.has(c.key)) continue;
      seen.add(c.key);
      const dimension = c.quantity !== '';
      found.push({
        group: 'constrain', key: c.key, title: dimension ? 'Dimension' : c.title,
        explains: dimension ? 'Distance, diameter, radius or angle: the kind follows the picks.' : `Wants ${c.takes.map((t) => t.join(' and ')).join(', or ').replaceAll('round', 'circle or arc')}.`,
        barred: this.needBoard, run: () => void (dimension ? this.board?.dimension() : this.board?.constrain(c.kind)),
      });
    }
    found.push({ group: 'constrain', key: 'c w', title: 'Show what still moves', explains: 'Plays every freedom that is left.', barred: this.needBoard, run: () => this.board?.playAll() });
    return found;
  }

  private looking(): Action[] {
    return [
      { group: 'look', key: 'l f', title: 'Fit', explains: 'Show the whole part.', run: () => this.stage?.fit() },
      { group: 'look', key: 'l n', title: 'Square to', explains: 'Look square at the picked face or plane, or the open sketch.', run: () => this.squareTo() },
      { group: 'look', key: 'l d', title: 'Dimensions on / off', explains: 'Show or hide dimensions and constraint symbols.', run: () => (this.dimensions = !this.dimensions) },
      { group: 'look', key: 'l h', title: 'Hide / show', explains: 'Hide the picked datum or sketch; show it again on the route card.', run: () => void this.hide() },
    ];
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
    if (thing.sort === 'datum') return scene.datums.find((d) => d.step === thing.step)?.frame ?? null;
    if (thing.sort === 'region') return scene.sketches.find((s) => s.step === thing.step)?.frame ?? null;
    return this.stage?.frameOf(thing) ?? null;
  }

  private async hide(): Promise<void> {
    const step = this.picked.find((p) => p.step)?.step;
    const found = step && this.session.step(step);
    if (!found) return this.session.note('Pick a datum plane or a sketch region to hide.');
    await this.session.try({ do: 'edit_step', step: found.id, fields: { visible: !found.visible } });
    this.picked = [];
  }

  run(action: Action): void {
    const barred = action.barred?.() ?? '';
    [this.stroke, this.drawer, this.finding] = ['', '', false];
    if (barred) this.session.note(barred, true);
    else action.run();
  }

  // — steps —

  begin(kind: Kind): void {
    if (this.board) this.closeBoard();
    this.stopEditing();
    const picks = this.picked;
    this.picked = [];
    this.editing = new Editing(this.session, kind, '', null, picks);
  }

  edit(step: Step): void {
    this.stopEditing();
    if (this.board) this.closeBoard();
    const kind = this.about.kinds.find((k) => k.kind === step.kind);
    if (!kind) return;
    const index = this.session.steps.findIndex((s) => s.id === step.id);
    this.session.look(index ? this.session.steps[index - 1].id : '');
    this.picked = [];
    this.editing = new Editing(this.session, kind, step.id, step, []);
  }

  stopEditing(): void {
    this.editing?.close();
    this.editing = null;
    this.session.look(this.board ? this.board.step : null);
  }

  async accept(): Promise<void> {
    const editing = this.editing;
    if (!editing) return;
    const made = await editing.accept();
    if (made === null || this.editing !== editing) return;
    const fresh = !editing.step;
    this.stopEditing();
    if (fresh && editing.kind.makes === 'sketch') this.openBoard(made);
  }

  openBoard(step: string): void {
    this.stopEditing();
    this.picked = [];
    this.board = new Board(this, step);
    this.session.open(step);
    this.session.look(step);
  }

  closeBoard(): void {
    this.board = null;
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
      if (thing) this.editing.pick(thing);
      return;
    }
    if (!thing) this.picked = [];
    else if (this.picked.some((p) => p.key === thing.key)) this.picked = this.picked.filter((p) => p.key !== thing.key);
    else this.picked = more ? [...this.picked, thing] : [thing];
  }

  /** What could be made of the selection. */
  get offers(): Action[] {
    if (!this.picked.length) return [];
    const fits = this.about.kinds.filter((kind) => {
      const accepts = Object.values(kind.blanks).flatMap((b) => (Object.keys(b.when).length ? [] : (b.accepts ?? [])));
      return this.picked.every((p) => standsFor(p, accepts));
    });
    const keys = new Set(fits.map((k) => k.key));
    const flat = this.picked.length === 1 && this.frameOf(this.picked[0]);
    return this.actions.filter((a) => keys.has(a.key) || (flat && a.key === 'l n') || (this.picked[0].step && a.key === 'l h'));
  }

  escape(): void {
    if (this.stroke || this.drawer || this.finding) [this.stroke, this.drawer, this.finding] = ['', '', false];
    else if (this.editing) this.stopEditing();
    else if (this.board) {
      if (!this.board.stepBack()) this.closeBoard();
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
