/** The route as a place to work: marks, order, deleting, copies, headings, the past, and what made a thing. */
import {
  Refusal,
  type Command,
  type Foreseen,
  type Kind,
  type LedgerRow,
  type MadeBy,
  type PreviewShape,
  type Step,
} from '../api/types';
import type { Thing } from '../stage/things';
import { sayLost } from './saying';
import type { Session } from './session.svelte';

/** A change that waits for a word: what it would do, and the ways in which it can be done. */
export type Asked = {
  title: string;
  ways: { words: string; command: Command }[];
  way: number;
  foreseen: Foreseen | null;
  trouble: string;
};

/** Steps as they are copied: values for the tags that another part has not. */
type Copied = { wendal: 'steps'; part: number; steps: Step[]; values: Record<string, string> };
const CLIPBOARD = 'wendal-steps';
const REST = 450; // ms over a step's number before what it did is shown
const MOST_OTHERS = 4; // steps that are offered in the place of one that is deleted
const PACE = 700; // ms that each state is seen while the route is played

/** What route work needs of the workplace. */
export interface Around {
  readonly session: Session;
  readonly about: { kinds: Kind[] };
  readonly picked: Thing[];
  readonly editing: { step: string } | null;
  stopEditing(): void;
}

export class RouteWork {
  marked = $state.raw<string[]>([]);
  sought = $state('');
  filtering = $state(false);
  asked = $state.raw<Asked | null>(null);
  made = $state.raw<{ of: string; told: MadeBy } | null>(null);
  /** The step whose note is written. */
  noting = $state('');
  /** The heading that is named; "" for none, "*" for a new one over what is marked. */
  heading = $state('');
  aboutOpen = $state(false);
  playing = $state(false);
  /** What the step under the pointer added and took away. */
  ghost = $state.raw<PreviewShape | null>(null);
  private over = '';
  private hovering = 0;
  private last = '';
  private timer = 0;

  constructor(private on: Around) {}

  private get session(): Session {
    return this.on.session;
  }

  // — which steps —

  /** What is meant: what is marked, else the steps of what is picked, else the one under edit. */
  get meant(): string[] {
    const there = new Set(this.session.steps.map((s) => s.id));
    const marked = this.marked.filter((s) => there.has(s));
    if (marked.length) return marked;
    const picked = this.on.picked.flatMap((t) => t.step || t.copiedBy || t.madeBy || []);
    if (picked.length) return [...new Set(picked)].filter((s) => there.has(s));
    return this.on.editing?.step ? [this.on.editing.step] : [];
  }

  private needs(what: string): string[] {
    const { meant } = this;
    if (!meant.length)
      this.session.note(`Mark steps on the route card (click their numbers) to ${what}.`, true);
    return meant;
  }

  /** Mark a step or take its mark away; through : all from the last one marked. */
  mark(step: string, through = false): void {
    const ids = this.session.steps.map((s) => s.id);
    const from = ids.indexOf(this.last);
    if (through && from >= 0) {
      const [a, b] = [from, ids.indexOf(step)].sort((x, y) => x - y);
      this.marked = [...new Set([...this.marked, ...ids.slice(a, b + 1)])];
    } else
      this.marked = this.marked.includes(step)
        ? this.marked.filter((s) => s !== step)
        : [...this.marked, step];
    this.last = step;
  }

  /** A step's number on the card. i : its place. */
  number(step: string, i: number): number {
    return this.session.part?.numbers?.[step] ?? 10 * (i + 1);
  }
  /** The number that a step put behind the one at a place gets. */
  numberAfter(i: number): number {
    const { steps } = this.session;
    const low = i < 0 ? 0 : this.number(steps[i].id, i);
    const high = i + 1 < steps.length ? this.number(steps[i + 1].id, i + 1) : 0;
    if (!high) return Math.floor(low / 10) * 10 + 10;
    return high - low > 1 ? low + Math.floor((high - low) / 2) : 10 * (i + 2);
  }

  renumber(): Promise<boolean> {
    return this.session.try({ do: 'number_steps' });
  }

  name(step: string): string {
    return this.session.step(step)?.name ?? '';
  }

  names(steps: string[]): string {
    const all = steps.map((s) => this.name(s));
    return all.length > 3 ? `${all.slice(0, 3).join(', ')} and ${all.length - 3} more` : all.join(', ');
  }

  /** All that stand on some steps, straight or through others, in the order of the route. */
  standingOn(steps: string[]): string[] {
    const reached = new Set(steps);
    for (const s of this.session.steps)
      if (this.session.report(s.id)?.stands_on?.some((b) => reached.has(b))) reached.add(s.id);
    return this.session.steps.map((s) => s.id).filter((s) => reached.has(s) && !steps.includes(s));
  }

  // — changes that are foreseen before they are made —

