/**
 * A step being made or edited in its sentence: its fields, the blanks that wait for picks, the ways it can be
 * made.
 */
import type { Blank, Command, Kind, Offer, Step, Variant } from '../api/types';
import { isOneOf, standsFor, type Thing } from '../stage/things';
import { asked } from '../ui/sentence';
import { Outlook } from './outlook.svelte';
import { Past } from './past';
import { identity, saidOf, sayHeld } from './saying';
import type { Session } from './session.svelte';

export class Editing {
  fields = $state<Record<string, unknown>>({});
  active = $state('');
  readonly outlook: Outlook;
  /** Other ways to make a step of the present picks. */
  ways = $state.raw<Offer[]>([]);
  /** The picks so far, in their order, while a new step may still become one of several. */
  private picks = $state.raw<Thing[]>([]);
  /** The designer chose the way, or the blank: picks no longer change it. */
  private settled = false;
  /** The blank that the designer pointed at. */
  private aimed = '';
  /** What each picked reference is called, by its JSON. */
  private words = new Map<string, string>();
  /** The step as it was when its editing began, or as it was last taken over. */
  private base = $state('');
  /** The number that typing goes to, and a count of how often it was asked for: each time it is selected. */
  number = $state('');
  wanted = $state(0);
  /** The name is to be typed next, once. */
  naming = false;
  /** How often the server is asked for the way that takes the picks. */
  deciding = $state(0);
  /** What was typed before there was a field for it. */
  ahead = $state('');
  /** The number that was typed last while the way was not certain yet, and what it was. */
  private entered: { name: string; formula: string } | null = null;

  constructor(
    private session: Session,
    readonly kind: Kind,
    /** The step that is edited, or "" for a new one. */
    readonly step: string,
    existing: Step | null,
    picks: Thing[],
    private facing: () => number[],
    how = '',
    /** The number that was clicked to begin with. */
    number = '',
  ) {
    this.outlook = new Outlook(session);
    this.base = told(existing);
    if (existing) this.words = saidOf(existing, session);
    if ('' in kind.variants === false)
      this.fields.how = existing?.how ?? (how || Object.keys(kind.variants)[0]);
    this.fill(existing);
    if (!existing) this.guess(picks);
    if (how && picks.length) this.settled = true;
    if (how === 'spot' && picks.length < 3) picks = []; // its blanks are put by whoever begins it
    if (existing || !picks.length || this.single) {
      this.next();
      for (const thing of picks) this.pick(thing, true);
      this.next();
      if (!this.missing.length) this.active = ''; // nothing is waited for: a pick goes wherever it fits
      this.refresh();
    } else {
      this.picks = picks;
      // What is typed while the server looks for the way goes along to it, and is not selected away.
      void this.refit(how).then(() => this.typed || this.ask());
    }
    this.naming = number === 'name';
    this.ask(number);
  }

  /**
   * Select a number, so that what is typed goes there: the one asked for last, else the first of the
   * sentence; tell whether there is one.
   */
  ask(name = ''): boolean {
    this.number = this.wantedNumber(name);
    this.wanted++;
    return !!this.number;
  }

  /** The numbers that the sentence asks for now, in its order. */
  get numbers(): string[] {
    return [...this.variant.sentence.matchAll(/\{(\w+)\}/g)]
      .map((m) => m[1])
      .filter((n) => this.variant.blanks[n]?.kind === 'number' && this.asks(this.variant.blanks[n]));
  }

  /** The number that what is typed goes to now, or "". */
  wantedNumber(name = ''): string {
    const { numbers } = this;
    return [name, this.number].find((n) => n && numbers.includes(n)) ?? numbers[0] ?? '';
  }

  /** A number was typed. */
  enter(name: string, formula: string): void {
    this.entered = { name, formula };
    this.set(name, { ...(this.fields[name] as object), formula });
  }

