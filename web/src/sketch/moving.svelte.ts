/** What moves on the board: drags, and freedoms that are played. One question to the pen at a time, always with the latest place. */
import type { Flat } from '../api/types';
import type { Board } from './board.svelte';
import { rounded } from './geometry';

type Moved = { points: Record<string, Flat>; radii: Record<string, number> };
const FRAME_MS = 45;

export class Moving {
  /** Geometry while it is dragged or a freedom is played. */
  moved = $state.raw<Moved | null>(null);
  /** The freedom that is being played, or -1. */
  playing = $state(-1);
  private drag: { entity: string; start: Flat; to: Flat; busy: boolean; first: boolean } | null = null;
  private turn = 0;

  constructor(private board: Board) {}

  get held(): boolean {
    return this.drag !== null;
  }

  grab(entity: string, at: Flat): void {
    this.turn++;
    this.playing = -1;
    this.drag = { entity, start: at, to: at, busy: false, first: true };
  }

  to(p: Flat): void {
    const drag = this.drag;
    if (!drag) return;
    const step = this.board.step_mm;
    drag.to = this.board.quiet ? p : [rounded(p[0], step), rounded(p[1], step)];
    if (!drag.busy) void this.follow();
  }

  private async follow(): Promise<void> {
    const drag = this.drag;
    if (!drag) return;
    drag.busy = true;
    const to = drag.to;
    try {
      const answer = await this.board.work.session.socket.ask({ type: 'drag', step: this.board.step, entity: drag.entity, start: drag.start, to, first: drag.first });
      drag.first = false;
      if (this.drag === drag && answer.type === 'dragged') this.moved = { points: answer.points as Record<string, Flat>, radii: answer.radii };
    } catch (error) {
      this.board.work.session.refused(error);
      this.drag = this.moved = null;
    }
    drag.busy = false;
    if (this.drag === drag && (drag.to[0] !== to[0] || drag.to[1] !== to[1])) void this.follow();
  }

  async release(): Promise<void> {
    const [drag, moved] = [this.drag, this.moved];
    this.drag = null;
    if (drag && moved) await this.board.edit({ op: 'move', entity: drag.entity, start: drag.start, to: drag.to });
    this.moved = null;
  }

  /** Play a freedom: there and back, in frames that the solver made. */
  async play(index: number): Promise<void> {
    const turn = ++this.turn;
    const answer = await this.board.work.session.socket.ask({ type: 'motion', step: this.board.step, index }).catch(() => null);
    if (answer?.type !== 'motion' || turn !== this.turn) return;
    this.playing = index;
    for (const frame of answer.frames) {
      this.moved = { points: frame.points as Record<string, Flat>, radii: frame.radii };
      await new Promise((done) => setTimeout(done, FRAME_MS));
      if (turn !== this.turn) return;
    }
    [this.moved, this.playing] = [null, -1];
  }

  async playAll(): Promise<void> {
    const count = this.board.view?.freedoms.length ?? 0;
    if (!count) this.board.work.session.note('Nothing moves: this sketch is fully constrained.');
    for (let i = 0; i < count; i++) {
      const turn = this.turn + 1;
      await this.play(i);
      if (turn !== this.turn) return;
    }
  }
}