  /** Do what is asked at once where nothing else stops or is held by it, else ask with what would happen. */
  private async propose(title: string, ways: Asked['ways'], always = false): Promise<void> {
    if (this.session.barred) return this.session.note(this.session.barred, true);
    const asked: Asked = { title, ways, way: 0, foreseen: null, trouble: '' };
    if (always) {
      this.asked = asked;
      return this.choose(0);
    }
    this.session.saving++; // whoever waits for it waits until it is made, or asked
    try {
      const foreseen = await this.foresee(ways[0].command);
      const amiss = foreseen?.steps.filter((s) => ['stopped', 'held'].includes(s.state) && s.was !== s.state);
      // What is suppressed comes back, and with it what pages hold.
      const lost = foreseen && ways[0].command.do !== 'set_suppressed' ? sayLost(foreseen) : [];
      if (amiss?.length || lost.length) this.asked = { ...asked, foreseen };
      else await this.carryOut(ways[0].command, (c) => this.session.try(c));
    } catch (error) {
      this.session.refused(error);
    } finally {
      this.session.saving--;
    }
  }

  private async foresee(command: Command): Promise<Foreseen | null> {
    const answer = await this.session.socket.ask({ type: 'foresee', command } as never);
    return answer.type === 'foreseen' ? answer : null;
  }

  /** Choose another way of what is asked; what that would do is looked up. */
  async choose(way: number): Promise<void> {
    const { asked } = this;
    if (!asked) return;
    const turned = (this.asked = { ...asked, way, foreseen: null, trouble: '' });
    try {
      const foreseen = await this.foresee(asked.ways[way].command);
      if (this.asked === turned) this.asked = { ...turned, foreseen };
    } catch (error) {
      if (this.asked === turned && error instanceof Refusal)
        this.asked = { ...turned, trouble: error.message };
    }
  }

  async accept(): Promise<void> {
    const { asked } = this;
    if (!asked) return;
    const { command } = asked.ways[asked.way];
    try {
      await this.carryOut(command, async (c) => (await this.session.command(c), true));
      this.asked = null;
    } catch (error) {
      this.asked = { ...asked, trouble: error instanceof Error ? error.message : String(error) };
    }
  }

  /** Make a change; steps that it deletes are no longer marked, and are told with the way back. */
  private async carryOut(command: Command, make: (command: Command) => Promise<boolean>): Promise<void> {
    const gone = command.do === 'remove_steps' ? command.steps : [];
    const names = this.names(gone);
    if (!(await make(command)) || !gone.length) return;
    this.marked = [];
    this.session.noteUndo(`${names} ${gone.length > 1 ? 'are' : 'is'} deleted.`);
  }

  /** Delete steps; where others stand on them it is asked how. */
  async remove(steps = this.needs('delete them')): Promise<void> {
    if (!steps.length) return;
    const others = this.standingOn(steps);
    const sketches = others.filter((s) => this.session.step(s)?.kind === 'sketch');
    const names = this.names(steps);
    if (!others.length) {
      const command: Command = { do: 'remove_steps', steps, values: {}, instead: '' };
      // Measures and pages may lose what they hold; where there are none, nothing needs to be looked up.
      if (this.session.part?.pages?.length || this.session.ledger.some((r) => r.kept))
        return this.propose(`Delete ${names}?`, [{ words: 'Delete', command }]);
      if (this.session.barred) return this.session.note(this.session.barred, true);
      return this.carryOut(command, (c) => this.session.try(c));
    }
    const built = others.filter((s) => !sketches.includes(s));
    const ways: Asked['ways'] = [
      this.removing(
        `Only ${steps.length > 1 ? 'these' : 'this'}; what stands on it is picked anew, one by one`,
        steps,
      ),
      this.removing(`With all that stands on it: ${this.names(others)}`, [...steps, ...others]),
    ];
    if (sketches.length && built.length)
      ways.push(
        this.removing(`With it, but keep the sketches: ${this.names(sketches)}`, [...steps, ...built]),
      );
    for (const s of this.others(steps, others)) {
      const way = this.removing(`Put ${s.name} in its place`, steps);
      ways.push({ ...way, command: { ...way.command, instead: s.id } as Command });
    }
    await this.propose(`Delete ${names}?`, ways, true);
  }

  /** Datums and sketches of the same kind that could take the place of one, before all that stands on it. */
  private others(steps: string[], standing: string[]): Step[] {
    const one = steps.length === 1 ? this.session.step(steps[0]) : undefined;
    const makes = this.on.about.kinds.find((k) => k.kind === one?.kind)?.makes;
    if (!one || (makes !== 'datum' && makes !== 'sketch')) return [];
    const first = this.session.steps.findIndex((s) => standing.includes(s.id));
    return this.session.steps
      .slice(0, first)
      .filter((s) => s.kind === one.kind && s.id !== one.id)
      .slice(-MOST_OTHERS);
  }