  /** What was typed into a number that another way does not ask for goes to the one that it asks for. */
  private carry(): void {
    const { entered, numbers } = this;
    if (!entered || !numbers.length || numbers.includes(entered.name)) return;
    const [first] = numbers;
    this.fields[first] = { ...(this.fields[first] as object), formula: entered.formula };
    this.entered = { name: first, formula: entered.formula };
    this.number = first;
  }

  private get single(): boolean {
    return '' in this.kind.variants;
  }
  get how(): string {
    return String(this.fields.how ?? '');
  }
  get variant(): Variant {
    return this.kind.variants[this.how] ?? Object.values(this.kind.variants)[0];
  }
  get blanks(): [string, Blank][] {
    return Object.entries(this.variant.blanks);
  }

  /** Give every blank of the variant a value: the step's own, else its start. */
  private fill(existing: Step | null): void {
    for (const [name, blank] of this.blanks) {
      if (!existing && name in this.fields) continue;
      const held = existing
        ? existing[name]
        : blank.kind === 'number'
          ? { formula: blank.start, tag: '' }
          : blank.kind === 'facing'
            ? this.facing()
            : blank.default;
      if (
        !existing &&
        blank.optional &&
        blank.accepts?.includes('system') &&
        this.session.part?.active_system
      ) {
        this.fields[name] = { of: 'datum', step: this.session.part.active_system, index: 0 };
        continue;
      }
      this.fields[name] =
        structuredClone($state.snapshot(held)) ??
        (blank.many || blank.kind === 'dots'
          ? []
          : blank.kind === 'name' || blank.kind === 'words'
            ? ''
            : null);
    }
  }

  /** A new step that builds adds to the body there is; a step on one body takes the only one. */
  private guess(picks: Thing[]): void {
    const bodies = this.session.scene?.bodies ?? [];
    if (!bodies.length) return;
    const solid = bodies.filter((b) => !b.mass.sheet);
    const only = bodies.length === 1 ? { of: 'body', body: bodies[0].id } : null;
    const target = this.blanks.find(([, b]) => b.accepts?.includes('body') && b.when.result);
    if (target && solid.length && !picks.some((p) => p.kind === 'face')) {
      this.fields.result = target[1].when.result[0];
      if (solid.length === 1) this.fields[target[0]] = [{ of: 'body', body: solid[0].id }];
    }
    const single = this.blanks.find(([n, b]) => n === 'body' && !b.many);
    if (single && only) this.fields[single[0]] = only;
  }

  asks(blank: Blank): boolean {
    return asked(this.variant.blanks, blank, this.fields);
  }

  /** Take the value with which a step that stopped was found to work. */
  takeOffer(): void {
    const { field, offer } = this.outlook.trouble ?? {};
    if (field && offer && this.variant.blanks[field]?.kind === 'number')
      this.set(field, { ...(this.fields[field] as object), formula: offer });
  }

  /** Have the largest size that works looked for. */
  seek(): void {
    this.outlook.trouble = null;
    this.outlook.seek(this.command());
  }

  /** Clauses that could be added to the sentence. */
  get clauses(): [string, Blank][] {
    return this.blanks.filter(([n, b]) => b.clause && this.fields[n] === '' && this.asks(b));
  }

  /** Add a clause, or take it away again. */
  clause(name: string, on: boolean): void {
    const values = Object.keys(this.variant.blanks[name].words ?? {});
    this.set(name, on ? values.find((v) => v) : '');
    const first = this.blanks.find(([, b]) => b.kind === 'number' && b.when[name] && this.asks(b));
    this.ask(on && first ? first[0] : '');
  }

  /** A copy's dot was clicked: it is left out, or taken in again. */
  toggleDot(number: string): void {
    const name = this.blanks.find(([, b]) => b.kind === 'dots')?.[0];
    if (!name) return;
    const held = this.fields[name] as string[];
    this.set(name, held.includes(number) ? held.filter((n) => n !== number) : [...held, number]);
    this.ask();
  }
  get leftOut(): string[] {
    const name = this.blanks.find(([, b]) => b.kind === 'dots')?.[0];
    return name ? (this.fields[name] as string[]) : [];
  }

