/**
 * Whether the part can be trusted with a change: shakedowns, what moves what, aims, tolerances, families; and
 * other values tried on, seen on the stage without being kept.
 */
import { Refusal, type Command, type TriedOn } from '../api/types';
import type { Session } from './session.svelte';
import type { Thing } from '../stage/things';

export type Values = Record<string, string>;
export type MovesAt = '' | 'tolerances' | 'aim';
/**
 * Other values that are looked at, or a command. good : values that hold, where these do not. accept, back :
 * what is done from here, and where one goes back to, where that is not the part.
 */
export type Trying = {
  values: Values;
  title: string;
  good?: Values;
  command?: Command;
  accept?: { words: string; run: () => unknown };
  back?: { words: string; run: () => unknown };
  /** What is tried next, when what was tried does not come to what was meant. */
  next?: (told: TriedOn) => Trying | null;
};
const BEAT = 450; // ms for which each end of a motion is seen

export class Trust {
  open = $state<'' | 'shakedown' | 'moves' | 'family'>('');
  /** Under which heading of what moves what. */
  movesAt = $state<MovesAt>('');
  /** Limits that a shakedown judges by: least wall (mm), greatest mass (g), as typed. */
  limits = $state({ wall: '', mass: '' });
  trying = $state.raw<Trying | null>(null);
  tried = $state.raw<TriedOn | null>(null);
  waiting = $state(false);
  /** The dimension whose motion is played. */
  playing = $state('');
  /** Faces, edges and corners whose places are figures too. */
  watched = $state.raw<Thing[]>([]);
  private asked = 0;

  constructor(
    private session: Session,
    private on: { picked: Thing[]; stopMeasuring(): void },
  ) {}

  private show(what: 'shakedown' | 'moves' | 'family'): void {
    this.on.stopMeasuring();
    this.endPull();
    this.open = what;
  }

  close(): void {
    this.open = '';
    this.leave();
  }

  // — what is begun —

  private async begin(message: object): Promise<void> {
    try {
      await this.session.socket.ask(message as never);
    } catch (error) {
      this.session.refused(error);
    }
  }

  /** Show the shakedown: the last one that came to its end, else one is begun. */
  shake(): void {
    if (this.open === 'shakedown') return this.close();
    this.show('shakedown');
    if (!this.session.shaken) void this.beginShakedown(1, true);
  }

  async beginShakedown(seed = 1, kept = false): Promise<void> {
    const [wall, mass] = [this.limits.wall, this.limits.mass].map((text) => Number(text.replace(',', '.')));
    if (!(wall >= 0) || !(mass >= 0))
      return this.session.note(
        'A limit is a number: mm for walls, g for the mass. Leave it empty for none.',
        true,
      );
    await this.begin({ type: 'shake', tags: [], seed, sets: 64, wall, mass, kept });
  }

  /** Show what moves what, tolerances and aims; find it where there is nothing yet, or of what is picked. */
  showMoves(at: MovesAt = ''): void {
    const picked = this.on.picked.filter((t) => ['flat', 'face', 'edge', 'vertex'].includes(t.kind));
    const again = this.open === 'moves' && this.movesAt === at && !picked.length;
    this.movesAt = at;
    if (again) return this.close();
    this.show('moves');
    const known = picked.every((t) => this.watched.some((w) => w.key === t.key));
    if (picked.length && !known) this.watched = picked;
    if (!this.session.moved || (picked.length && !known)) void this.beginMoves();
  }

  get things(): unknown[] {
    return this.watched.map((t) => t.ref);
  }

  /** By what names their figures go: as on the stage, without the place where that is told too. */
  get called(): string[] {
    return this.watched.map((t) => t.words.replace(/, at X .*$/, '').slice(0, 200));
  }

  beginMoves(walls = false): Promise<void> {
    return this.begin({ type: 'moves', tags: [], things: this.things, called: this.called, walls });
  }