  /** The way of deleting some steps: formulas that use their dimensions take the values, which is told. */
  private removing(words: string, steps: string[]): Asked['ways'][number] {
    const left = new Set(this.session.ledger.filter((r) => !steps.includes(r.step)).map((r) => r.tag));
    const used = this.session.ledger.filter(
      (r) => steps.includes(r.step) && r.used_by.some((t) => left.has(t)),
    );
    const users = [...new Set(used.flatMap((r) => r.used_by.filter((t) => left.has(t))))];
    return {
      words: users.length
        ? `${words}. ${users.join(', ')}: the value in place of ${used.map((r) => r.tag).join(', ')}`
        : words,
      command: { do: 'remove_steps', steps, values: this.values(used), instead: '' },
    };
  }

  /** Values of tags as formulas that need no tag. */
  private values(rows: LedgerRow[]): Record<string, string> {
    const values: Record<string, string> = {};
    for (const row of rows) {
      const unit = { length: ' mm', angle: ' rad', count: '', share: '' }[row.kind as string];
      if (row.value !== null) values[row.tag] = unit === undefined ? row.shown : `${row.value}${unit}`;
    }
    return values;
  }

  async move(steps: string[], after: string): Promise<void> {
    if (steps.length)
      await this.propose(`Move ${this.names(steps)}?`, [
        { words: 'Move', command: { do: 'move_steps', steps, after } },
      ]);
  }

  /** Move what is meant one place up or down. */
  async moveBy(by: -1 | 1): Promise<void> {
    const steps = this.needs('move them');
    if (!steps.length) return;
    const ids = this.session.steps.map((s) => s.id);
    const places = steps.map((s) => ids.indexOf(s)).sort((a, b) => a - b);
    const to = by < 0 ? places[0] - 2 : places.at(-1)! + 1;
    if (by < 0 ? places[0] === 0 : to >= ids.length)
      return this.session.note('It is at the end of the route there.', true);
    await this.move(steps, to >= 0 ? ids[to] : '');
  }

  async suppress(steps = this.needs('suppress them')): Promise<void> {
    if (!steps.length) return;
    const suppressed = steps.some((s) => !this.session.step(s)?.suppressed);
    const word = suppressed ? 'Suppress' : 'Build again';
    await this.propose(`${word} ${this.names(steps)}?`, [
      { words: word, command: { do: 'set_suppressed', steps, suppressed } },
      ...(suppressed && this.standingOn(steps).length
        ? [
            {
              words: `With all that stands on it: ${this.names(this.standingOn(steps))}`,
              command: {
                do: 'set_suppressed',
                steps: [...steps, ...this.standingOn(steps)],
                suppressed,
              } as Command,
            },
          ]
        : []),
    ]);
  }

  /**
   * Why steps can not stand behind another ("" for the beginning); "" where they can, as far as that is told
   * by what stands on what.
   */
  why(steps: string[], after: string): string {
    const rest = this.session.steps.map((s) => s.id).filter((s) => !steps.includes(s));
    const at = after ? rest.indexOf(after) + 1 : 0;
    const order = [...rest.slice(0, at), ...steps, ...rest.slice(at)];
    for (const [i, s] of order.entries())
      for (const base of this.session.report(s)?.stands_on ?? [])
        if (order.indexOf(base) > i) return `${this.name(s)} stands on ${this.name(base)}.`;
    return '';
  }

  // — copies —

  /** Put copies of what is meant aside, to be pasted here or in another part. */
  copy(steps = this.needs('copy them')): void {
    if (!steps.length) return;
    const own = this.session.steps.filter((s) => steps.includes(s.id));
    const copied: Copied = {
      wendal: 'steps',
      part: this.session.id,
      steps: own,
      values: this.values(this.session.ledger),
    };
    try {
      localStorage.setItem(CLIPBOARD, JSON.stringify(copied));
      this.session.note(`${this.names(steps)} copied; r i puts copies in, here or in another part.`);
    } catch {
      this.session.note('These are too large to be copied by the browser; copy fewer steps at once.', true);
    }
  }

  async paste(): Promise<void> {
    if (this.session.barred) return this.session.note(this.session.barred, true);
    const text = localStorage.getItem(CLIPBOARD);
    if (!text) return this.session.note('Nothing is copied yet: mark steps, then r c.', true);
    const { part, steps, values } = JSON.parse(text) as Copied;
    const here = part === this.session.id;
    const after = this.meant.at(-1) ?? '';
    const before = new Set(this.session.steps.map((s) => s.id));
    if (!(await this.session.try({ do: 'paste_steps', steps, here, after, values: here ? {} : values })))
      return;
    this.marked = this.session.steps.map((s) => s.id).filter((s) => !before.has(s));
    this.session.noteUndo(
      here || !this.marked.length
        ? `${this.names(this.marked)} pasted.`
        : `${this.names(this.marked)} pasted; what they stood on there is picked anew here.`,
    );
  }

