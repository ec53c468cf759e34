/** An open part: its document and results as the server tells them, and the way to change it. */
import { Socket } from '../api/socket';
import { begin } from '../api/underway';
import { readJson } from '../stage/content';
import {
  Refusal,
  type Command,
  type LedgerRow,
  type Part,
  type Scene,
  type SceneSketch,
  type AimedAt,
  type FamilyTold,
  type SampledSets,
  type Shaken,
  type WhatMoves,
  type SketchDrawn,
  type SketchView,
  type Step,
  type StepState,
  type ToBrowser,
} from '../api/types';

/** way : what can be done about it, beside it. */
export type Note = { id: number; text: string; bad: boolean; way?: { words: string; run: () => void } };

export class Session {
  part = $state.raw<Part | null>(null);
  edition = $state(0);
  version = $state(0);
  undoes = $state('');
  redoes = $state('');
  reports = $state.raw<StepState[]>([]);
  ledger = $state.raw<LedgerRow[]>([]);
  scene = $state.raw<Scene | null>(null);
  /** The edition that reports, ledger and scene belong to. */
  shown = $state(0);
  sketch = $state.raw<SketchView | null>(null);
  building = $state('');
  /** What was being built was given up, and what is built is not shown yet. */
  cancelled = $state(false);
  linked = $state(false);
  gone = $state(false);
  /** How far a shakedown is, or what the last one came to. */
  shaken = $state.raw<Shaken | null>(null);
  /** How far it is known what moves what, and how far an aim is. */
  moved = $state.raw<WhatMoves | null>(null);
  aimed = $state.raw<AimedAt | null>(null);
  /** How far sets by chance are, and how the members of the family stand. */
  sampled = $state.raw<SampledSets | null>(null);
  family = $state.raw<FamilyTold | null>(null);
  /** What is wrong with the database, in words. */
  trouble = $state('');
  saving = $state(0);
  notes = $state<Note[]>([]);
  readonly socket: Socket;
  /** After which step the part is looked at; null: at its end. */
  private at = $state<string | null>(null);
  private board = '';
  /** The edition that the open sketch is shown at, and who waits for a later one. */
  private viewed = 0;
  private watching: { edition: number; resolve: () => void }[] = [];
  private lastNote = 0;
  private turn: Promise<unknown> = Promise.resolve();

  constructor(
    readonly id: number,
    /** The version that is looked at as it was; 0: the part as it stands. */
    readonly past = 0,
  ) {
    this.socket = new Socket(
      id,
      (m) => this.told(m),
      (up) => this.link(up),
      past,
    );
  }

  /** Why nothing can be changed here, or "". */
  get barred(): string {
    return this.past
      ? `This is v${this.past} as it was. Go back to it, or to the present, to change something.`
      : '';
  }

  private link(up: boolean): void {
    this.linked = up;
    if (!up) return this.view(this.sketch, Infinity);
    this.viewed = 0;
    if (this.at !== null) this.socket.say({ type: 'look', at: this.at });
    if (this.board) this.socket.say({ type: 'sketch', step: this.board });
  }

  private told(m: ToBrowser): void {
    if (m.type === 'part') {
      const system = this.step(this.part?.active_system ?? '')?.name;
      const steps = m.steps.map((d) => readJson<Part['steps'][number]>(this.socket.content, d));
      [this.part, this.edition, this.version] = [{ ...m.document, steps }, m.edition, m.version];
      if (system && !m.document.active_system)
        this.noteUndo(`Coordinates are given in the part's own system again, no more in ${system}.`);
      [this.undoes, this.redoes] = [m.undo, m.redo];
      this.cancelled = false;
    } else if (m.type === 'results') {
      const sketches = m.scene.sketches.map((s): SceneSketch => ({
        ...readJson<SketchDrawn>(this.socket.content, s.content),
        visible: s.visible,
        digest: s.content,
      }));
      [this.reports, this.ledger, this.scene, this.shown] = [
        m.reports,
        m.ledger,
        { ...m.scene, sketches },
        m.edition,
      ];
      [this.building, this.cancelled] = ['', false];
    } else if (m.type === 'building') this.building = m.name;
    else if (m.type === 'cancelled') [this.building, this.cancelled] = ['', true];
    else if (m.type === 'sketch') this.view(m.view, m.edition);
    else if (m.type === 'freedoms') {
      if (this.sketch?.step === m.step)
        this.sketch = { ...this.sketch, freedoms: m.freedoms, groups: m.groups };
    } else if (m.type === 'refused') {
      this.note(m.message, true);
      this.view(this.sketch, Infinity); // what was waited for may be what failed
      this.viewed = 0;
    } else if (m.type === 'store') this.trouble = m.trouble;
    else if (m.type === 'shaken') this.shaken = m;
    else if (m.type === 'moved') this.moved = m;
    else if (m.type === 'aimed') this.aimed = m;
    else if (m.type === 'sampled') this.sampled = m;
    else if (m.type === 'family') this.family = m;
    else if (m.type === 'gone') this.gone = true;
  }

