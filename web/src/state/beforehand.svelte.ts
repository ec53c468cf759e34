/** What would be written, looked at beforehand: flat things as a picture with their size, triangles counted. */
import { api } from '../api/client';
import type { Session } from './session.svelte';

export type Order = { format: string; subject: Record<string, unknown>; options: Record<string, unknown> };
type Look = { picture: string; said: string };
const FLAT = ['dxf', 'svg'];
const MESHES = ['stl', '3mf', 'glb'];
const STL_HEAD = 84;
const STL_TRIANGLE = 50;

export class Beforehand {
  looks = $state<Record<string, Look>>({});
  private asked = new Map<string, string>();
  private under = new Map<string, AbortController>();

  constructor(private session: Session) {}

  /** Ask for the picture or the count of an order, unless it is there already; null: it can not be written yet. */
  async look(format: string, order: Order | null): Promise<void> {
    const { session } = this;
    const told = order && [...FLAT, ...MESHES].includes(format) && order.subject.of !== 'page';
    const key = told ? JSON.stringify([order, session.version, session.past]) : '';
    if (this.asked.get(format) === key) return;
    this.asked.set(format, key);
    this.under.get(format)?.abort();
    if (!told) return this.show(format, { picture: '', said: '' });
    const until = new AbortController();
    this.under.set(format, until);
    this.show(format, { picture: '', said: 'looking …' }); // what was shown is of another order
    const asked = { ...order, format: FLAT.includes(format) ? 'svg' : 'stl' };
    try {
      const blob = await api.written(session.id, [asked], session.past, until.signal);
      if (until.signal.aborted) return;
      if (asked.format === 'stl') {
        const count = (blob.size - STL_HEAD) / STL_TRIANGLE;
        return this.show(format, { picture: '', said: `${count.toLocaleString('en')} triangles` });
      }
      const size = /viewBox="\S+ \S+ (\S+) (\S+)"/.exec(await blob.slice(0, 1000).text());
      const [wide, high] = [1, 2].map((i) => Number((Number(size?.[i] ?? 0) - 4).toPrecision(6)));
      this.show(format, { picture: URL.createObjectURL(blob), said: `${wide} × ${high} mm` });
    } catch (error) {
      if (!until.signal.aborted)
        this.show(format, { picture: '', said: error instanceof Error ? error.message : String(error) });
    }
  }

  private show(format: string, look: Look): void {
    const before = this.looks[format];
    if (before?.picture) URL.revokeObjectURL(before.picture);
    this.looks[format] = look;
  }

  /** Leave off what is asked for, and forget what was. */
  end(): void {
    for (const until of this.under.values()) until.abort();
    for (const format of Object.keys(this.looks)) this.show(format, { picture: '', said: '' });
    this.asked.clear();
  }
}
