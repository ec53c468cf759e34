/** A tool that is being filled in: its slots, its fields, and how it would turn out. */
import type { Flat } from '../api/types';
import { FORMS, type Field, type FormTool, type Slot } from './forms';
import { AXES, distance, type Snap } from './geometry';
import type { Edit, Trial } from './trial.svelte';

export class Form {
  readonly tool: FormTool;
  slot = $state(0);
  /** How often its first number was asked for; each time it is selected. */
  asked = $state(0);
  picks = $state.raw<Record<string, string[]>>({});
  at = $state.raw<Record<string, Flat>>({});
  values = $state<Record<string, string>>({});
  /** Places given in place of the first slot, and the one under the pointer that would be the last. */
  places = $state.raw<Snap[]>([]);
  private aim = $state.raw<Snap | null>(null);
  /** What the line between the places is drawn as: "horizontal", "vertical" or neither. */
  private level = '';

  constructor(
    readonly name: string,
    private trial: Trial,
    private kind: (e: string) => string,
    private place: (e: string) => Flat | null,
    private chain: (e: string) => string[],
    fonts: Record<string, string>,
  ) {
    this.tool = {
      ...FORMS[name],
      fields: FORMS[name].fields.map((f) => (f.name === 'font' ? { ...f, choices: fonts } : f)),
    };
    this.picks = Object.fromEntries(this.tool.slots.map((s) => [s.name, []]));
    this.values = Object.fromEntries(this.tool.fields.map((f) => [f.name, f.start]));
  }

  /**
   * Take what was picked before the tool was taken in hand; the last line or point goes to a slot of its own.
   */
  begin(picked: string[], at: Record<string, Flat>): void {
    const [first, second] = this.tool.slots;
    const rest = picked.filter((e) => this.fits(first, e));
    const last = picked.at(-1);
    if (second && rest.length > 1 && last && this.fits(second, last) && second.needs) {
      this.picks = { ...this.picks, [first.name]: rest.filter((e) => e !== last), [second.name]: [last] };
    } else
      this.picks = {
        ...this.picks,
        [first.name]: this.name === 'offset' ? [...new Set(rest.flatMap(this.chain))] : rest,
      };
    if (!first.many) this.picks = { ...this.picks, [first.name]: this.picks[first.name].slice(-1) };
    if (this.tool.suits && this.picks[first.name].length)
      this.values = { ...this.values, ...this.tool.suits(this.kind(this.picks[first.name][0])) };
    this.at = { ...at };
    this.slot = second?.needs && this.picks[first.name].length && !this.picks[second.name].length ? 1 : 0;
    this.changed();
  }

  ask(): void {
    this.asked++;
  }

  get active(): Slot {
    return this.tool.slots[this.slot];
  }
  get fields(): Field[] {
    return this.tool.fields.filter((f) => !f.when || f.when[1].includes(this.values[f.when[0]]));
  }
  get missing(): string {
    if (this.places.length)
      return this.places.length < this.tool.places! ? 'where the base line ends' : this.unwritten;
    return this.tool.slots.find((s) => s.needs && !this.picks[s.name].length)?.needs ?? this.unwritten;
  }
  /**
   * What comes next, in words with their verb: what is clicked goes to the slot that waits, and typing to its
   * words.
   */
  get asks(): string {
    const next = this.tool.slots[this.slot + 1];
    if (
      !this.places.length &&
      this.active.many &&
      this.picks[this.active.name].length &&
      next?.needs &&
      !this.picks[next.name].length
    )
      return `pick more, or press “${next.label}” and pick ${next.needs}`;
    if (!this.missing) return this.tool.places ? 'Accept, or click anew' : 'Accept, or pick more';
    return `${this.missing === this.unwritten ? 'type' : this.places.length ? 'click' : 'pick'} ${this.missing}`;
  }
  private get unwritten(): string {
    const field = this.fields.find((f) => f.wide && !this.values[f.name].trim());
    return field ? `its ${field.label}` : '';
  }