  empty(name: string): boolean {
    const held = this.fields[name];
    return held === null || held === undefined || held === '' || (Array.isArray(held) && held.length === 0);
  }

  private open(name: string, blank: Blank): boolean {
    return blank.kind === 'pick' && this.asks(blank) && this.empty(name);
  }

  /** What is still needed, in words. */
  get missing(): string[] {
    const all = this.blanks
      .filter(([n, b]) => this.open(n, b) && !b.optional)
      .map(([, b]) => b.needs || b.label);
    return [...new Set(all)].map((w) =>
      all.filter((x) => x === w).length > 1 ? `${w} (${all.filter((x) => x === w).length} of them)` : w,
    );
  }

  /**
   * What a pick may be: what the active blank takes; for a new step of several ways, whatever any of them
   * takes.
   */
  get accepts(): string[] {
    if (!this.settled && !this.step && !this.single)
      return Object.values(this.kind.variants).flatMap((v) =>
        Object.values(v.blanks).flatMap((b) => b.accepts ?? []),
      );
    const active = this.variant.blanks[this.active];
    if (!active?.accepts) return this.blanks.flatMap(([, b]) => (this.asks(b) ? this.fitting(b) : []));
    if (this.aimed === this.active) return this.fitting(active);
    // Where it takes many, what is needed besides can be picked, too; what was presumed can be replaced.
    const needed = this.blanks.filter(([n, b]) => n === this.presumed || (this.open(n, b) && !b.optional));
    return [...this.fitting(active), ...needed.flatMap(([, b]) => this.fitting(b))];
  }

  /** What fits a blank with the present choices. */
  private fitting(blank: Blank): string[] {
    const more = Object.entries(blank.accepts_with ?? {}).filter(([, when]) =>
      Object.entries(when).every(([n, values]) => values.includes(String(this.fields[n]))),
    );
    return [...(blank.accepts ?? []), ...more.map(([facet]) => facet)];
  }

  /** Go to the first pick that is still empty. */
  private next(): void {
    this.active = this.blanks.find(([n, b]) => this.open(n, b) && !b.optional)?.[0] ?? this.active;
  }

  /** The designer points at a blank: the next pick goes there. */
  aim(name: string): void {
    this.active = this.aimed = name;
    this.settled = true;
  }

  /** How often something was typed or chosen. */
  private typed = 0;
  /** How often something was picked for it. */
  private handed = 0;
  /** What it was before each change. */
  private readonly past = new Past();

  private remember(of: string): void {
    this.past.keep(of, this.active, this.picks, () => $state.snapshot(this.fields));
  }

  /** A number was left: what is typed into it again is another change. */
  pause(): void {
    this.past.pause();
  }

  /** Take back the last change in hand; tells whether there was one. */
  undo(): boolean {
    const last = this.past.back();
    if (!last) return false;
    this.fields = last.fields;
    [this.active, this.picks, this.entered] = [last.active, last.picks, null];
    this.outlook.trouble = null;
    this.refresh();
    this.ask();
    return true;
  }
  /** Whether a number is being typed. */
  get typing(): boolean {
    return this.entered !== null;
  }

  /** Put a picked thing where it fits. Says whether it found a place. */
  pick(thing: Thing, quiet = false): boolean {
    this.handed++;
    if (!quiet) this.remember('');
    if (!quiet && !this.settled && !this.step && !this.single) {
      this.picks = this.picks.some((p) => p.key === thing.key)
        ? this.picks.filter((p) => p.key !== thing.key)
        : [...this.picks, thing].slice(-3);
      // What is typed while the server looks for the way is not selected away again.
      const typed = this.typed;
      this.ask();
      void this.refit().then(() => typed === this.typed && this.ask());
      return true;
    }
    const place = (name: string) => this.variant.sentence.indexOf(`{${name}}`);
    const order = this.blanks
      .filter(([, b]) => b.kind === 'pick' && this.asks(b))
      .sort(([a, p], [b, q]) => this.order(b, q, thing) - this.order(a, p, thing) || place(a) - place(b));
    for (const [name, blank] of order) {
      const ref = standsFor(thing, this.fitting(blank));
      if (!ref || (this.awaits(name) && !this.is(thing, blank))) continue;
      if (this.presumed === name) [this.fields[name], this.presumed] = [[], ''];
      if (blank.many) this.toggle(name, ref);
      else this.fields[name] = ref;
      this.words.set(identity(ref), thing.brief ?? thing.words);
      if (!blank.many) this.aimed = '';
      if (!blank.many) this.next();
      if (!quiet) {
        this.refresh();
        this.ask();
      }
      return true;
    }
    this.handed--;
    if (!quiet) this.past.back();
    return false;
  }

