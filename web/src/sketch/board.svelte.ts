/** The drawing board: the tool in hand, what is picked, drags, and edits sent to the pen. */
import { Refusal, type Drawing, type Flat, type Foreseen, type SketchView } from '../api/types';
import type { Workplace } from '../state/workplace.svelte';
import { AXES, ORIGIN, catchPlace, place, roundStep, rounded, straighten, under, type Snap } from './geometry';

export type Tool = '' | 'point' | 'line' | 'rectangle' | 'circle' | 'arc' | 'slot' | 'polygon';
type Edit = Record<string, unknown> & { op: string };

const NEEDS: Record<Exclude<Tool, ''>, string[]> = {
  point: ['its place'],
  line: ['its start', 'its end'],
  rectangle: ['one corner', 'the opposite corner'],
  circle: ['its centre', 'a place on it'],
  arc: ['its start', 'its end', 'a place between'],
  slot: ['the middle of one end', 'the middle of the other', 'a place on its rim'],
  polygon: ['its middle', 'a corner'],
};
const MEASURES: Record<Tool, string[]> = { '': [], point: [], line: ['length'], rectangle: ['width', 'height'], circle: ['diameter'], arc: ['radius'], slot: ['width'], polygon: ['sides', 'across corners'] };
const REACH = 8; // px
const ROUND = 5; // px: the least a round step takes on the screen
const PLAY_MS = 1100;

export class Board {
  tool = $state<Tool>('');
  /** Places given so far to the shape in hand. */
  given = $state.raw<Snap[]>([]);
  pointer = $state.raw<Snap | null>(null);
  suggested = $state<'horizontal' | 'vertical' | ''>('');
  quiet = $state(false);
  construction = $state(false);
  picked = $state.raw<string[]>([]);
  hovered = $state('');
  /** The dimension whose figure is being typed. */
  typing = $state('');
  typed = $state<Record<string, string>>({});
  trouble = $state('');
  /** A dimension that was refused because the sketch needs none more there. */
  spare = $state.raw<{ kind: string; of: string[] } | null>(null);
  /** The character of a formula at which it was refused. */
  fault = $state<number | null>(null);
  /** What the formula being typed would reach. */
  foreseen = $state.raw<Foreseen | null>(null);
  private timer = 0;
  /** Where the pointer is, and what it is over or to be given. */
  readout = $state.raw<[string, string]>(['', '']);
  /** Geometry while it is dragged or a freedom is played. */
  moved = $state.raw<{ points: Record<string, Flat>; radii: Record<string, number> } | null>(null);
  private drag: { entity: string; start: Flat; to: Flat; busy: boolean; first: boolean } | null = null;
  private playing = 0;

  constructor(
    private work: Workplace,
    readonly step: string,
  ) {}

  get view(): SketchView | null {
    const view = this.work.session.sketch;
    return view?.step === this.step ? view : null;
  }

  /** The drawing as it is to be shown now. */
  get drawing(): Drawing {
    const drawing = this.view?.drawing ?? ({ points: {}, curves: {}, constraints: {}, last: 0 } as unknown as Drawing);
    const moved = this.moved;
    if (!moved) return drawing;
    const curves = Object.fromEntries(
      Object.entries(drawing.curves ?? {}).map(([id, c]) => [id, 'radius' in c && id in moved.radii ? { ...c, radius: moved.radii[id] } : c]),
    );
    return { ...drawing, points: { ...drawing.points, ...moved.points }, curves } as Drawing;
  }

  private get scale(): number {
    return this.work.stage?.view.scale ?? 4;
  }
  get reach(): number {
    return REACH / this.scale;
  }
  get step_mm(): number {
    return roundStep(ROUND / this.scale);
  }

  get wants(): string {
    return this.tool ? (NEEDS[this.tool][this.given.length] ?? '') : '';
  }
  get measures(): string[] {
    return this.given.length ? MEASURES[this.tool] : [];
  }