  get steps(): Step[] {
    return (this.part?.steps ?? []) as Step[];
  }

  step(id: string): Step | undefined {
    return this.steps.find((s) => s.id === id);
  }

  report(id: string): StepState | undefined {
    return this.reports.find((r) => r.id === id);
  }

  /** Whether what is shown is not what the part comes to, or not at the place that is looked at. */
  get outdated(): boolean {
    return this.shown !== this.edition || this.scene?.at !== this.at;
  }

  /** After which step the part is looked at, "" for before all; null: at its end. */
  get lookedAt(): string | null {
    return this.at;
  }

  /** Whether the place that is looked at was asked for and is not shown yet. */
  get turning(): boolean {
    return this.linked && !!this.scene && this.scene.at !== this.at;
  }

  get busy(): boolean {
    return this.saving > 0 || this.outdated;
  }

  /** Edits go one after the other, each for the edition that the one before has made. */
  private inTurn<T>(edit: () => Promise<T>): Promise<T> {
    this.saving++;
    this.building = ''; // what a preview built is not what is built now
    const done = this.turn.then(edit).finally(() => {
      this.saving--;
      this.building = '';
    });
    this.turn = done.catch(() => undefined);
    return done;
  }

  /**
   * Change the part; returns the step concerned, when the open sketch shows the change. Throws the refusal.
   */
  async command(command: Command): Promise<string> {
    if (this.barred) throw new Refusal(this.barred);
    const end = begin();
    try {
      const answer = await this.inTurn(() =>
        this.socket.ask({ type: 'command', edition: this.edition, command }),
      );
      if (answer.type !== 'done') return '';
      await this.seen(answer.edition);
      return answer.step;
    } finally {
      end();
    }
  }

  /**
   * Wait until the open sketch is shown as it is at an edition; a sketch that is closed meanwhile, or fails,
   * is not waited for.
   */
  private seen(edition: number): Promise<void> {
    if (!this.board || this.viewed >= edition) return Promise.resolve();
    return new Promise((resolve) => this.watching.push({ edition, resolve }));
  }

  private view(view: SketchView | null, edition: number): void {
    this.sketch = view;
    this.viewed = edition;
    const waiting = this.watching;
    this.watching = waiting.filter((w) => w.edition > edition);
    for (const w of waiting) if (w.edition <= edition) w.resolve();
  }

  /** Change the part; a refusal becomes a note. Returns whether it was done. */
  async try(command: Command): Promise<boolean> {
    try {
      await this.command(command);
      return true;
    } catch (error) {
      this.refused(error);
      return false;
    }
  }

  async move(way: 'undo' | 'redo'): Promise<void> {
    try {
      await this.inTurn(() => this.socket.ask({ type: way, edition: this.edition }));
    } catch (error) {
      this.refused(error);
    }
  }

  /** See the part as it stands after a step; null: at the end. */
  look(at: string | null): void {
    if (this.at === at) return;
    this.at = at;
    this.socket.say({ type: 'look', at });
  }

  /** Put a sketch on the drawing board, or take it off with "". */
  open(step: string): void {
    this.board = step;
    this.view(null, Infinity);
    this.viewed = 0;
    this.socket.say({ type: 'sketch', step });
  }

  refused(error: unknown): void {
    if (error instanceof Refusal && error.code === 'superseded') return;
    this.note(error instanceof Error ? error.message : String(error), true);
  }

  /** Say what is under way, until what is returned is called. */
  underWay(text: string): () => void {
    const id = this.put(text, false);
    return () => this.dismiss(id);
  }

  private put(text: string, bad: boolean, way?: Note['way']): number {
    const id = ++this.lastNote;
    this.notes = [...this.notes.filter((n) => n.text !== text).slice(-2), { id, text, bad, way }];
    return id;
  }

  note(text: string, bad = false, way?: Note['way']): void {
    const id = this.put(text, bad, way);
    setTimeout(() => this.dismiss(id), bad || way ? 12000 : 5000);
  }

  /** Say what came with a change, with undo beside it. */
  noteUndo(text: string): void {
    const { edition } = this;
    const run = () =>
      this.edition === edition
        ? void this.move('undo')
        : this.note('Something else was changed since; Ctrl+Z goes back step by step.', true);
    this.note(text, false, { words: 'Undo', run });
  }

  dismiss(id: number): void {
    this.notes = this.notes.filter((n) => n.id !== id);
  }
}
