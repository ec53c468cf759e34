/** A step being made or edited in its sentence: its fields, the blank that waits for a pick, the preview. */
import { Refusal, type Blank, type Command, type Kind, type PreviewShape, type Step, type StepState } from '../api/types';
import { standsFor, type Thing } from '../stage/things';
import type { Session } from './session.svelte';

const PREVIEW_MS = 90;

export type Trouble = { message: string; field: string };

export class Editing {
  fields = $state<Record<string, unknown>>({});
  active = $state('');
  preview = $state.raw<PreviewShape | null>(null);
  report = $state.raw<StepState | null>(null);
  trouble = $state<Trouble | null>(null);
  waiting = $state(false);
  /** What each picked reference is called, by its JSON. */
  private words = new Map<string, string>();
  private timer = 0;
  private asked = 0;

  constructor(
    private session: Session,
    readonly kind: Kind,
    /** The step that is edited, or "" for a new one. */
    readonly step: string,
    existing: Step | null,
    picks: Thing[],
  ) {
    for (const [name, blank] of this.blanks) {
      const held = existing ? existing[name] : blank.sort === 'number' ? { formula: blank.start, tag: '' } : blank.default;
      this.fields[name] = structuredClone($state.snapshot(held)) ?? (blank.many ? [] : blank.sort === 'name' ? '' : null);
    }
    if (!existing) this.guess(picks);
    for (const thing of picks) this.pick(thing, true);
    this.next();
    this.refresh();
  }

  /** A new step that builds adds to the only body there is, when there is one. */
  private guess(picks: Thing[]): void {
    const bodies = this.session.scene?.bodies ?? [];
    const target = Object.entries(this.kind.blanks).find(([, b]) => b.accepts?.includes('body'));
    if (!target || !bodies.length || picks.some((p) => p.sort === 'face')) return;
    const choice = Object.entries(target[1].when)[0];
    if (choice) this.fields[choice[0]] = choice[1][0];
    this.fields[target[0]] = { of: 'body', body: bodies[0].id };
  }

  get blanks(): [string, Blank][] {
    return Object.entries(this.kind.blanks);
  }

  asks(blank: Blank): boolean {
    return Object.entries(blank.when).every(([name, values]) => values.includes(String(this.fields[name])));
  }

  empty(name: string): boolean {
    const held = this.fields[name];
    return held === null || held === '' || (Array.isArray(held) && held.length === 0);
  }

  /** What is still needed, in words. */
  get missing(): string[] {
    return this.blanks.filter(([n, b]) => b.sort === 'pick' && this.asks(b) && this.empty(n)).map(([, b]) => b.needs ?? b.label);
  }

  get accepts(): string[] {
    const active = this.kind.blanks[this.active];
    return active?.accepts ?? this.blanks.flatMap(([, b]) => (this.asks(b) ? (b.accepts ?? []) : []));
  }

  /** Go to the first pick that is still empty. */
  private next(): void {
    this.active = this.blanks.find(([n, b]) => b.sort === 'pick' && this.asks(b) && this.empty(n))?.[0] ?? this.active;
  }

  /** Put a picked thing where it fits: the active blank, else the first that takes it. Says whether it fitted. */
  pick(thing: Thing, quiet = false): boolean {
    const order = [...this.blanks].sort(([a], [b]) => Number(b === this.active) - Number(a === this.active));
    for (const [name, blank] of order) {
      const ref = blank.sort === 'pick' && this.asks(blank) ? standsFor(thing, blank.accepts ?? []) : null;
      if (!ref) continue;
      if (blank.many) this.toggle(name, ref);
      else this.fields[name] = ref;
      this.words.set(identity(ref), thing.words);
      if (!quiet) {
        if (!blank.many) this.next();
        this.refresh();
      }
      return true;
    }
    return false;
  }

  private toggle(name: string, ref: Record<string, unknown>): void {
    const held = this.fields[name] as Record<string, unknown>[];
    const same = held.findIndex((r) => identity(r) === identity(ref));
    if (same >= 0) this.fields[name] = held.filter((_, i) => i !== same);
    else {
      let n = 1;
      while (held.some((r) => r.key === `r${n}`)) n++;
      this.fields[name] = [...held, { ...ref, key: `r${n}` }];
    }
  }