  take(tool: Tool): void {
    this.tool = tool;
    this.given = [];
    this.typed = {};
    this.picked = [];
    this.trouble = '';
    this.typing = '';
  }

  /** Esc: first the shape in hand, then the tool, then the selection. Returns false when there was nothing to step back from. */
  stepBack(): boolean {
    this.trouble = '';
    if (this.typing) this.typing = '';
    else if (this.given.length) [this.given, this.typed] = [[], {}];
    else if (this.tool) this.tool = '';
    else if (this.picked.length) this.picked = [];
    else return false;
    return true;
  }

  /** The pointer is over a place (mm). */
  hover(p: Flat): void {
    if (this.drag) {
      this.dragTo(p);
      return;
    }
    if (!this.tool) {
      this.hovered = under(this.drawing, p, this.reach)[0] ?? '';
      return;
    }
    let snap = catchPlace(this.drawing, p, this.reach, this.step_mm, this.quiet);
    this.suggested = '';
    if (this.tool === 'line' && this.given.length && !this.quiet) {
      const straight = straighten(this.given[0].at, snap.at);
      this.suggested = straight.kind;
      if (snap.sort === 'free') snap = { ...snap, at: straight.at };
    }
    this.pointer = snap;
  }

  /** A click at a place (mm); more keeps what is picked. */
  async click(p: Flat, more: boolean): Promise<void> {
    if (!this.tool) {
      const [first] = under(this.drawing, p, this.reach);
      if (!first) this.picked = more ? this.picked : [];
      else if (this.picked.includes(first)) this.picked = this.picked.filter((e) => e !== first);
      else this.picked = more ? [...this.picked, first] : [first];
      return;
    }
    this.hover(p);
    if (!this.pointer) return;
    this.given = [...this.given, this.pointer];
    if (this.given.length === NEEDS[this.tool].length) await this.finish();
  }

  /** Draw the shape; a line goes on from its end. */
  private async finish(): Promise<void> {
    const [tool, given] = [this.tool as Exclude<Tool, ''>, this.given];
    const { sides, ...typed } = this.typed;
    const values = Object.fromEntries(Object.entries(typed).filter(([, v]) => v.trim()));
    const corners = sides?.trim() ? { sides: Number(sides) || 0 } : {};
    const automatic = this.suggested ? [{ kind: this.suggested }] : [];
    const before = new Set(Object.keys(this.drawing.points ?? {}));
    this.given = [];
    const done = await this.edit({
      op: 'draw', shape: tool, ends: given.map(({ at, on }) => ({ at, on })), automatic, values, ...corners, construction: this.construction,
    });
    if (!done) {
      this.given = given.slice(0, -1);
      return;
    }
    this.typed = {};
    if (tool !== 'line' || this.tool !== 'line') return;
    const fresh = Object.keys(this.drawing.points ?? {}).filter((p) => !before.has(p));
    const last = fresh.at(-1);
    const closes = given[1].sort === 'point';
    if (last && !closes) this.given = [{ at: place(this.drawing, last), on: last, sort: 'point' }];
  }

  /** Enter while measures are typed: the second place follows from them, in the direction of the pointer. */
  async acceptTyped(): Promise<void> {
    if (!this.given.length || !this.pointer) return;
    this.given = [...this.given, this.pointer];
    if (this.given.length >= NEEDS[this.tool as Exclude<Tool, ''>].length) await this.finish();
  }

  async edit(edit: Edit): Promise<boolean> {
    [this.trouble, this.fault, this.foreseen] = ['', null, null];
    try {
      await this.work.session.command({ do: 'edit_sketch', step: this.step, edit } as never);
      return true;
    } catch (error) {
      if (error instanceof Refusal) [this.trouble, this.fault] = [error.message, error.at];
      else this.work.session.refused(error);
      return false;
    }
  }

