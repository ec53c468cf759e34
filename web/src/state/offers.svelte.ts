/**
 * What can be done with the selection, as the server ranks it, and what the offer that is pointed at would
 * make.
 */
import type { About, Kind, PreviewShape, Way } from '../api/types';
import { standsFor, type Thing } from '../stage/things';
import type { Action } from './action';
import type { Session } from './session.svelte';

export type Offer = { title: string; key: string; explains: string; run: () => void; hover?: () => void };

/** What offers are made from, and what taking one does. */
export interface Desk {
  readonly about: About;
  readonly session: Session;
  readonly picked: Thing[];
  readonly actions: Action[];
  readonly editing: unknown;
  readonly board: {
    readonly picked: string[];
    readonly modelThings: Thing[];
    readonly binding: { readonly ways: unknown[]; constrain(kind: string): Promise<void> };
    kind(entity: string): string;
  } | null;
  readonly stage: {
    readonly bodies: { edgesOf(face: Thing): { ref: Record<string, unknown>; away: string }[] };
  } | null;
  run(action: Action): void;
  begin(kind: Kind, how?: string): void;
  put(fields: Record<string, unknown>): void;
  facing(): number[];
}

export class Offers {
  /** The offers, likeliest first; null as long as the server has not answered. */
  list = $state.raw<Offer[] | null>([]);
  /** What the hovered offer would make. */
  ghost = $state.raw<PreviewShape | null>(null);
  private asked = 0;
  private haunted = 0;

  constructor(private desk: Desk) {}

  /** Ask what can be done with what is picked now. */
  async ask(): Promise<void> {
    const { desk } = this;
    const number = ++this.asked;
    const { board, picked } = desk;
    this.noGhost();
    this.list = null;
    const things = board ? board.picked.map((e) => board.kind(e)) : picked.map((p) => p.kind);
    if (!things.length) {
      this.list = [];
      return;
    }
    const request = {
      type: 'ways' as const,
      picks: board ? [] : picked.map((p) => p.facets),
      things,
      sketch: !!board,
      model: board?.modelThings.length ?? 0,
    };
    const answer = await desk.session.socket.ask(request).catch((error) => desk.session.refused(error));
    if (number === this.asked && answer?.type === 'ways')
      this.list = answer.ways.flatMap((way) => this.offer(way) ?? []);
  }

  private offer(way: Way): Offer | null {
    const { desk } = this;
    const kind = desk.about.kinds.find((k) => k.kind === way.kind);
    const known = desk.actions.find(
      (a) =>
        (way.what === 'step' && a.kind === way.kind) ||
        (way.what === 'tool' && a.tool === way.kind) ||
        (way.what === 'view' && a.view === way.kind) ||
        (way.what === 'constraint' && way.kind === 'dimension' && a.constraint === way.kind),
    );
    if (known)
      return way.kind === 'dimension' && !desk.board?.binding.ways.length
        ? null
        : { ...known, run: () => desk.run(known) };
    if (way.what === 'constraint') {
      const rule = desk.about.constraints.find((c) => c.kind === way.kind);
      return rule
        ? {
            title: rule.title,
            key: rule.key,
            explains: '',
            run: () => void desk.board?.binding.constrain(rule.kind),
          }
        : null;
    }
    if (!kind) return null;
    if (way.what === 'here') return this.here(kind, way.title);
    const explains = way.needs.length ? `Still needs ${way.needs.join(' and ')}` : '';
    return {
      title: way.title,
      key: kind.key,
      explains,
      run: () => desk.begin(kind, way.how),
      hover: way.needs.length ? undefined : () => void this.haunt(kind, way),
    };
  }

  /** An axis or point at the picked place of a flat face, told by its distances from two edges. */
  private here(kind: Kind, title: string): Offer | null {
    const [face] = this.desk.picked;
    const edges = face?.place ? (this.desk.stage?.bodies.edgesOf(face) ?? []) : [];
    if (edges.length < 2) return null;
    const run = () => {
      this.desk.begin(kind, 'spot');
      this.desk.put({
        first: face.ref,
        second: edges[0].ref,
        third: edges[1].ref,
        distance: { formula: edges[0].away, tag: '' },
        distance_two: { formula: edges[1].away, tag: '' },
      });
    };
    return { title, key: kind.key, explains: 'Kept by its distances from two edges of the face.', run };
  }

  /** Show what an offer would make, before it is taken. */
  private async haunt(kind: Kind, way: Way): Promise<void> {
    const { desk } = this;
    const number = ++this.haunted;
    const variant = kind.variants[way.how];
    const fields: Record<string, unknown> = { kind: kind.kind, how: way.how };
    for (const [name, blank] of Object.entries(variant.blanks))
      if (blank.kind === 'number') fields[name] = { formula: blank.start, tag: '' };
    if ('facing' in variant.blanks) fields.facing = desk.facing();
    for (const [name, i] of Object.entries(way.fills))
      fields[name] = standsFor(desk.picked[i], variant.blanks[name].accepts ?? []);
    const answer = await desk.session.socket
      .ask({ type: 'preview', command: { do: 'add_step', step: fields, after: '' } } as never)
      .catch(() => null);
    if (number === this.haunted && answer?.type === 'preview' && !desk.editing) this.ghost = answer.preview;
  }

  noGhost(): void {
    this.haunted++;
    this.ghost = null;
  }
}
