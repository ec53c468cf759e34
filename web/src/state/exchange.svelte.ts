/** What goes out of the part: as what, of what, how; the last choice is remembered. */
import { api } from '../api/client';
import { Refusal } from '../api/types';
import type { About, FileReceived } from '../api/types';
import type { Thing } from '../stage/things';
import type { Session } from './session.svelte';
import { Beforehand, type Order } from './beforehand.svelte';
import { Troubled } from './troubled.svelte';

export type Format = About['formats'][number];
export type Choice = {
  format: string;
  of: string;
  step: string;
  /** Whence a view is seen; 'picked': square to the picked plane. */
  way: string;
  options: Record<string, string | boolean>;
};
const KEPT = 'wendal-exchange';

/** Units of a file that does not say its own: word, and mm. */
export const LENGTHS = [
  ['mm', 'millimetres', 1],
  ['cm', 'centimetres', 10],
  ['m', 'metres', 1000],
  ['in', 'inches', 25.4],
] as const;

export class Exchange extends Troubled {
  open = $state(false);
  chosen = $state<Choice[]>([]);
  /** mm in front of the plane of a section. */
  off = $state('0');

  readonly beforehand: Beforehand;

  constructor(
    private session: Session,
    readonly formats: Format[],
    private picked: () => Thing[],
  ) {
    super();
    this.beforehand = new Beforehand(session);
    try {
      const kept = JSON.parse(localStorage.getItem(KEPT) ?? '[]') as Choice[];
      this.chosen = kept
        .filter((c) => this.format(c.format))
        .map((c) => ({
          ...this.usual(c.format),
          ...c,
          options: { ...this.usual(c.format).options, ...c.options },
        }));
    } catch {
      this.chosen = [];
    }
  }

  format(ending: string): Format | undefined {
    return this.formats.find((f) => f.ending === ending);
  }

  /** Show the panel, with one format more where that was asked for. */
  show(ending = ''): void {
    this.open = true;
    this.trouble = '';
    if (ending && !this.chosen.some((c) => c.format === ending)) this.toggle(ending);
  }

  toggle(ending: string): void {
    this.chosen = this.chosen.some((c) => c.format === ending)
      ? this.chosen.filter((c) => c.format !== ending)
      : [...this.chosen, this.usual(ending)];
  }

  private usual(ending: string): Choice {
    const format = this.format(ending)!;
    const options = Object.fromEntries(format.options.map((o) => [o.name, o.usual]));
    return { format: ending, of: format.subjects[0], step: this.sketch, way: 'front', options };
  }

  /** The options that say something of what is written. */
  options(choice: Choice): Format['options'] {
    return this.format(choice.format)!.options.filter((o) => !o.of.length || o.of.includes(choice.of));
  }

  private get sketch(): string {
    const picked = this.picked().find((t) => t.step && this.session.step(t.step)?.kind === 'sketch')?.step;
    return picked ?? this.session.steps.filter((s) => s.kind === 'sketch').at(-1)?.id ?? '';
  }

  /** What is written of it in words, or what is still missing. */
  missing(choice: Choice): string {
    const picked = this.picked();
    if (choice.of === 'bodies' && !picked.some((t) => t.body)) return 'Pick bodies, or faces of them.';
    if (choice.of === 'face' && !picked.some((t) => t.kind === 'flat' || t.kind === 'face'))
      return 'Pick a flat face.';
    if (choice.of === 'section' && !this.plane) return 'Pick a plane or a flat face to cut at.';
    if (choice.of === 'view' && choice.way === 'picked' && !this.plane)
      return 'Pick a plane or a flat face to look at.';
    if (choice.of === 'sketch' && !this.session.step(choice.step)) return 'Choose a sketch.';
    if (choice.of === 'page' && !this.page) return 'Make a page first (g p).';
    return '';
  }

  /** Write the drawing's pages as PDF, or one page as DXF or SVG. */
  async writePages(format: string, page: string): Promise<void> {
    const subject = format === 'pdf' ? { of: 'drawing' } : { of: 'page', page };
    const orders = [{ format, subject, options: {} }];
    const size = await this.doing(() => api.write(this.session.id, orders, this.session.past));
    if (size) this.session.note(`${format.toUpperCase()}, ${size}, went to the downloads.`);
    else this.session.note(this.trouble, true);
  }

  async print(): Promise<void> {
    const orders = [{ format: 'pdf', subject: { of: 'drawing' }, options: {} }];
    const opened = await this.doing(() => api.print(this.session.id, orders, this.session.past));
    if (this.trouble) this.session.note(this.trouble, true);
    else if (!opened)
      this.session.note('The browser opens no page from here. Write the PDF and print that.', true);
  }

  private get page(): string {
    return this.session.part?.pages?.[0]?.id ?? '';
  }

  private get plane(): Thing | undefined {
    return this.picked().find((t) => t.facets.includes('plane'));
  }

  private subject(choice: Choice): Record<string, unknown> {
    const picked = this.picked();
    if (choice.of === 'bodies')
      return { of: 'bodies', bodies: [...new Set(picked.flatMap((t) => t.body ?? []))] };
    if (choice.of === 'sketch') return { of: 'sketch', step: choice.step };
    if (choice.of === 'face')
      return { of: 'face', thing: picked.find((t) => t.kind === 'flat' || t.kind === 'face')?.ref };
    if (choice.of === 'section')
      return { of: 'section', thing: this.plane?.ref, off: Number(this.off.replace('−', '-')) || 0 };
    if (choice.of === 'view')
      return choice.way === 'picked'
        ? { of: 'view', thing: this.plane?.ref }
        : { of: 'view', way: choice.way };
    if (choice.of === 'page') return { of: 'page', page: this.page };
    return { of: choice.of };
  }