  /** The blank that was filled with what is likely meant: the first pick for it takes that one's place. */
  private presumed = '';
  presume(thing: Thing): void {
    const found = this.blanks.find(([, b]) => b.many && this.asks(b) && standsFor(thing, b.accepts ?? []));
    if (!found || !this.empty(found[0])) return;
    this.toggle(found[0], standsFor(thing, found[1].accepts ?? [])!);
    this.words.set(identity(thing.ref), thing.words);
    this.presumed = found[0];
    this.next();
    this.refresh();
    this.ask();
  }

  /** Put everything that a box or lasso caught into the blank that takes many of it; what is there stays. */
  catch(things: Thing[]): void {
    this.handed++;
    this.remember('');
    for (const thing of things) {
      const held = this.blanks.find(([, b]) => b.many && this.asks(b) && standsFor(thing, b.accepts ?? []));
      const ref = held && standsFor(thing, held[1].accepts ?? []);
      if (
        !ref ||
        (this.fields[held[0]] as Record<string, unknown>[]).some((r) => identity(r) === identity(ref))
      )
        continue;
      this.toggle(held[0], ref);
      this.words.set(identity(ref), thing.brief ?? thing.words);
    }
    if (things.length) this.refresh();
    this.ask();
  }

  /**
   * How well a pick fits a blank: best the one that the designer points at, then an empty one that must be
   * filled, then the one that is filled at present. What a thing is counts more than what it can stand for.
   */
  private order(name: string, blank: Blank, thing: Thing): number {
    if (name === this.aimed) return 100;
    const going = name === this.active && !!blank.many;
    const empty = this.empty(name) && (blank.optional ? 2 : 4);
    return (this.is(thing, blank) ? 10 : 0) + (going ? 3 : empty || (blank.many ? 1 : 0));
  }

  private is(thing: Thing, blank: Blank): boolean {
    return thing.kind !== 'sketch' && isOneOf(thing, this.fitting(blank));
  }

  /** Whether a blank is filled while another one that is needed waits. */
  private awaits(name: string): boolean {
    return (
      name !== this.aimed &&
      !this.empty(name) &&
      this.blanks.some(([n, b]) => n !== name && this.open(n, b) && !b.optional)
    );
  }

  /** Find the likeliest way that takes all picks so far, and put them in their places. */
  private async refit(how = ''): Promise<void> {
    this.deciding++;
    try {
      await this.fitted(how);
    } finally {
      this.deciding--;
    }
  }

  private async fitted(how: string): Promise<void> {
    const picks = this.picks;
    for (const [name, b] of this.blanks) if (b.kind === 'pick') this.fields[name] = null;
    if (!picks.length) {
      this.ways = [];
      this.next();
      return this.refresh();
    }
    const answer = await this.session.socket
      .ask({ type: 'offers', picks: picks.map((p) => p.facets), kinds: [this.kind.kind as 'plane'] })
      .catch((e) => this.session.refused(e));
    if (picks !== this.picks || answer?.type !== 'offers') return;
    this.ways = answer.offers;
    const found =
      answer.offers.find((o) => o.how === (how || this.how) && !o.needs.length) ??
      answer.offers.find((o) => o.how === how) ??
      answer.offers[0];
    if (found) this.take(found);
    else {
      // The last pick finds no place beside the others: say why, and leave it out.
      this.picks = picks.slice(0, -1);
      this.session.note(Object.values(answer.why)[0] ?? 'This fits no way to make this step.', true);
      if (this.picks.length) return this.refit();
      this.next();
      this.refresh();
    }
  }