  async constrain(kind: string): Promise<void> {
    if (!this.picked.length) {
      const rule = this.work.about.constraints.find((c) => c.kind === kind);
      this.trouble = `${rule?.title} wants ${rule?.takes.map((t) => t.join(' and ')).join(', or ').replaceAll('round', 'circle or arc')}. Pick first, then ask.`;
      return;
    }
    if (await this.edit({ op: 'constrain', kind, of: this.picked })) this.picked = [];
  }

  private sort(entity: string): string {
    if (entity === ORIGIN || this.drawing.points?.[entity]) return 'point';
    return AXES[entity] ? 'line' : (this.drawing.curves?.[entity]?.kind ?? '');
  }

  /** Which dimension the picks ask for. */
  get dimensionKind(): string {
    const sorts = this.picked.map((e) => this.sort(e)).sort().join(' ');
    if (sorts === 'circle') return 'diameter';
    if (sorts === 'arc') return 'radius';
    if (sorts === 'line line') return this.parallel() ? 'distance' : 'angle';
    if (sorts === 'line') return AXES[this.picked[0]] ? '' : 'distance';
    return sorts === 'point point' || sorts === 'line point' ? 'distance' : '';
  }

  private parallel(): boolean {
    const [a, b] = this.picked.map((l) => {
      if (AXES[l]) return [AXES[l][1][0], AXES[l][1][1]];
      const c = this.drawing.curves![l];
      if (c.kind !== 'line') return [1, 0];
      const [s, e] = [place(this.drawing, c.start), place(this.drawing, c.end)];
      const n = Math.hypot(e[0] - s[0], e[1] - s[1]) || 1;
      return [(e[0] - s[0]) / n, (e[1] - s[1]) / n];
    });
    return Math.abs(a[0] * b[1] - a[1] * b[0]) < 1e-4;
  }

  async dimension(): Promise<void> {
    const kind = this.dimensionKind;
    if (!kind) {
      this.trouble = 'A dimension wants a line, a circle or arc, two points, a point and a line, or two lines. Pick first, then ask.';
      return;
    }
    const before = new Set(Object.keys(this.drawing.constraints ?? {}));
    this.spare = null;
    const of = this.picked;
    if (!(await this.edit({ op: 'constrain', kind, of }))) {
      if (/not needed|would fight/.test(this.trouble)) this.spare = { kind, of };
      return;
    }
    this.picked = [];
    this.typing = Object.keys(this.drawing.constraints ?? {}).find((k) => !before.has(k)) ?? '';
  }

  /** Keep the dimension that was refused as one that only tells its value. */
  async keepAsReference(): Promise<void> {
    const spare = this.spare;
    this.spare = null;
    if (spare && (await this.edit({ op: 'constrain', ...spare, reference: true }))) this.picked = [];
  }

  /** Constraint kinds that the picks fit. */
  get fitting() {
    if (!this.picked.length) return [];
    const sorts = this.picked.map((e) => this.sort(e));
    const fits = (pattern: string[]) => {
      const rest = [...sorts];
      for (const want of pattern) {
        const i = rest.findIndex((s) => s === want || (want === 'round' && (s === 'circle' || s === 'arc')));
        if (i < 0) return false;
        rest.splice(i, 1);
      }
      return rest.length === 0;
    };
    return this.work.about.constraints.filter((c) => !c.quantity && c.takes.some(fits));
  }

  async remove(): Promise<void> {
    const own = this.picked.filter((e) => e !== ORIGIN && !AXES[e]);
    if (own.length && (await this.edit({ op: 'remove', entities: own }))) this.picked = [];
  }

  async toggleConstruction(): Promise<void> {
    const curves = this.picked.filter((e) => this.drawing.curves?.[e]);
    if (!curves.length) {
      this.construction = !this.construction;
      this.work.session.note(this.construction ? 'New curves are construction lines now.' : 'New curves are real lines now.');
      return;
    }
    const on = !curves.every((c) => this.drawing.curves![c].construction);
    await this.edit({ op: 'construction', curves, on });
  }

