/** Measuring: what is picked for it, what is hovered, and what the server tells of them. */
import { Refusal, type KeptData, type LedgerRow, type Measured } from '../api/types';
import type { Thing } from '../stage/things';
import type { Session } from './session.svelte';

/** What can be measured on the stage. */
const KINDS = ['base', 'datum', 'flat', 'face', 'edge', 'vertex', 'spot', 'curve', 'dot', 'body', 'cut'];
export const measurable = (thing: Thing) => KINDS.includes(thing.kind);

type Figure = Measured['figures'][number];
/** A kept measure as a row of the ledger. */
export type KeptRow = LedgerRow & { kept: KeptData };
export const keptIn = (ledger: LedgerRow[]) => ledger.filter((r): r is KeptRow => !!r.kept);

export class Measuring {
  things = $state.raw<Thing[]>([]);
  answer = $state.raw<Measured | null>(null);
  trouble = $state('');
  /** Which meaning of the way between two things is shown. */
  turned = $state(0);
  /** What the answer is of: the picks, and what is hovered beside them. */
  of = $state.raw<Thing[]>([]);
  /** The greatest distance was asked for, which takes its time. */
  greatest = $state(false);
  /** The figure that is about to be kept, and the tag for it. */
  keeping = $state.raw<Figure | null>(null);
  tag = $state('');
  refused = $state('');
  private busy = false;
  private next: Thing[] | null = null;
  private wanted: Thing[] = [];

  constructor(
    private session: Session,
    picks: Thing[],
    /** The kept measure that is taken anew, by its tag, and the figure that is looked at first. */
    readonly anew = '',
    private first = '',
  ) {
    this.greatest = first.startsWith('greatest');
    this.things = picks.filter(measurable);
    this.ask(this.things);
  }

  get meaning() {
    const all = this.answer?.meanings ?? [];
    return all.length ? all[this.turned % all.length] : null;
  }

  /** A pick: a third one begins anew, unless it is to be added to the others. */
  pick(thing: Thing | null, more: boolean): void {
    if (!thing) this.things = [];
    else if (this.things.some((t) => t.key === thing.key))
      this.things = this.things.filter((t) => t.key !== thing.key);
    else this.things = more || this.things.length < 2 ? [...this.things, thing] : [thing];
    [this.turned, this.greatest] = [0, false];
    this.ask(this.things);
  }

  /** Ask for the greatest distance between the two picks, too, and turn to it. */
  askGreatest(): void {
    [this.greatest, this.first] = [true, 'greatest'];
    this.ask(this.things);
  }

  /** The pointer is over something: one pick is measured to it at once. */
  follow(thing: Thing | null): void {
    if (this.things.length > 1) return;
    const fresh = thing && measurable(thing) && !this.things.some((t) => t.key === thing.key);
    this.ask(fresh ? [...this.things, thing] : this.things);
  }

  /** The part has changed: the same is measured again. */
  again(): void {
    if (this.wanted.length) this.ask(this.wanted);
  }

  other(): boolean {
    const count = this.answer?.meanings.length ?? 0;
    if (count < 2) return false;
    this.turned = (this.turned + 1) % count;
    return true;
  }

  /** Ask; of several questions that come while one is under way, the last alone is asked. */
  private ask(things: Thing[]): void {
    this.wanted = this.next = things;
    if (!this.busy) void this.run();
  }

  private async run(): Promise<void> {
    this.busy = true;
    while (this.next) {
      const things: Thing[] = this.next;
      this.next = null;
      let [answer, trouble]: [Measured | null, string] = [null, ''];
      if (things.length) {
        try {
          const told = await this.session.socket.ask({
            type: 'ask',
            ask: { of: 'measure', things: things.map((t) => t.ref), greatest: this.greatest },
          } as never);
          if (told.type === 'answer' && told.answer.of === 'measure') answer = told.answer;
        } catch (error) {
          trouble = error instanceof Refusal ? error.message : String(error);
        }
      }
      [this.of, this.answer, this.trouble] = [things, answer, trouble];
      const wanted = (m: { key: string }) => this.first === m.key || this.first.startsWith(`${m.key}:`);
      if (answer && this.first) {
        this.turned = Math.max(answer.meanings.findIndex(wanted), 0);
        this.first = '';
      }
    }
    this.busy = false;
  }

  /** A figure is to be kept under a tag: that of the way, else the first one. */
  keep(figure: Figure | null = this.meaning ?? this.answer?.figures[0] ?? null): void {
    if (!figure) return;
    if (this.of.some((t) => t.kind === 'cut')) {
      this.session.note(
        'A cut is of the view alone, so this is not kept. Draw a sketch at its plane, take the edge in (k j), and measure that.',
        true,
      );
      return;
    }
    const taken = new Set(this.session.ledger.map((r) => r.tag));
    const word = figure.words.includes('distance') ? 'distance' : figure.words.split(' ')[0].toLowerCase();
    const base = /^[a-z]+$/.test(word) && !['from', 'square'].includes(word) ? word : 'distance';
    let tag = base;
    for (let n = 2; taken.has(tag); n++) tag = `${base}_${n}`;
    [this.keeping, this.tag, this.refused] = [figure, tag, ''];
  }

  /** Keep it; returns whether it was. */
  async kept(): Promise<boolean> {
    const { keeping, session } = this;
    const part = session.part;
    if (!keeping || !part) return false;
    const things = this.of.map((t) => t.ref);
    const after = part.stop_after || session.steps.at(-1)?.id || '';
    const measure = {
      ...{ tag: this.tag.trim(), things, key: keeping.key, unit: keeping.unit },
      ...{ after, system: part.active_system ?? '', worth: keeping.value },
    };
    try {
      await session.command({ do: 'keep_measure', measure } as never);
    } catch (error) {
      this.refused = error instanceof Refusal ? error.message : String(error);
      return false;
    }
    session.note(`${measure.tag} is kept: formulas of later steps can read it.`);
    this.keeping = null;
    return true;
  }

  /** What was picked now is what the kept measure is taken of. */
  async take(): Promise<boolean> {
    const done = await this.session.try({
      do: 'edit_kept',
      tag: this.anew,
      things: this.things.map((t) => t.ref),
      after: null,
    } as never);
    return done;
  }

  /** All figures as text, one a line. */
  get text(): string {
    const { meaning } = this;
    return [
      ...(meaning ? [`${meaning.words}\t${meaning.shown}`] : []),
      ...(meaning?.parts ?? []).map((p) => `${p.words}\t${p.shown}`),
      ...(this.answer?.figures ?? []).map((f) => `${f.words}\t${f.shown}`),
    ].join('\n');
  }
}