  /** A file whose unit is asked for, and the step that it is a newer one of. */
  asking = $state.raw<{ file: File; step: string; told: FileReceived } | null>(null);

  /** Take the file that was asked about in, in a unit. */
  async receiveIn(unit: string): Promise<void> {
    const { asking } = this;
    this.asking = null;
    if (asking) await this.receive(asking.file, asking.step, unit);
  }

  /** Ask for a STEP or STL file, for a new step, or a newer one for a step that is there. */
  choose(step = ''): void {
    if (this.session.barred) return this.session.note(this.session.barred, true);
    const field = document.createElement('input');
    field.type = 'file';
    field.accept = '.step,.stp,.stl,.STEP,.STP,.STL';
    field.dataset.testid = 'step-file';
    field.hidden = true;
    field.onchange = () => {
      const file = field.files?.[0];
      field.remove();
      if (file) void this.receive(file, step);
    };
    document.body.append(field);
    field.click();
  }

  /** Take a file in: as a new step, or in place of the one that a step was made from. */
  async receive(file: File, step = '', unit = ''): Promise<void> {
    const { session } = this;
    const held = step ? session.step(step) : undefined;
    const done = session.underWay(`Reading ${file.name} …`);
    try {
      await this.taken(file, await api.receive(session.id, file, (held?.file as string) ?? '', unit), step);
    } catch (error) {
      session.refused(error);
    } finally {
      done();
    }
  }

  /** Put what was read of a file into the part, or ask for its unit. */
  async taken(file: File, told: FileReceived, step = ''): Promise<void> {
    const { session } = this;
    const held = step ? session.step(step) : undefined;
    try {
      if (told.asks_unit) {
        this.asking = { file, step, told };
        return;
      }
      const size = told.high.map((h, i) => Number((h - told.low[i]).toPrecision(5))).join(' × ');
      const fields = { file: told.digest, source: file.name };
      if (held) {
        await session.command({ do: 'edit_step', step, fields });
        session.noteUndo(
          `${file.name}: ${told.same} faces are those of before, ${told.new} are new, ${told.gone} are gone.`,
        );
        return;
      }
      const name = file.name.replace(/\.[^.]*$/, '').slice(0, 60);
      const taken = new Set(session.steps.map((s) => s.name));
      let free = name || 'Received';
      for (let n = 2; taken.has(free); n++) free = `${name} ${n}`;
      const further = await this.added({ kind: 'from_file', name: free, ...fields }, told);
      const solids = told.names.length - told.sheets;
      const bodies = [
        solids > 1 ? `${solids} solids` : solids ? 'a solid' : '',
        told.sheets > 1 ? `${told.sheets} sheets` : told.sheets ? 'a sheet' : '',
      ].filter(Boolean);
      const words = [
        `${file.name}: ${bodies.join(' and ')} of ${told.faces} faces, ${size} mm (it was in ${told.unit}).`,
        ...told.told,
        ...further,
      ];
      session.noteUndo(words.join(' '));
    } catch (error) {
      session.refused(error);
    }
  }

  /** Add the step with its looks; returns what is to be told besides: a part has room for so many painted faces. */
  private async added(step: Record<string, unknown>, told: FileReceived): Promise<string[]> {
    const add = (painted: FileReceived['painted']) =>
      this.session.command({ do: 'add_step', after: '', step, looks: told.looks, painted });
    try {
      await add(told.painted);
      return [];
    } catch (error) {
      if (!(error instanceof Refusal) || error.field !== 'painted') throw error;
      await add([]);
      return ['There is no room for the colours of its single faces: they are left out.'];
    }
  }

  private order(choice: Choice): Order {
    const options = Object.fromEntries(this.options(choice).map((o) => [o.name, choice.options[o.name]]));
    return { format: choice.format, subject: this.subject(choice), options };
  }

  /** Look at what would be written. */
  look(): void {
    for (const { ending } of this.formats) {
      const choice = this.chosen.find((c) => c.format === ending);
      void this.beforehand.look(ending, choice && !this.missing(choice) ? this.order(choice) : null);
    }
  }

  /** What is being written, to be left off. */
  private under: AbortController | null = null;
  cancel(): void {
    this.under?.abort();
  }

  async write(): Promise<void> {
    const missing = this.chosen.map((c) => this.missing(c)).find(Boolean);
    this.trouble = missing ?? '';
    if (missing || !this.chosen.length) return;
    const orders = this.chosen.map((c) => this.order(c));
    const until = (this.under = new AbortController());
    const size = await this.doing(() => api.write(this.session.id, orders, this.session.past, until.signal));
    if (until.signal.aborted) this.trouble = 'Cancelled. Nothing was written.';
    if (!size || until.signal.aborted) return;
    const what = orders.length > 1 ? `${orders.length} files as a zip` : orders[0].format.toUpperCase();
    this.session.note(`${what}, ${size}, went to the downloads.`);
    localStorage.setItem(KEPT, JSON.stringify(this.chosen));
  }
}
