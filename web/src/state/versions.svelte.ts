/** The versions of the open part: their list, going back, branches, and comparing. */
import { api } from '../api/client';
import type { Compared, PartSummary, VersionsOfPart } from '../api/types';
import type { Session } from './session.svelte';
import { Troubled } from './troubled.svelte';

export type Showing = { common: boolean; here: boolean; there: boolean };

export class Versions extends Troubled {
  /** The list is shown. */
  shown = $state(false);
  list = $state.raw<VersionsOfPart | null>(null);
  /** The panel that compares is shown. */
  comparing = $state(false);
  compared = $state.raw<Compared | null>(null);
  /** What of a comparison is seen. */
  see = $state<Showing>({ common: true, here: true, there: true });
  /** 0: only the earlier one is seen, 1: only the later one. */
  mix = $state(0.5);
  sketches = $state(false);
  /** Of a comparison, the other part and its version; version 0: as it stands. */
  other = $state<{ part: number; version: number }>({ part: 0, version: 0 });
  parts = $state.raw<PartSummary[]>([]);
  /** The other values that are compared with, "" for a version. */
  trying = $state('');
  /** The values that they are compared with, "" for those of the part. */
  than = $state('');

  constructor(private session: Session) {
    super();
  }

  async refresh(): Promise<void> {
    const found = await this.doing(() => api.versions(this.session.id));
    if (found) this.list = found;
  }

  toggle(): void {
    this.shown = !this.shown;
    this.comparing = false;
    if (this.shown) void this.refresh();
  }

  async name(number: number, name: string): Promise<boolean> {
    const done = await this.doing(async () => (await api.nameVersion(this.session.id, number, name), true));
    await this.refresh();
    return !!done;
  }

  /** Look at a version as it was; 0: at the present. */
  look(number: number): void {
    const present = this.list?.versions.find((v) => v.present)?.number;
    location.hash = `#part/${this.session.id}${number && number !== present ? `/v${number}` : ''}`;
  }

  /** Make a version the present one; from a look at the past, the present is opened then. */
  async backTo(number: number): Promise<void> {
    const { session } = this;
    const done = await this.doing(async () => (await api.backTo(session.id, number), true));
    if (!done) return;
    if (session.past) location.hash = `#part/${session.id}`;
    else {
      session.noteUndo(`This is v${number} again, as a new version.`);
      await this.refresh();
    }
  }

  async branch(number: number): Promise<void> {
    const made = await this.doing(() => api.branch(this.session.id, number));
    if (made) location.hash = `#part/${made.id}`;
  }

  /** Compare with another version or part. */
  async compare(part = this.session.id, version = 0): Promise<void> {
    [this.comparing, this.shown, this.trying] = [true, false, ''];
    this.other = { part, version };
    const answer = await this.doing(() => this.session.socket.ask({ type: 'compare', part, version }));
    if (this.other.part !== part || this.other.version !== version) return; // another was chosen meanwhile
    this.compared = answer?.type === 'compared' ? answer : null;
  }

  /** Compare the part as it is looked at, or with some values, with itself with others. */
  async compareWith(
    values: Record<string, string>,
    title: string,
    before: Record<string, string> = {},
    than = '',
  ): Promise<void> {
    const part = this.session.id;
    [this.comparing, this.shown, this.trying, this.than] = [true, false, title, than];
    this.other = { part, version: 0 };
    const ask = { type: 'compare', part, version: this.session.past, values, before } as const;
    const answer = await this.doing(() => this.session.socket.ask(ask as never));
    this.compared = answer?.type === 'compared' ? answer : null;
  }

  /** Compare two bodies of this part. */
  async compareBodies(bodies: { id: string; name: string }[]): Promise<void> {
    [this.comparing, this.shown] = [true, false];
    [this.than, this.trying] = bodies.map((b) => b.name);
    this.other = { part: this.session.id, version: 0 };
    const ask = { type: 'compare', bodies: bodies.map((b) => b.id) };
    const answer = await this.doing(() => this.session.socket.ask(ask as never));
    this.compared = answer?.type === 'compared' ? answer : null;
  }

  /** Open the comparing panel: with the version before this one, until another is chosen. */
  async openCompare(): Promise<void> {
    if (this.comparing) return this.close();
    this.comparing = true;
    this.shown = false;
    await this.refresh();
    void this.doing(async () => (this.parts = await api.list()));
    const now = this.list?.versions.find((v) => v.number === this.session.version);
    if (this.compared) return;
    if (now?.parent) await this.compare(this.session.id, now.parent);
    else if (this.list?.origin) await this.compare(...this.list.origin);
  }

  close(): void {
    [this.comparing, this.shown, this.compared] = [false, false, null];
  }
}
