/** Constraints and dimensions: which the picks ask for, what stands against one, and ways out. */
import { tick } from 'svelte';
import { Refusal, type ConstraintRow, type Foreseen, type ToBrowser } from '../api/types';
import { Ahead } from './ahead';
import { AXES, place } from './geometry';
import type { Picks } from './surface';

type Proposal = Extract<ToBrowser, { type: 'proposed' }>['proposals'][number];
type Wanted = { kind: string; of: string[]; manner: string; formula?: string };

export class Binding {
  /** A constraint that was refused, what stands against it, and whether it may be kept to tell its value. */
  refused = $state.raw<(Wanted & { fights: string[]; spare: boolean }) | null>(null);
  /** What would constrain the rest, with the ones that are to be taken. */
  proposals = $state.raw<Proposal[] | null>(null);
  taken = $state<boolean[]>([]);
  /** What the formula being typed would reach. */
  foreseen = $state.raw<Foreseen | null>(null);
  /** The dimension that was just made and what else its picks could be dimensioned by. */
  private fresh: { id: string; of: string[]; ways: { kind: string; manner: string }[]; way: number } | null =
    null;
  /** What is typed for a dimension whose field is not there yet. */
  readonly ahead = new Ahead();
  /** What was typed into the field of a dimension, and what one that opens now has in it from before. */
  private written = { id: '', text: '' };
  private opening = { id: '', text: '' };
  private timer = 0;

  constructor(private board: Picks) {}

  private row(id: string): ConstraintRow | undefined {
    return this.board.view?.constraints.find((c) => c.id === id);
  }

  /** What stands against the refused constraint, or makes the sketch unsolvable. */
  get fights(): ConstraintRow[] {
    const ids = this.refused?.fights ?? this.board.view?.fights ?? [];
    return ids.map((k) => this.row(k)).filter((r) => r !== undefined);
  }

  async add(wanted: Wanted, more: Record<string, unknown> = {}): Promise<boolean> {
    this.refused = null;
    const of = await this.board.resolved(wanted.of);
    if (!of) return false;
    wanted = { ...wanted, of };
    const done = await this.board.edit({ op: 'constrain', ...wanted, ...more });
    const error = this.board.refusal;
    if (!done && error instanceof Refusal && (error.fights.length || error.spare))
      this.refused = { ...wanted, fights: error.fights, spare: error.spare };
    if (done) this.board.picked = [];
    return done;
  }

  /** Constrain what is picked. */
  async constrain(kind: string): Promise<void> {
    const { board } = this;
    if (!board.picked.length) {
      const rule = board.desk.about.constraints.find((c) => c.kind === kind);
      if (rule) board.asked = { kind, title: rule.title, wants: rule.wants };
      return;
    }
    await this.add({ kind, of: board.picked, manner: '' });
  }

  /** A thing was picked for what was asked first: once there is enough, it is made, and the next is waited for. */
  async given(): Promise<void> {
    const { board } = this;
    if (!board.asked || !board.picked.length) return;
    if (board.asked.kind === 'dimension') {
      if (board.picked.length > 1 && this.ways.length) await this.dimension();
      return;
    }
    const kinds = board.picked.map((e) => board.kind(e)).sort();
    const rule = board.desk.about.constraints.find((c) => c.kind === board.asked?.kind);
    const enough = rule?.takes.some(
      (takes) => takes.length === kinds.length && arranged(takes as string[][], kinds),
    );
    if (enough) await this.add({ kind: board.asked.kind, of: board.picked, manner: '' });
    else if (board.picked.length >= Math.max(...(rule?.takes ?? [[]]).map((t) => t.length))) {
      board.trouble = `${board.asked.title} wants ${board.asked.wants}.`;
      board.picked = board.picked.slice(0, -1);
    }
  }