  /** Whether a click is to give a place rather than to pick. */
  givesPlace(entity: string): boolean {
    return (
      !!this.tool.places &&
      (this.places.length > 0 || !!AXES[entity] || !this.fits(this.tool.slots[0], entity))
    );
  }

  /** A place under the pointer, and a place that is given. */
  aimAt(snap: Snap, level: string): void {
    this.aim = snap;
    if (this.places.length === 1) {
      this.level = level;
      this.changed();
    }
  }
  givePlace(snap: Snap): void {
    const slot = this.tool.slots[0].name;
    this.picks = { ...this.picks, [slot]: [] };
    this.places = this.places.length < this.tool.places! ? [...this.places, snap] : [snap];
    this.changed();
    this.ask();
  }
  /** Esc: take the places back; returns whether there were any. */
  takeBack(): boolean {
    const had = this.places.length > 0;
    this.places = [];
    if (had) this.changed();
    return had;
  }
  get all(): string[] {
    return Object.values(this.picks).flat();
  }

  private fits = (slot: Slot, e: string) => (slot.kinds as string[]).includes(this.kind(e));

  /** Put a thing into the active slot, or take it out again; says why it does not fit. */
  pick(entity: string, at: Flat): string {
    // A base axis is never moved nor copied: it goes where a line is wanted to work about.
    const about = AXES[entity]
      ? this.tool.slots.findIndex((s, i) => i > this.slot && this.fits(s, entity))
      : -1;
    if (about > 0 && this.picks[this.active.name].length) this.slot = about;
    const slot = this.active;
    if (!this.fits(slot, entity))
      return `Wanted here: ${slot.kinds.join(', ').replace('ellipse_arc', 'elliptical arc')}.`;
    const had = this.picks[slot.name];
    const group = this.name === 'offset' ? this.chain(entity) : [entity];
    const next = had.includes(entity)
      ? had.filter((e) => !group.includes(e))
      : slot.many
        ? [...had, ...group.filter((e) => !had.includes(e))]
        : [entity];
    this.picks = { ...this.picks, [slot.name]: next };
    if (this.tool.suits && next.length)
      this.values = { ...this.values, ...this.tool.suits(this.kind(entity)) };
    this.at = { ...this.at, [entity]: this.kind(entity) === 'point' ? (this.place(entity) ?? at) : at };
    if (!slot.many && this.slot + 1 < this.tool.slots.length) this.slot += 1;
    this.changed();
    this.ask();
    return '';
  }

  /** Put everything that a box or lasso caught into the active slot. */
  catch(entities: string[]): void {
    const slot = this.active;
    if (!slot.many) return;
    const only =
      this.name === 'round' || this.name === 'chamfer'
        ? entities.filter((e) => this.kind(e) === 'point')
        : entities;
    const fresh = only.filter((e) => this.fits(slot, e) && !this.picks[slot.name].includes(e));
    this.picks = { ...this.picks, [slot.name]: [...this.picks[slot.name], ...fresh] };
    this.changed();
    this.ask();
  }

  set(name: string, value: string): void {
    this.values[name] = value;
    this.changed();
  }

  /** The other answer. */
  other(): void {
    const field = this.tool.fields.find((f) => f.name === this.tool.other);
    if (!field?.choices) return;
    const keys = Object.keys(field.choices);
    this.set(field.name, keys[(keys.indexOf(this.values[field.name]) + 1) % keys.length]);
  }

  get edit(): Edit | null {
    return this.missing ? null : this.made(this.places);
  }
  private made(places: Snap[]): Edit {
    return this.tool.edit({
      picks: this.picks,
      at: this.at,
      values: this.values,
      kind: this.kind,
      places,
      level: places.length ? this.level : '',
    });
  }

  private changed(): void {
    const moved = this.aim && this.places.length === 1 && distance(this.aim.at, this.places[0].at) > 1e-6;
    const aimed = moved && !this.unwritten;
    this.trial.show(aimed ? this.made([...this.places, this.aim!]) : this.edit);
  }
}
