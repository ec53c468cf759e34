/** Curves of a file on their way into the open sketch: what it holds, which layers, in which unit. */
import { api } from '../api/client';
import { Refusal, type CurvesReceived, type Drawing, type Flat } from '../api/types';
import { Troubled } from '../state/troubled.svelte';
import type { Desk } from './desk';

/** The board that curves are put on. */
interface Onto {
  readonly desk: Desk;
  edit(edit: never): Promise<boolean>;
}

export class FromFile extends Troubled {
  file = $state.raw<File | null>(null);
  found = $state.raw<CurvesReceived | null>(null);
  /** All layers of the file, with how many curves each has; and those that are left out. */
  layers = $state.raw<Record<string, number>>({});
  without = $state.raw<string[]>([]);
  /** "" for what the file says. */
  unit = $state('');
  within = $state('0.01');
  /** The file does not say its unit. */
  asks = $state(false);

  constructor(private board: Onto) {
    super();
  }

  /** Have a file chosen. */
  choose(): void {
    const field = document.createElement('input');
    field.type = 'file';
    field.accept = '.dxf,.DXF,.svg,.SVG';
    field.dataset.testid = 'curves-file';
    field.hidden = true;
    field.onchange = () => {
      const file = field.files?.[0];
      field.remove();
      if (file) void this.take(file);
    };
    field.oncancel = () => field.remove();
    document.body.append(field);
    field.click();
  }

  async take(file: File): Promise<void> {
    [this.file, this.found, this.layers, this.without] = [file, null, {}, []];
    [this.unit, this.asks] = ['', false];
    await this.read();
  }

  async read(): Promise<void> {
    const { file } = this;
    if (!file) return;
    const within = Number(this.within.replace(',', '.'));
    if (!(within >= 0 && within <= 10)) {
      this.trouble = 'Ends are made one within 0 to 10 mm.';
      return;
    }
    const layers = this.without.length
      ? Object.keys(this.layers).filter((l) => !this.without.includes(l))
      : null;
    const found = await this.doing(async () => {
      try {
        return await api.curves(this.board.desk.session.id, file, this.unit, layers, within);
      } catch (error) {
        this.asks = this.asks || (error instanceof Refusal && error.field === 'unit');
        throw error;
      }
    });
    if (file !== this.file) return;
    this.found = found ?? null;
    if (found && !this.without.length) this.layers = found.layers;
    if (found) this.unit = found.unit;
  }

  async toggle(layer: string): Promise<void> {
    this.without = this.without.includes(layer)
      ? this.without.filter((l) => l !== layer)
      : [...this.without, layer];
    await this.read();
  }

  get middle(): Flat {
    const { low, high } = this.found!;
    return [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2];
  }

  /** Put the curves into the sketch: where the file has them, or with their middle at the origin. */
  async put(centred: boolean): Promise<void> {
    const { found, board } = this;
    if (!found) return;
    const [x, y] = this.middle;
    const move = centred ? [-x, -y] : [0, 0];
    const count = Object.keys(found.drawing.curves ?? {}).length;
    if (!(await board.edit({ op: 'paste', what: found.drawing as Drawing, move } as never))) return;
    this.close();
    board.desk.session.note(
      `${count} ${count === 1 ? 'curve' : 'curves'} from the file. k z proposes what would constrain them.`,
    );
  }

  close(): void {
    [this.file, this.found, this.trouble] = [null, null, ''];
  }
}
