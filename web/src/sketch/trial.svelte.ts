/** An edit tried out before it is accepted: one question at a time, always the latest. */
import { Refusal, type Drawing } from '../api/types';
import type { Session } from '../state/session.svelte';

export type Edit = Record<string, unknown> & { op: string };

export class Trial {
  drawing = $state.raw<Drawing | null>(null);
  lost = $state.raw<string[]>([]);
  notes = $state.raw<string[]>([]);
  /** How the texts would be drawn, by id. */
  texts = $state.raw<Record<string, string>>({});
  trouble = $state('');
  private wanted: Edit | null = null;
  private busy = false;

  constructor(
    private session: Session,
    private step: string,
  ) {}

  /** Try an edit; null shows nothing any more. */
  show(edit: Edit | null): void {
    this.wanted = edit;
    if (!edit) this.clear();
    else if (!this.busy) void this.ask();
  }

  /** What an edit would leave undone, in words. */
  async notesOf(edit: Edit): Promise<string[]> {
    try {
      const answer = await this.session.socket.ask({ type: 'rehearse', step: this.step, edit } as never);
      return answer.type === 'rehearsed' ? answer.notes : [];
    } catch {
      return []; // it is told when the edit is made
    }
  }

  private clear(): void {
    [this.drawing, this.lost, this.notes, this.texts, this.trouble] = [null, [], [], {}, ''];
  }

  private async ask(): Promise<void> {
    this.busy = true;
    while (this.wanted) {
      const edit = this.wanted;
      try {
        const answer = await this.session.socket.ask({ type: 'rehearse', step: this.step, edit } as never);
        if (this.wanted && answer.type === 'rehearsed')
          [this.drawing, this.lost, this.notes, this.texts, this.trouble] = [
            answer.drawing,
            answer.lost,
            answer.notes,
            answer.texts,
            '',
          ];
      } catch (error) {
        if (this.wanted) {
          this.clear();
          this.trouble = error instanceof Refusal ? error.message : String(error);
        }
      }
      if (this.wanted === edit) break;
    }
    this.busy = false;
    if (!this.wanted) this.clear();
  }
}
