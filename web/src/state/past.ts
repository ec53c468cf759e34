/** What a step in hand was before each of its changes, so that they can be taken back one after the other. */
import type { Thing } from '../stage/things';

type Before = { of: string; fields: Record<string, unknown>; active: string; picks: Thing[] };

export class Past {
  private held: Before[] = [];

  /**
   * Keep what there is before a change. of : the number that is typed into; of that, what was before all of
   * the typing is kept.
   */
  keep(of: string, active: string, picks: Thing[], fields: () => Record<string, unknown>): void {
    if (of && this.held.at(-1)?.of === of) return;
    this.held.push({ of, active, picks, fields: structuredClone(fields()) });
  }

  /** A number was left: what is typed into it again is another change. */
  pause(): void {
    const last = this.held.at(-1);
    if (last) last.of = '';
  }

  /** Give what there was before the last change, which is forgotten. */
  back(): Before | undefined {
    return this.held.pop();
  }
}
