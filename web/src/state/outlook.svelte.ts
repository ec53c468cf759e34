/**
 * What a step under edit would come to: its preview, what troubles it, what it reaches. Asked for a moment
 * after the last change; only the latest answer counts.
 */
import { begin } from '../api/underway';
import { Refusal, type Command, type Foreseen, type PreviewShape, type StepState } from '../api/types';
import type { Session } from './session.svelte';

const PREVIEW_MS = 50;
const PAUSE_MS = 250; // without a change, before it is looked what follows further on: that may take long

export type Trouble = { message: string; field: string; offer?: string; findable?: boolean };

export class Outlook {
  preview = $state.raw<PreviewShape | null>(null);
  report = $state.raw<StepState | null>(null);
  foreseen = $state.raw<Foreseen | null>(null);
  trouble = $state<Trouble | null>(null);
  waiting = $state(false);
  private timer?: ReturnType<typeof setTimeout>;
  private asked = 0;
  /** Something was changed that is not asked about yet: of an older answer only the shape is shown. */
  private due = false;
  /** Tells that the pause before asking is over. */
  private soon: () => void = () => {};

  constructor(private session: Session) {}

  /** Ask what a command would come to, soon. fresh : it makes a step, which reaches nothing yet. */
  ask(command: () => Command, fresh: boolean): void {
    this.pause();
    this.foreseen = null;
    this.waiting = this.due = true;
    this.soon = begin();
    this.timer = setTimeout(() => {
      const looked = this.look(command(), fresh);
      this.soon();
      void looked;
    }, PREVIEW_MS);
  }

  /** There is nothing to ask about. */
  clear(): void {
    this.stop();
    this.foreseen = this.preview = this.report = null;
    this.trouble = null;
    this.waiting = false;
  }

  /** Ask no more; what is on its way counts no more. */
  stop(): void {
    this.pause();
    this.asked++;
  }

  private pause(): void {
    clearTimeout(this.timer);
    this.due = false;
    this.soon();
  }

  /** Look for the largest size that works, where the present one does not; it takes seconds, and can be cancelled. */
  seek(command: Command): void {
    this.pause();
    this.waiting = true;
    void this.look(command, true, true);
  }

  private async look(command: Command, fresh: boolean, seek = false): Promise<void> {
    const number = ++this.asked;
    this.due = false;
    try {
      const answer = await this.session.socket.ask({ type: 'preview', command, seek } as never);
      if (number !== this.asked || answer.type !== 'preview') return;
      this.preview = answer.preview;
      if (this.due) return;
      this.report = answer.report;
      this.trouble =
        answer.report.state === 'stopped'
          ? {
              message: answer.report.message,
              field: answer.report.field,
              offer: answer.report.offer,
              findable: answer.report.findable,
            }
          : null;
      this.waiting = false;
      if (fresh || this.trouble) return;
      await new Promise((done) => setTimeout(done, PAUSE_MS));
      if (number !== this.asked) return;
      const reach = await this.session.socket.ask({ type: 'foresee', command } as never);
      if (number === this.asked && reach.type === 'foreseen') this.foreseen = reach;
    } catch (error) {
      if (number !== this.asked || this.due) return;
      this.fail(error);
      this.waiting = false;
    }
  }

  /** Tell what went wrong where the step is edited. */
  fail(error: unknown): void {
    this.preview = null;
    if (error instanceof Refusal) this.trouble = { message: error.message, field: error.field };
    else this.session.refused(error);
  }
}
