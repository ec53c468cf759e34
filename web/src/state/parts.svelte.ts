/** The list of parts: what is looked for, how it is sorted, what is chosen, the bin. */
import { api } from '../api/client';
import type { PartSummary } from '../api/types';
import { Troubled } from './troubled.svelte';

export class Parts extends Troubled {
  all = $state.raw<PartSummary[] | null>(null);
  binned = $state(false);
  sought = $state('');
  label = $state('');
  by = $state<'time' | 'name' | 'number'>('time');
  chosen = $state.raw<number[]>([]);

  async refresh(): Promise<void> {
    const binned = this.binned;
    const found = await this.doing(() => api.list(binned));
    if (found && binned === this.binned) {
      this.all = found;
      this.chosen = this.chosen.filter((id) => found.some((p) => p.id === id));
    }
  }

  async turn(binned: boolean): Promise<void> {
    [this.binned, this.all, this.chosen, this.label] = [binned, null, [], ''];
    await this.refresh();
  }

  labelsOf(part: PartSummary): string[] {
    return (part.labels ?? '').split(', ').filter(Boolean);
  }

  get labels(): string[] {
    return [...new Set((this.all ?? []).flatMap((p) => this.labelsOf(p)))].sort((a, b) => a.localeCompare(b));
  }

  get shown(): PartSummary[] {
    const words = this.sought.toLowerCase().split(/\s+/).filter(Boolean);
    const found = (this.all ?? []).filter((p) => {
      const text = `${p.name} ${p.number} ${p.labels}`.toLowerCase();
      return words.every((w) => text.includes(w)) && (!this.label || this.labelsOf(p).includes(this.label));
    });
    if (this.by === 'time') return found; // as the server lists them
    const key = this.by;
    return [...found].sort((a, b) => (a[key] ?? '').localeCompare(b[key] ?? '', 'en', { numeric: true }));
  }

  choose(part: number): void {
    this.chosen = this.chosen.includes(part)
      ? this.chosen.filter((id) => id !== part)
      : [...this.chosen, part];
  }

  /** Do something to each of some parts, one after the other; what goes wrong is told, and ends it. */
  async each(parts: number[], work: (part: number) => Promise<unknown>): Promise<boolean> {
    const done = await this.doing(async () => {
      for (const part of parts) await work(part);
      return true;
    });
    await this.refreshQuietly();
    return !!done;
  }

  /** Read the list again, and leave what went wrong before in sight. */
  private async refreshQuietly(): Promise<void> {
    const { trouble } = this;
    await this.refresh();
    this.trouble ||= trouble;
  }
}
