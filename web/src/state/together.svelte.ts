/** Bringing another branch of the part in: what it would come to, and what is chosen. */
import { api } from '../api/client';
import type { PartSummary, TogetherTold, VersionsOfPart } from '../api/types';
import type { Session } from './session.svelte';
import { Troubled } from './troubled.svelte';

export type Branch = { part: number; version: number; words: string };

export class Together extends Troubled {
  shown = $state(false);
  /** What can be brought in. */
  branches = $state.raw<Branch[] | null>(null);
  of = $state.raw<Branch | null>(null);
  told = $state.raw<TogetherTold | null>(null);
  chosen = $state.raw<Record<string, 'ours' | 'theirs'>>({});

  constructor(private session: Session) {
    super();
  }

  close(): void {
    [this.shown, this.of, this.told, this.trouble] = [false, null, null, ''];
  }

  async open(): Promise<void> {
    if (this.session.barred) return this.session.note(this.session.barred, true);
    this.close();
    this.shown = true;
    this.branches = null;
    const told = await this.doing(() => Promise.all([api.versions(this.session.id), api.list()]));
    this.branches = told ? this.found(...told) : [];
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
    const told = await this.doing(() => api.lookTogether(this.session.id, of.part, of.version, chosen));
    if (told && this.of === of && this.chosen === chosen) this.told = told;
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
    // The version that was looked at, whatever the other part has become since.
    const { part, version } = told.of;
    const done = await this.doing(async () => {
      await api.bringTogether(this.session.id, part, version, this.chosen, told.edition);
      return true;
    });
    if (!done) return;
    this.close();
    this.session.noteUndo(`Brought together with ${of.words}.`);
  }
}