  /** Say what a blank holds: "region of Outline", "3 regions". */
  say(name: string): string {
    const blank = this.kind.blanks[name];
    const held = this.fields[name];
    return sayHeld(blank, held, this.session, this.words);
  }

  set(name: string, value: unknown): void {
    this.fields[name] = value;
    this.trouble = null;
    this.next();
    this.refresh();
  }

  clear(name: string): void {
    this.fields[name] = this.kind.blanks[name].many ? [] : null;
    this.active = name;
    this.refresh();
  }

  /** The other answer: turn the first choice that tells a side or direction. */
  other(): void {
    const found = this.blanks.find(([, b]) => b.sort === 'choice' && this.asks(b));
    if (!found) return;
    const values = Object.keys(found[1].words ?? {});
    const i = values.indexOf(String(this.fields[found[0]]));
    this.set(found[0], values[(i + 1) % values.length]);
  }

  private command(): Command {
    const fields = $state.snapshot(this.fields) as Record<string, unknown>;
    if (this.step) return { do: 'edit_step', step: this.step, fields };
    return { do: 'add_step', step: { kind: this.kind.kind, ...fields }, after: '' } as Command;
  }

  /** Ask for the preview, a moment after the last change. */
  refresh(): void {
    clearTimeout(this.timer);
    if (this.missing.length) {
      this.preview = this.report = null;
      this.trouble = null;
      this.waiting = false;
      this.asked++;
      return;
    }
    this.waiting = true;
    this.timer = window.setTimeout(() => void this.ask(), PREVIEW_MS);
  }

  private async ask(): Promise<void> {
    const number = ++this.asked;
    try {
      const answer = await this.session.socket.ask({ type: 'preview', command: this.command() } as never);
      if (number !== this.asked || answer.type !== 'preview') return;
      [this.preview, this.report] = [answer.preview, answer.report];
      this.trouble = answer.report.state === 'stopped' ? { message: answer.report.message, field: answer.report.field } : null;
    } catch (error) {
      if (number !== this.asked) return;
      this.fail(error);
    }
    this.waiting = false;
  }

  private fail(error: unknown): void {
    this.preview = null;
    if (error instanceof Refusal) this.trouble = { message: error.message, field: error.field };
    else this.session.refused(error);
  }

  /** Keep the step; returns its id, or null when it was refused (the text stays as typed). */
  async accept(): Promise<string | null> {
    if (this.missing.length) {
      this.trouble = { message: `This still needs ${this.missing.join(' and ')}.`, field: this.active };
      return null;
    }
    clearTimeout(this.timer);
    try {
      this.waiting = true;
      return await this.session.command(this.command());
    } catch (error) {
      this.fail(error);
      return null;
    } finally {
      this.waiting = false;
    }
  }

  close(): void {
    clearTimeout(this.timer);
    this.asked++;
  }
}

/** The parts of a reference that tell one thing from another. */
function identity(ref: Record<string, unknown>): string {
  const { near: _near, inside: _inside, beside: _beside, key: _key, ...rest } = ref;
  return JSON.stringify(rest, Object.keys(rest).sort());
}

/** Say what a pick blank holds. */
export function sayHeld(blank: Blank, held: unknown, session: Session, words?: Map<string, string>): string {
  const items = (Array.isArray(held) ? held : held ? [held] : []) as Record<string, unknown>[];
  if (!items.length) return blank.label;
  const name = (step: unknown) => session.step(String(step))?.name ?? 'a deleted step';
  const one = (ref: Record<string, unknown>): string => {
    if (ref.of === 'base') return String(ref.name);
    if (ref.of === 'datum') return name(ref.step);
    if (ref.of === 'body') return name(ref.body);
    if (ref.of === 'region') return `1 region of ${name(ref.step)}`;
    const known = words?.get(identity(ref));
    if (known) return known;
    const [step, role] = String((ref.names as string[])[0]).split('/');
    const roles: Record<string, string> = { start: 'first end', end: 'far end', side: 'a side' };
    return `${roles[role] ?? role} of ${name(step)}`;
  };
  if (items.length === 1) return one(items[0]);
  return `${items.length} regions of ${[...new Set(items.map((r) => name(r.step)))].join(', ')}`;
}