  /** What has been picked for it, to be shown. */
  get things(): Thing[] {
    return this.picks;
  }

  /** Fill several blanks at once. */
  put(fields: Record<string, unknown>): void {
    this.handed++;
    this.remember('');
    this.settled = true;
    Object.assign(this.fields, fields);
    this.next();
    this.refresh();
  }

  /** Take one way to make the step with the present picks. */
  take(way: Offer): void {
    this.fields.how = way.how;
    this.fill(null);
    this.fields.answer = 0;
    for (const [name, i] of Object.entries(way.fills)) {
      const thing = this.picks[i];
      const ref = standsFor(thing, this.variant.blanks[name].accepts ?? []);
      this.fields[name] = ref;
      if (ref) this.words.set(identity(ref), thing.brief ?? thing.words);
    }
    this.carry();
    this.next();
    this.refresh();
  }

  /** Choose a way by its name; picks that fit keep their places. */
  choose(how: string): void {
    this.remember('');
    const way = this.ways.find((w) => w.how === how);
    if (way) return this.take(way);
    const held = this.picks;
    this.fields.how = how;
    this.fill(null);
    for (const [name, b] of this.blanks) if (b.kind === 'pick') this.fields[name] = null;
    this.fields.answer = 0;
    this.settled = true;
    for (const thing of held) this.pick(thing, true);
    this.carry();
    this.next();
    this.refresh();
  }

  private toggle(name: string, ref: Record<string, unknown>): void {
    // A region in place of its whole sketch, or the sketch in place of its regions: never both.
    const other = { sketch: 'region', region: 'sketch' }[String(ref.of)];
    const held = (this.fields[name] as Record<string, unknown>[]).filter(
      (r) => !(other && r.of === other && r.step === ref.step),
    );
    const same = held.findIndex((r) => identity(r) === identity(ref));
    if (same >= 0) this.fields[name] = held.filter((_, i) => i !== same);
    else {
      const profile = this.variant.blanks[name].accepts?.includes('region');
      this.fields[name] = [...held, profile ? { ...ref, key: '' } : ref];
    }
  }

  /** Say what a blank holds: "region of Outline", "3 regions". */
  say(name: string): string {
    return sayHeld(this.variant.blanks[name], this.fields[name], this.session, this.words);
  }

  set(name: string, value: unknown): void {
    this.remember(this.variant.blanks[name]?.kind === 'number' ? name : '');
    this.typed++;
    this.fields[name] = value;
    this.outlook.trouble = null;
    this.next();
    this.refresh();
  }

  clear(name: string): void {
    this.remember('');
    this.fields[name] = this.variant.blanks[name].many ? [] : null;
    this.aim(name);
    this.refresh();
  }

  /** How many answers there are to choose from. */
  get answers(): number {
    return this.outlook.report?.answers ?? 1;
  }

  /** The other answer: of several, the next; else turn the first choice that tells a side or direction. */
  other(): void {
    if (this.answers > 1) return this.set('answer', (Number(this.fields.answer) + 1) % this.answers);
    const found = this.turning;
    if (!found) return;
    const [name, blank] = found;
    const values = blank.turns?.length ? blank.turns : Object.keys(blank.words ?? {});
    this.set(
      name,
      blank.turns?.length
        ? turnedTo(values, String(this.fields[name]))
        : values[(values.indexOf(String(this.fields[name])) + 1) % values.length],
    );
  }

