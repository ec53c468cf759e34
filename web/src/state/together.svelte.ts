/** Bringing another branch of the part in: what it would come to, and what is chosen. */
import { api } from '../api/client';
import type { PartSummary, TogetherTold, VersionsOfPart } from '../api/types';
import type { Session } from './session.svelte';

export type Branch = { part: number; version: number; words: string };

export class Together {
  shown = $state(false);
  busy = $state(false);
  trouble = $state('');
  /** What can be brought in. */
  branches = $state.raw<Branch[] | null>(null);
  of = $state.raw<Branch | null>(null);
  told = $state.raw<TogetherTold | null>(null);
  chosen = $state.raw<Record<string, 'ours' | 'theirs'>>({});

  constructor(private session: Session) {}

  close(): void {
    [this.shown, this.of, this.told, this.trouble] = [false, null, null, ''];
  }

  async open(): Promise<void> {
    if (this.session.barred) return this.session.note(this.session.barred, true);
    this.close();
    this.shown = true;
    this.branches = null;
    try {
      const [own, parts] = await Promise.all([api.versions(this.session.id), api.list()]);
      this.branches = this.found(own, parts);
    } catch (error) {
      this.trouble = error instanceof Error ? error.message : String(error);
      this.branches = [];
    }
  }

  /** Branches of this part, what it was branched from, and what was done beside it before an undo. */
  private found(own: VersionsOfPart, parts: PartSummary[]): Branch[] {
    const name = (id: number) => parts.find((p) => p.id === id)?.name ?? `part ${id}`;
    const parents = new Set(own.versions.map((v) => v.parent));
    const beside = own.versions.filter((v) => !v.line && !parents.has(v.number));
    return [
      ...(own.branches ?? []).map(([part, at]) => ({
        part,
        version: 0,
        words: `${name(part)}, branched from v${at}`,
      })),
      ...(own.origin && parts.some((p) => p.id === own.origin![0])
        ? [{ part: own.origin[0], version: 0, words: `${name(own.origin[0])}, which this was branched from` }]
        : []),
      ...beside.map((v) => ({
        part: this.session.id,
        version: v.number,
        words: `v${v.number}, beside the present: ${v.name || v.summary}`,
      })),
    ];
  }

  async look(of: Branch): Promise<void> {
    if (this.of !== of) [this.chosen, this.told] = [{}, null];
    this.of = of;
    await this.ask();
  }

  private async ask(): Promise<void> {
    const { of, chosen } = this;
    if (!of) return;
    [this.busy, this.trouble] = [true, ''];
    try {
      const told = await api.lookTogether(this.session.id, of.part, of.version, chosen);
      if (this.of === of && this.chosen === chosen) this.told = told;
    } catch (error) {
      this.trouble = error instanceof Error ? error.message : String(error);
    } finally {
      this.busy = false;
    }
  }

  async choose(key: string, side: 'ours' | 'theirs'): Promise<void> {
    this.chosen = { ...this.chosen, [key]: side };
    await this.ask();
  }

  get open_(): number {
    return this.told?.conflicts.filter((c) => !this.chosen[c.key]).length ?? 0;
  }

  async accept(): Promise<void> {
    const { of, told } = this;
    if (!of || !told || this.open_) return;
    [this.busy, this.trouble] = [true, ''];
    try {
      await api.bringTogether(this.session.id, of.part, of.version, this.chosen, told.edition);
      this.close();
      this.session.noteUndo(`Brought together with ${of.words}.`);
    } catch (error) {
      this.trouble = error instanceof Error ? error.message : String(error);
    } finally {
      this.busy = false;
    }
  }
}