  // — headings and notes —

  group(): void {
    if (this.needs('put them under a heading').length) this.heading = '*';
  }

  async nameHeading(of: string, name: string): Promise<void> {
    if (this.heading !== of) return; // it was named already, by Enter
    this.heading = '';
    if (!name.trim() || name.trim() === of) return;
    const done = await this.session.try(
      of === '*'
        ? { do: 'group_steps', steps: this.meant, name }
        : { do: 'edit_group', name: of, to: name, folded: null, gone: false },
    );
    if (done) this.marked = [];
  }

  async note(step: string, text: string): Promise<void> {
    this.noting = '';
    if (text.trim() !== (this.session.part?.notes?.[step] ?? ''))
      await this.session.try({ do: 'set_note', step, note: text });
  }

  // — the past —

  /** Look one step further back or on. */
  roll(by: -1 | 1): void {
    const ids = this.session.steps.map((s) => s.id);
    if (!ids.length) return this.session.note('There is no step yet.', true);
    if (this.on.editing) this.on.stopEditing();
    const at = this.session.lookedAt;
    const now = at === null ? ids.length - 1 : ids.indexOf(at);
    const next = now + by;
    this.session.look(next >= ids.length - 1 ? null : next < 0 ? '' : ids[next]);
    document.querySelector(`[data-step="${ids[Math.max(next, 0)]}"]`)?.scrollIntoView({ block: 'nearest' });
  }

  /** Show every state of the route one after the other; again : leave it. */
  play(): void {
    clearInterval(this.timer);
    this.playing = !this.playing;
    if (!this.playing) return this.session.look(null);
    if (this.on.editing) this.on.stopEditing();
    this.session.look('');
    this.timer = window.setInterval(() => {
      if (this.session.turning) return; // what is looked at has not come yet
      this.roll(1);
      if (this.session.lookedAt === null) {
        clearInterval(this.timer);
        this.playing = false;
      }
    }, PACE);
  }

  /** Show what a step added and took away, after a moment over its number; "": nothing. */
  hover(step: string): void {
    clearTimeout(this.hovering);
    this.over = step;
    this.ghost = null;
    if (!step || this.on.editing) return;
    this.hovering = window.setTimeout(() => void this.show(step), REST);
  }

  private async show(step: string): Promise<void> {
    try {
      const answer = await this.session.socket.ask({
        type: 'preview',
        command: { do: 'edit_step', step, fields: {} },
        seek: false,
      });
      if (answer.type === 'preview' && this.over === step && !this.on.editing) this.ghost = answer.preview;
    } catch {
      // it is stopped, or another one was pointed at meanwhile: there is nothing to show
    }
  }

  toPresent(): void {
    clearInterval(this.timer);
    this.playing = false;
    this.session.look(null);
  }

  /** Go to the next step that is stopped or held. */
  nextAmiss(): void {
    const ids = this.session.steps.map((s) => s.id);
    const amiss = ids.filter((s) => ['stopped', 'held'].includes(this.session.report(s)?.state ?? ''));
    if (!amiss.length) return this.session.note('All steps are built, and all references are sound.');
    const from = ids.indexOf(this.last);
    const next = amiss.find((s) => ids.indexOf(s) > from) ?? amiss[0];
    this.last = next;
    this.marked = [next];
    document.querySelector(`[data-step="${next}"]`)?.scrollIntoView({ block: 'center' });
  }

  // — what made this —

  async whatMade(thing = this.on.picked[0]): Promise<void> {
    if (!thing || !['face', 'flat', 'edge', 'vertex', 'spot'].includes(thing.kind))
      return this.session.note('Pick a face, an edge or a corner to see what made it.', true);
    try {
      const answer = await this.session.socket.ask({
        type: 'ask',
        ask: { of: 'made', thing: thing.ref },
      } as never);
      if (answer.type === 'answer' && answer.answer.of === 'made')
        this.made = { of: thing.words, told: answer.answer };
    } catch (error) {
      this.session.refused(error);
    }
  }

  escape(): boolean {
    if (this.asked) this.asked = null;
    else if (this.noting || this.heading) [this.noting, this.heading] = ['', ''];
    else if (this.made) this.made = null;
    else if (this.aboutOpen) this.aboutOpen = false;
    else if (this.session.lookedAt !== null && !this.on.editing) this.toPresent();
    else if (this.filtering) [this.filtering, this.sought] = [false, ''];
    else if (this.marked.length) this.marked = [];
    else return false;
    return true;
  }
}
