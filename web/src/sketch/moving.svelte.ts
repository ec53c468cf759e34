/**
 * What moves on the board: drags, and freedoms that are played. One question to the pen at a time, always
 * with the latest place.
 */
import type { Flat } from '../api/types';
import { holding } from './around';
import { distance, place, rounded, sharpCorner } from './geometry';
import type { DrawingSurface } from './surface';

type Moved = {
  points: Record<string, Flat>;
  radii: Record<string, number>;
  aways: Record<string, number>;
  texts: Record<string, string>;
};
type Sizing = {
  constraint: string;
  /** The sharp corner of a rounding, the unit way from it to the arc's centre, radii that lie between them. */
  corner: Flat;
  way: Flat;
  share: number;
  twice: boolean;
  unit: string;
  formula: string;
};
const FRAME_MS = 45;

export class Moving {
  /** Geometry while it is dragged or a freedom is played. */
  moved = $state.raw<Moved | null>(null);
  /** The freedom that is being played, or -1. */
  playing = $state(-1);
  private drag: { entity: string; start: Flat; to: Flat; busy: boolean; first: boolean } | null = null;
  /** A dimensioned rounding that is pulled larger or smaller. */
  sizing = $state.raw<Sizing | null>(null);
  private turn = 0;

  /** sizeTo : gives a dimension another value. */
  constructor(
    private board: DrawingSurface,
    private sizeTo: (constraint: string, formula: string) => Promise<unknown>,
  ) {}

  get held(): boolean {
    return this.drag !== null || this.sizing !== null;
  }

  grab(entity: string, at: Flat): void {
    this.turn++;
    this.playing = -1;
    this.sizing = this.sized(entity);
    if (this.sizing) return;
    this.drag = { entity, start: at, to: at, busy: false, first: true };
  }

  /**
   * The dimension that alone says how large a rounding is, when that is a plain number: pulling its arc changes
   * it. Any other round curve is held by its dimension, as a line is.
   */
  private sized(entity: string): Sizing | null {
    const { drawing, view } = this.board;
    const c = drawing.curves?.[entity];
    const sharp = c?.kind === 'arc' ? sharpCorner(drawing, entity) : null;
    if (!sharp) return null;
    const alike = [entity];
    for (const e of alike) {
      for (const k of Object.values(drawing.constraints ?? {})) {
        if (k.kind === 'equal' && k.of.length === 2 && k.of.includes(e))
          alike.push(...k.of.filter((o) => !alike.includes(o)));
      }
    }
    const row = view?.constraints.find(
      (r) => !r.reference && (r.kind === 'radius' || r.kind === 'diameter') && alike.includes(r.of[0]),
    );
    if (!row?.unit) return null;
    return {
      constraint: row.id,
      ...sharp,
      twice: row.kind === 'diameter',
      unit: row.unit,
      formula: '',
    };
  }

  /** The size at the pointer, in round steps of the unit. */
  private resize(sizing: Sizing, p: Flat): void {
    // The arc passes under the pointer: its nearest place to the corner lies at radius × (share - 1) from it.
    const [u, v] = sizing.way;
    const off = (p[0] - sizing.corner[0]) * u + (p[1] - sizing.corner[1]) * v;
    const mm = (off / (sizing.share - 1)) * (sizing.twice ? 2 : 1);
    const value = sizing.unit === 'in' ? Math.round((mm / 25.4) * 32) / 32 : rounded(mm, this.board.step_mm);
    const formula = `${Number(value.toFixed(5))} ${sizing.unit}`;
    if (value <= 0 || formula === sizing.formula) return;
    this.sizing = { ...sizing, formula };
    this.board.trial.show({ op: 'set_value', constraint: sizing.constraint, formula });
  }

  to(p: Flat): void {
    if (this.sizing) return this.resize(this.sizing, p);
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
      const answer = await this.board.desk.session.socket.ask({
        type: 'drag',
        step: this.board.step,
        entity: drag.entity,
        start: drag.start,
        to,
        first: drag.first,
      });
      drag.first = false;
      if (this.drag === drag && answer.type === 'dragged')
        this.moved = {
          points: answer.points as Record<string, Flat>,
          radii: answer.radii,
          aways: answer.aways,
          texts: answer.texts,
        };
    } catch (error) {
      this.board.desk.session.refused(error);
      this.drag = this.moved = null;
    }
    drag.busy = false;
    if (this.drag === drag && (drag.to[0] !== to[0] || drag.to[1] !== to[1])) void this.follow();
  }

  /** Esc while something is pulled: it stays as it was. */
  giveUp(): void {
    [this.drag, this.sizing, this.moved] = [null, null, null];
    this.board.trial.show(null);
  }

  /** Whether nothing has moved, as far as one can see. */
  private still(moved: Moved): boolean {
    const { drawing, view } = this.board;
    const was = view?.drawing ?? drawing;
    const near = this.board.reach / 20;
    return (
      Object.entries(moved.points).every(([p, at]) => distance(at, place(was, p)) < near) &&
      Object.entries(moved.radii).every(
        ([c, r]) => Math.abs(r - ((was.curves?.[c] as { radius?: number } | undefined)?.radius ?? r)) < near,
      )
    );
  }

  async release(): Promise<void> {
    const { sizing } = this;
    if (sizing) {
      this.sizing = null;
      this.board.trial.show(null);
      if (sizing.formula) await this.sizeTo(sizing.constraint, sizing.formula);
      return;
    }
    const [drag, moved] = [this.drag, this.moved];
    this.drag = null;
    if (drag && moved && this.still(moved) && distance(drag.start, drag.to) > this.board.reach) {
      this.moved = null;
      const held = holding(this.board.drawing, this.board.view, drag.entity);
      this.board.desk.session.note(
        held.length
          ? `Held by ${held.join(' and ')}; change that, and it moves.`
          : 'Held by what it is constrained to.',
      );
      return;
    }
    if (drag && moved)
      await this.board.edit({ op: 'move', entity: drag.entity, start: drag.start, to: drag.to });
    this.moved = null;
  }

  /** Play a freedom: there and back, in frames that the solver made. */
  async play(index: number): Promise<void> {
    const turn = ++this.turn;
    const answer = await this.board.desk.session.socket
      .ask({ type: 'motion', step: this.board.step, index })
      .catch(() => null);
    if (answer?.type !== 'motion' || turn !== this.turn) return;
    this.playing = index;
    for (const frame of answer.frames) {
      this.moved = {
        points: frame.points as Record<string, Flat>,
        radii: frame.radii,
        aways: frame.aways,
        texts: frame.texts,
      };
      await new Promise((done) => setTimeout(done, FRAME_MS));
      if (turn !== this.turn) return;
    }
    [this.moved, this.playing] = [null, -1];
  }

  async playAll(): Promise<void> {
    const count = this.board.view?.free ?? 0;
    if (!count) this.board.desk.session.note('Nothing moves: this sketch is fully constrained.');
    for (let i = 0; i < count; i++) {
      const turn = this.turn + 1;
      await this.play(i);
      if (turn !== this.turn) return;
    }
  }
}