  /** The dimensions the picks could have, likeliest first. */
  get ways(): { kind: string; manner: string }[] {
    const { board } = this;
    const kinds = board.picked
      .map((e) => board.kind(e))
      .sort()
      .join(' ');
    const plain = (kind: string) => ({ kind, manner: '' });
    const spans = [
      plain('distance'),
      { kind: 'distance', manner: 'horizontal' },
      { kind: 'distance', manner: 'vertical' },
    ];
    if (kinds === 'circle') return [plain('diameter'), plain('radius')];
    if (kinds === 'arc') return [plain('radius'), plain('diameter'), plain('arc_length')];
    if (kinds === 'ellipse' || kinds === 'ellipse_arc') return [plain('axis'), plain('cross_axis')];
    if (kinds === 'line line') return this.parallel() ? [plain('distance')] : [plain('angle')];
    if (kinds === 'line') return AXES[board.picked[0]] ? [] : [plain('distance')];
    if (kinds === 'point point') return spans;
    return /^(line point|(arc|circle) (line|point)|(arc|circle) (arc|circle))$/.test(kinds)
      ? [plain('distance')]
      : [];
  }

  private parallel(): boolean {
    const { board } = this;
    const [a, b] = board.picked.map((l) => {
      if (AXES[l]) return [AXES[l][1][0], AXES[l][1][1]];
      const c = board.drawing.curves?.[l];
      if (c?.kind !== 'line') return [1, 0]; // of the model: known once it is taken in
      const [s, e] = [place(board.drawing, c.start), place(board.drawing, c.end)];
      const n = Math.hypot(e[0] - s[0], e[1] - s[1]) || 1;
      return [(e[0] - s[0]) / n, (e[1] - s[1]) / n];
    });
    return Math.abs(a[0] * b[1] - a[1] * b[0]) < 1e-4;
  }

  async dimension(): Promise<void> {
    const { board, ways } = this;
    if (!board.picked.length) {
      board.asked = {
        kind: 'dimension',
        title: 'Dimension',
        wants: 'two things; or one, and then Enter or a free place',
      };
      return;
    }
    if (!ways.length) {
      board.trouble =
        'A dimension wants a line, a circle or arc, two points, a point and a line, two lines, or a circle and a point or line. Pick first, then ask.';
      return;
    }
    if (board.picked.some((e) => board.isModel(e))) {
      // A thing of the model is taken in first; then what can be measured is known.
      const taken = await board.resolved(board.picked);
      if (!taken) return;
      board.picked = taken;
      return this.dimension();
    }
    // A way in which the picks are dimensioned already comes last.
    const same = (w: { kind: string; manner: string }) =>
      Object.values(board.drawing.constraints ?? {}).some(
        (c) =>
          c.kind === w.kind &&
          (c.manner ?? '') === w.manner &&
          !c.reference &&
          c.of.length === board.picked.length &&
          c.of.every((e) => board.picked.includes(e)),
      );
    await this.place([...board.picked], [...ways.filter((w) => !same(w)), ...ways.filter(same)], 0);
  }

  private async place(
    of: string[],
    ways: { kind: string; manner: string }[],
    way: number,
    instead = '',
  ): Promise<void> {
    const { board } = this;
    const before = new Set(Object.keys(board.drawing.constraints ?? {}));
    board.typing = '';
    this.ahead.begin();
    const taken = await board.resolved(of);
    if (!taken || !(await this.add({ ...ways[way], of: taken }, instead ? { dropping: [instead] } : {}))) {
      // A manner that is refused leaves the dimension as it is, and its field open; the next turn goes on.
      if (!instead) return this.nowhere();
      [board.typing, this.fresh] = [instead, { id: instead, of, ways, way }];
      return this.arrived(instead);
    }
    of = taken;
    const id = Object.keys(board.drawing.constraints ?? {}).find((k) => !before.has(k)) ?? '';
    [board.typing, this.fresh] = [id, { id, of, ways, way }];
    return this.arrived(id);
  }

  /** What a dimension's field begins with, where something was typed for it already. */
  begun(id: string): string {
    return this.opening.id === id ? this.opening.text : '';
  }

  /** Leave the field of a dimension as it was. */
  leave(): void {
    [this.board.typing, this.written] = ['', { id: '', text: '' }];
  }

