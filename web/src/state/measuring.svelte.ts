/** Measuring: what is picked for it, what is hovered, and what the server tells of them. */
import { Refusal, type Measured } from '../api/types';
import type { Thing } from '../stage/things';
import type { Session } from './session.svelte';

/** What can be measured on the stage. */
const SORTS = ['base', 'datum', 'flat', 'face', 'edge', 'vertex', 'spot', 'curve', 'dot', 'body'];
export const measurable = (thing: Thing) => SORTS.includes(thing.sort);

export class Measuring {
  things = $state.raw<Thing[]>([]);
  answer = $state.raw<Measured | null>(null);
  trouble = $state('');
  /** Which meaning of the way between two things is shown. */
  turned = $state(0);
  /** What the answer is of: the picks, and what is hovered beside them. */
  of = $state.raw<Thing[]>([]);
  private busy = false;
  private next: Thing[] | null = null;
  private wanted: Thing[] = [];

  constructor(
    private session: Session,
    picks: Thing[],
  ) {
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
    this.turned = 0;
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
            ask: { of: 'measure', things: things.map((t) => t.ref) },
          } as never);
          if (told.type === 'answer' && told.answer.of === 'measure') answer = told.answer;
        } catch (error) {
          trouble = error instanceof Refusal ? error.message : String(error);
        }
      }
      [this.of, this.answer, this.trouble] = [things, answer, trouble];
    }
    this.busy = false;
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