  /** The choice that the other answer turns. */
  get turning(): [string, Blank] | undefined {
    const there = this.blanks.filter(
      ([n, b]) =>
        b.kind === 'choice' && n !== 'more' && !(n === 'way' && this.empty('along')) && this.asks(b),
    );
    const place = (name: string) => this.variant.sentence.indexOf(`{${name}}`);
    there.sort(([a], [b]) => place(a) - place(b)); // as the sentence says them
    if (!there.some(([, b]) => b.turns?.length)) return this.kind.group === 'build' ? undefined : there[0];
    return there.find(([n, b]) => b.turns?.includes(String(this.fields[n])));
  }

  private command(): Command {
    const all = $state.snapshot(this.fields) as Record<string, unknown>;
    const fields = Object.fromEntries(
      Object.entries(all).filter(([n]) => n === 'how' || n in this.variant.blanks),
    );
    if (this.step) return { do: 'edit_step', step: this.step, fields };
    return {
      do: 'add_step',
      step: { kind: this.kind.kind, ...fields },
      after: '',
      looks: [],
      painted: [],
    } as Command;
  }

  /** What became of the step elsewhere while it is edited here: another window changed it, or deleted it. */
  get meanwhile(): '' | 'changed' | 'deleted' {
    if (!this.step || this.session.saving) return '';
    const now = this.session.step(this.step);
    return !now ? 'deleted' : told(now) === this.base ? '' : 'changed';
  }

  /** Go on with the step as it stands elsewhere. */
  takeTheirs(): void {
    const now = this.session.step(this.step);
    if (!now) return;
    this.base = told(now);
    if (!('' in this.kind.variants)) this.fields.how = now.how;
    this.fill(now);
    this.next();
    this.refresh();
    this.ask();
  }

  /** Stay with what stands here; accepting it replaces what the other window made. */
  keepMine(): void {
    this.base = told(this.session.step(this.step) ?? null);
    this.ask();
  }

  /** Whether something in it would be lost with it: a pick, a number, a choice. */
  get touched(): boolean {
    return this.typed + this.handed > 0;
  }

  /** What it is called: its name, or its kind. */
  get title(): string {
    return String(this.fields.name || '') || this.kind.title;
  }

  /** Ask what it would come to, as far as it is filled in. */
  refresh(): void {
    if (this.missing.length) this.outlook.clear();
    else this.outlook.ask(() => this.command(), !this.step);
  }

  /** Take over the choices and numbers of another step of the kind; its picks and its name are its own. */
  like(other: Editing): void {
    for (const [name, blank] of this.blanks)
      if (['number', 'choice', 'words'].includes(blank.kind))
        this.fields[name] = $state.snapshot(other.fields[name]);
    for (const [name, blank] of this.blanks) {
      if (blank.kind === 'number')
        this.fields[name] = { formula: (this.fields[name] as { formula: string }).formula, tag: '' };
      if (blank.accepts?.includes('body')) this.fields[name] = $state.snapshot(other.fields[name]);
    }
    this.next();
    this.refresh();
    this.ask();
  }

  /** Keep the step; returns its id, or null when it was refused (the text stays as typed). */
  async accept(): Promise<string | null> {
    if (this.missing.length) {
      this.outlook.trouble = {
        message: `This still needs ${this.missing.join(' and ')}.`,
        field: this.active,
      };
      return null;
    }
    this.outlook.stop();
    const typed = this.typed;
    try {
      this.outlook.waiting = true;
      return await this.session.command(this.command());
    } catch (error) {
      if (typed !== this.typed) {
        this.refresh(); // typed on meanwhile: what was refused is no more, and what stands there stays
        return null;
      }
      this.outlook.fail(error);
      this.ask(this.outlook.trouble?.field ?? '');
      return null;
    } finally {
      this.outlook.waiting = false;
    }
  }

  close(): void {
    this.outlook.stop();
  }
}

/** A step's own content, without what only tells how it is shown. */
function told(step: Step | null): string {
  return JSON.stringify(step && { ...step, visible: true });
}

/** The value that answers a value the other way round: they stand in pairs. */
function turnedTo(pairs: string[], value: string): string {
  const i = pairs.indexOf(value);
  return pairs[i % 2 ? i - 1 : i + 1];
}