  /** A dimension's field is there: it takes what was typed before. */
  private async arrived(id: string): Promise<void> {
    if (this.ahead.turned() && (await this.otherWay())) return;
    const { text, accepted } = this.ahead.end();
    this.written = this.opening = { id, text };
    if (accepted && text) await this.setValue(id, text);
    else if (accepted) this.leave();
    await tick();
    this.opening = { id: '', text: '' };
  }

  private nowhere(): void {
    const { text } = this.ahead.end();
    if (text) this.board.desk.session.note(`There is no dimension, so “${text}” went nowhere.`);
  }

  /** The other answer while a new dimension is typed: the same picks, dimensioned the next way. */
  async otherWay(): Promise<boolean> {
    const fresh = this.fresh;
    if (!fresh || fresh.id !== this.board.typing || fresh.ways.length < 2) return false;
    this.ahead.begin(this.written.id === fresh.id ? this.written.text : '');
    await this.place(fresh.of, fresh.ways, (fresh.way + 1) % fresh.ways.length, fresh.id);
    return true;
  }

  /** Keep the refused dimension as one that only tells its value. */
  async keepAsReference(): Promise<void> {
    const { refused } = this;
    if (refused)
      await this.add({ kind: refused.kind, of: refused.of, manner: refused.manner }, { reference: true });
  }

  /** A way out: one that stands against it goes, or only tells its value from now on. */
  async giveWay(row: ConstraintRow, tell: boolean): Promise<void> {
    const { refused } = this;
    if (refused) {
      await this.add(
        { kind: refused.kind, of: refused.of, manner: refused.manner, formula: refused.formula ?? '' },
        tell ? { telling: [row.id] } : { dropping: [row.id] },
      );
    } else if (tell) await this.board.edit({ op: 'set_reference', constraint: row.id, on: true });
    else await this.board.edit({ op: 'remove', entities: [row.id] });
  }

  /** A dimension is typed. */
  write(id: string, tag: string, text: string): void {
    this.written = { id, text };
    this.foresee(tag, text);
  }

  /** While a dimension is typed: what it would reach in the part. */
  foresee(tag: string, formula: string): void {
    clearTimeout(this.timer);
    this.foreseen = null;
    this.timer = window.setTimeout(async () => {
      const answer = await this.board.desk.session.socket
        .ask({ type: 'foresee', command: { do: 'set_formula', tag, formula } })
        .catch(() => null);
      if (this.board.typing && answer?.type === 'foreseen') this.foreseen = answer;
    }, 250);
  }

  async setValue(constraint: string, formula: string): Promise<boolean> {
    const done = await this.board.edit({ op: 'set_value', constraint, formula });
    if (done) [this.board.typing, this.fresh, this.written] = ['', null, { id: '', text: '' }];
    return done;
  }

  /** Ask what would constrain the rest, measured from what is picked. */
  async propose(): Promise<void> {
    const { board } = this;
    board.trouble = '';
    try {
      const answer = await board.desk.session.socket.ask({
        type: 'propose',
        step: board.step,
        baselines: board.picked,
      });
      if (answer.type !== 'proposed') return;
      this.proposals = answer.proposals.length ? answer.proposals : null;
      this.taken = answer.proposals.map(() => true);
      if (!answer.proposals.length)
        board.desk.session.note('Nothing is left to constrain: this sketch is fully constrained.');
    } catch (error) {
      board.trouble = error instanceof Error ? error.message : String(error);
    }
  }

  async acceptProposals(): Promise<void> {
    const constraints = (this.proposals ?? [])
      .filter((_, i) => this.taken[i])
      .map(({ kind, of, manner }) => ({ kind, of, manner }));
    this.proposals = null;
    if (constraints.length && (await this.board.edit({ op: 'constrain_all', constraints })))
      this.board.picked = [];
  }
}

/** Whether things of some kinds can stand in places that each take some, in whatever order. */
function arranged(takes: string[][], kinds: string[]): boolean {
  if (!takes.length) return true;
  const [first, ...rest] = takes;
  return kinds.some(
    (kind, i) => first.includes(kind) && arranged(rest, [...kinds.slice(0, i), ...kinds.slice(i + 1)]),
  );
}