  aim(figure: string, wish: number, tags: string[]): Promise<void> {
    return this.begin({ type: 'aim', figure, wish, tags, things: this.things, called: this.called });
  }

  sample(figure: string, seed = 1): Promise<void> {
    return this.begin({ type: 'sample', figure, seed, things: this.things, called: this.called });
  }

  showFamily(): void {
    if (this.open === 'family') return this.close();
    this.show('family');
  }

  checkFamily(rows: string[] = []): Promise<void> {
    return this.begin({ type: 'family', rows });
  }

  cancel(): void {
    this.session.socket.say({ type: 'stop_trials' });
  }

  // — other values tried on —

  /** See the part with other values; only the latest answer counts. */
  async tryOn(trying: Trying): Promise<boolean> {
    const number = ++this.asked;
    this.trying = trying;
    this.waiting = true;
    try {
      const { values, command = null } = trying;
      const watched = this.pulled ? { things: this.things, called: this.called } : {};
      const told = await this.session.socket.ask({ type: 'try_on', values, command, ...watched } as never);
      if (number !== this.asked || told.type !== 'tried_on') return false;
      this.tried = told;
      return true;
    } catch (error) {
      if (number !== this.asked) return false;
      [this.trying, this.tried] = [null, null];
      if (error instanceof Refusal) this.session.note(error.message, true);
      else this.session.refused(error);
      return false;
    } finally {
      if (number === this.asked) this.waiting = false;
    }
  }

  /** Back to the part as it is. */
  leave(): void {
    this.asked++;
    this.playing = '';
    [this.trying, this.tried, this.waiting] = [null, null, false];
  }

  /** Take the values that are looked at, as one edit. */
  async take(why = ''): Promise<boolean> {
    const { trying } = this;
    if (!trying) return false;
    const done = await this.session.try({ do: 'set_formulas', values: trying.values, why } as never);
    if (done) {
      this.leave();
      this.session.noteUndo(`${trying.title} is taken.`);
    }
    return done;
  }

  // — a face pulled —

  /** A flat face is pulled, or asked for. */
  pulling = $state(false);
  pulled = $state.raw<Thing | null>(null);
  /** By which dimension, "" for the one that moves it most; and how far it is pulled, mm. */
  pullBy = $state('');
  shift = $state(0);
  private wanted: Trying | null = null;

  /** Pull the picked flat face, or ask for one; the dimension that moves it follows. */
  pull(): void {
    if (this.pulling) return this.endPull();
    this.close();
    this.on.stopMeasuring();
    this.pulling = true;
    this.takeUp(this.on.picked.find((t) => t.kind === 'flat') ?? null);
  }

  /** Take up a face; what moves it is found. */
  takeUp(face: Thing | null): void {
    if (face?.key === this.pulled?.key) return;
    this.leave();
    [this.pulled, this.pullBy, this.shift] = [face, '', 0];
    if (!face) return;
    this.watched = [face];
    void this.beginMoves();
  }

  endPull(): void {
    [this.pulling, this.pulled, this.shift, this.wanted] = [false, null, 0, null];
    this.leave();
  }

  /** See the part with what a pull comes to: one build at a time, the latest wish next. */
  async follow(trying: Trying): Promise<void> {
    const under = this.wanted !== null;
    this.wanted = trying;
    if (under) return;
    while (this.wanted) {
      const next: Trying = this.wanted;
      const built = await this.tryOn(next);
      if (this.wanted === next) this.wanted = (built && this.tried && next.next?.(this.tried)) || null;
    }
  }

  /** Play how the part moves with a dimension: to and fro, until it is left. */
  async play(tag: string, values: [string, string]): Promise<void> {
    this.playing = tag;
    for (let i = 0; this.playing === tag; i++) {
      const formula = values[i % 2];
      if (!(await this.tryOn({ values: { [tag]: formula }, title: `${tag} = ${formula}` }))) break;
      await new Promise((done) => setTimeout(done, BEAT));
    }
  }

  stopPlaying(): void {
    if (this.playing) this.leave();
  }
}
