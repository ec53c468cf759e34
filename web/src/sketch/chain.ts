/**
 * Drawing shapes one after the other: what is clicked goes to the server in order, and a line goes on before
 * it has answered.
 */
import type { Flat } from '../api/types';
import { catchPlace, distance, place, type Snap } from './geometry';
import { lengthOf, placeOf } from './lengths';
import type { Hand } from './surface';
import type { Manner } from './tools';

/** The typed place, among the typed measures of the shape in hand. */
export const PLACE = 'at';
const AHEAD = 'ahead'; // stands for the end of a line that the server has not drawn yet

export class Chain {
  /** Shapes under way, one after the other; the last one's end, for the line that goes on from it. */
  private drawn: Promise<Snap | null> = Promise.resolve(null);
  private waiting = 0;

  constructor(private readonly board: Hand) {}

  /** Draw the shape; a line goes on from its end at once, whether the server has drawn it yet or not. */
  async finish(): Promise<void> {
    const { board } = this;
    const [shape, given, typed, hand] = [board.shape!, board.given, board.typed, board.hand];
    // It ends at a point that is drawn; along corners of the model it goes on.
    const goesOn = board.tool === 'line' && (given[1].kind !== 'point' || given[1].on.startsWith('model:'));
    const automatic =
      board.suggested === 'tangent'
        ? [{ kind: 'tangent', to: board.touched }]
        : board.suggested && shape.shape === 'line'
          ? [{ kind: board.suggested }]
          : [];
    const next: Snap = { ...given[1], on: AHEAD, kind: 'point' };
    [board.given, board.typed] = [goesOn ? [next] : [], {}];
    if (board.manner && board.tool === 'line' && !goesOn) board.manner = 0;
    const [before, late] = [this.drawn, this.waiting++ > 0 && !board.quiet];
    this.drawn = (async () => {
      const last = await before;
      const places = late ? given.map((s) => this.caught(s)) : given;
      const start = given[0].on === AHEAD ? last : places[0];
      const end =
        start &&
        (await this.send(shape, [start, ...places.slice(1)], typed, automatic).finally(() => this.waiting--));
      if (!start) this.waiting--;
      if (board.hand === hand && goesOn && board.given[0] === next)
        board.given = end ? [end, ...board.given.slice(1)] : [];
      if (!end && start && board.hand === hand && !board.given.length)
        this.refuse([start, ...given.slice(1, -1)], typed);
      return end;
    })();
    await this.drawn;
  }

  /** What was typed stands there again, with the measure that was refused selected. */
  private refuse(given: Snap[], typed: Record<string, string>): void {
    const { board } = this;
    [board.given, board.typed] = [given, typed];
    const field = (board.refusal as { field?: string } | null)?.field ?? '';
    const written = board.measures.filter((m) => typed[m]?.trim());
    board.refusedMeasure = written.find((m) => m === field || field.endsWith(m)) ?? written.at(-1) ?? '';
  }

  /**
   * A place that was clicked while a shape was still under way: what has been drawn there by now catches it,
   * a point before a line.
   */
  private caught(place: Snap): Snap {
    const { board } = this;
    if (place.kind === 'point') return place;
    const now = catchPlace(board.drawing, place.at, board.reach, board.step_mm, false);
    return now.kind === 'point' || (place.kind === 'free' && now.kind !== 'free') ? now : place;
  }

  /** Draw a shape through places; returns where the last of them came to, null when it was refused. */
  private async send(
    shape: Manner,
    given: Snap[],
    typed: Record<string, string>,
    automatic: { kind: string; to?: string }[],
  ): Promise<Snap | null> {
    const { board } = this;
    const { sides, [PLACE]: _, ...measures } = typed;
    const values = Object.fromEntries(Object.entries(measures).filter(([, v]) => v.trim()));
    const corners = sides?.trim() ? { sides: Number(sides) || 0 } : {};
    const on = await board.resolved(given.map((s) => s.on)); // what it was caught on of the model is taken in
    if (!on) return null;
    const before = new Set(Object.keys(board.drawing.points ?? {}));
    const done = await board.edit({
      op: 'draw',
      shape: shape.shape,
      ends: given.map(({ at }, i) => ({ at, on: on[i] })),
      automatic,
      values,
      ...corners,
      construction: board.construction,
    });
    if (!done) return null;
    const aim = given.at(-1)!;
    const fresh = Object.keys(board.drawing.points ?? {}).filter((p) => !before.has(p));
    // An arc's two ends come in the order of its turn: the end is the one at the place that was given.
    const last = fresh.filter((p) => distance(place(board.drawing, p), aim.at) < 1e-6).at(-1) ?? fresh.at(-1);
    return last ? { at: place(board.drawing, last), on: last, kind: 'point' } : aim;
  }

  /** Enter: a shape of as many places as one likes ends with the last one given. */
  async end(): Promise<void> {
    const { board } = this;
    const least = board.shape?.least ?? 0;
    if (board.given.length >= least) await this.finish();
    else board.trouble = `It wants ${least} places at least; ${board.given.length} given so far.`;
  }

  /**
   * Enter in the tool's bar: a typed place is the next one; else the second place follows from the typed
   * measures.
   */
  async acceptTyped(): Promise<void> {
    const { board } = this;
    const [first] = board.measures;
    const text =
      [board.typed[PLACE], board.typed[first]].find((t) => t?.includes(',')) ?? board.typed[PLACE]?.trim();
    let place: Snap | null = board.pointer;
    if (text) {
      const at = placeOf(text, board.unit);
      if (!at) {
        board.trouble = `“${text}” is no place. Write two lengths, for example 20, 10 or 1 in, 5 mm.`;
        return;
      }
      const caught = catchPlace(board.drawing, at, TYPED, 1e-6, board.quiet);
      place = caught.kind === 'free' ? { at, on: '', kind: 'free' } : caught;
      board.suggested = levelOf(board.shape?.shape === 'line' ? board.given.at(-1)?.at : undefined, place.at);
      const { [PLACE]: _, ...rest } = board.typed;
      board.typed = rest[first]?.includes(',') ? { ...rest, [first]: '' } : rest;
    } else if (!board.given.length) return;
    else if (!place || distance(place.at, board.given.at(-1)!.at) < TYPED) place = this.ahead();
    board.trouble = '';
    board.pointer = place;
    board.given = [...board.given, place];
    (document.activeElement as HTMLElement | null)?.blur();
    if (!board.shape?.least && board.given.length >= board.needs.length) await this.finish();
  }

  /** Without a pointer: to the right and up from the last place, as far as the typed measures say. */
  private ahead(): Snap {
    const { board } = this;
    const [x, y] = board.given.at(-1)!.at;
    const size = (name: string | undefined) =>
      Math.abs(lengthOf(board.typed[name ?? ''] ?? '', board.unit) ?? 0) || 10 * board.step_mm;
    const [wide, high] = board.measures;
    const at: Flat =
      board.tool === 'rectangle'
        ? [x + size(wide), y + size(high)]
        : [x + size(wide) / (board.tool === 'line' ? 1 : 2), y];
    return { at, on: '', kind: 'free' };
  }
}

/** A typed line that is level or upright becomes so, as a drawn one does. */
function levelOf(start: Flat | undefined, end: Flat): 'horizontal' | 'vertical' | '' {
  if (!start || distance(start, end) < TYPED) return '';
  if (Math.abs(end[1] - start[1]) < TYPED) return 'horizontal';
  return Math.abs(end[0] - start[0]) < TYPED ? 'vertical' : '';
}

const TYPED = 1e-4; // mm: a typed place is on a point that is no further away