  /** While a dimension is typed: what it would reach in the part. */
  foresee(tag: string, formula: string): void {
    clearTimeout(this.timer);
    this.foreseen = null;
    this.timer = window.setTimeout(async () => {
      const answer = await this.work.session.socket.ask({ type: 'foresee', command: { do: 'set_formula', tag, formula } }).catch(() => null);
      if (this.typing && answer?.type === 'foreseen') this.foreseen = answer;
    }, 250);
  }

  async setValue(constraint: string, formula: string): Promise<boolean> {
    const done = await this.edit({ op: 'set_value', constraint, formula });
    if (done) this.typing = '';
    return done;
  }

  // — dragging: one question to the pen at a time, always with the latest place —

  /** Take hold of what is at a place; says whether there is anything. */
  grab(p: Flat): boolean {
    if (this.tool) return false;
    const [first] = under(this.drawing, p, this.reach).filter((e) => e !== ORIGIN && !AXES[e]);
    if (!first) return false;
    this.drag = { entity: first, start: p, to: p, busy: false, first: true };
    return true;
  }

  get dragging(): boolean {
    return this.moved !== null && this.drag !== null;
  }

  private dragTo(p: Flat): void {
    const drag = this.drag!;
    drag.to = [rounded(p[0], this.step_mm), rounded(p[1], this.step_mm)];
    if (!drag.busy) void this.follow();
  }

  private async follow(): Promise<void> {
    const drag = this.drag;
    if (!drag) return;
    drag.busy = true;
    const to = drag.to;
    try {
      const answer = await this.work.session.socket.ask({ type: 'drag', step: this.step, entity: drag.entity, start: drag.start, to, first: drag.first });
      drag.first = false;
      if (this.drag === drag && answer.type === 'dragged') this.moved = { points: answer.points as Record<string, Flat>, radii: answer.radii };
    } catch (error) {
      this.work.session.refused(error);
      this.drag = this.moved = null;
    }
    drag.busy = false;
    if (this.drag === drag && (drag.to[0] !== to[0] || drag.to[1] !== to[1])) void this.follow();
  }

  async release(): Promise<void> {
    const [drag, moved] = [this.drag, this.moved];
    this.drag = null;
    if (drag && moved) await this.edit({ op: 'move', entity: drag.entity, start: drag.start, to: drag.to });
    this.moved = null;
  }

  // — freedoms —

  /** Play one freedom: there and back, as the solver's first order says. */
  play(index: number): void {
    const view = this.view;
    const freedom = view?.freedoms[index];
    if (!view || !freedom) return;
    cancelAnimationFrame(this.playing);
    const [points, began] = [view.drawing.points ?? {}, performance.now()];
    const size = Math.max(...Object.values(points).map((p) => Math.hypot(p[0], p[1])), 10) * 0.12;
    const frame = () => {
      const t = (performance.now() - began) / PLAY_MS;
      const k = size * Math.sin(2 * Math.PI * t);
      if (t >= 1) {
        this.moved = null;
        return;
      }
      this.moved = {
        points: Object.fromEntries(Object.entries(freedom.moves).map(([p, d]) => [p, [points[p][0] + k * d[0], points[p][1] + k * d[1]] as Flat])),
        radii: Object.fromEntries(Object.entries(freedom.grows).map(([c, g]) => [c, Math.max((view.drawing.curves![c] as { radius: number }).radius + k * g, 0.01)])),
      };
      this.playing = requestAnimationFrame(frame);
    };
    frame();
  }

  playAll(): void {
    const count = this.view?.freedoms.length ?? 0;
    if (!count) this.work.session.note('Nothing moves: this sketch is fully constrained.');
    for (let i = 0; i < count; i++) setTimeout(() => this.play(i), i * (PLAY_MS + 100));
  }
}

