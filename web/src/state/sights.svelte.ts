/** How the part is looked at: views, sections, what is shown; none of it is a step of the route. */
import { Quaternion, Vector3 } from 'three';
import type { FrameData, KeptSection, KeptView, Spot } from '../api/types';
import { drawsFinely } from '../stage/finesse';
import type { Stage } from '../stage/stage';
import type { Thing } from '../stage/things';
import type { Session } from './session.svelte';

/**
 * A plane at which the part is cut open: a picked one, so many mm off it, turned about its X and its Y (rad);
 * what lies before it, or behind, is taken away. gone : its thing is not there any more, and it stays where
 * that was.
 */
export type Section = {
  frame: FrameData;
  name: string;
  off: number;
  turns: [number, number];
  flipped: boolean;
  ref: Record<string, unknown>;
  gone?: boolean;
};
export const MOST = 3;
export type EdgeLook = 'seen' | 'hidden too' | 'none';

/** Views by name: towards the eye, and up, in the active system. */
export const VIEWS: [string, Spot, Spot][] = [
  ['front', [0, -1, 0], [0, 0, 1]],
  ['back', [0, 1, 0], [0, 0, 1]],
  ['top', [0, 0, 1], [0, 1, 0]],
  ['bottom', [0, 0, -1], [0, -1, 0]],
  ['left', [-1, 0, 0], [0, 0, 1]],
  ['right', [1, 0, 0], [0, 0, 1]],
  ['isometric', [1, -1, 1], [0, 0, 1]],
  ['isometric from the left', [-1, -1, 1], [0, 0, 1]],
];

interface Around {
  readonly session: Session;
  readonly stage: Stage | null;
  frameOf(thing: Thing | undefined): FrameData | null;
}

export class Sights {
  /** The card of views is open. */
  viewing = $state(false);
  /** The list of what is shown is open. */
  listing = $state(false);
  /** A box is being drawn, to be shown as large as it goes. */
  boxing = $state(false);
  perspective = $state(false);
  /** A soft shade where faces come near to each other, while the view stands. */
  shade = $state(drawsFinely() && localStorage.getItem('wendal.shade') !== 'off');
  edges = $state<EdgeLook>('seen');
  sections = $state.raw<Section[]>([]);
  /** Which of the sections is in hand. */
  at = $state(0);

  constructor(private on: Around) {}

  /** Open the card of views or the list of what is shown, one of the two, or put it away. */
  open(which: 'viewing' | 'listing'): void {
    const on = !this[which];
    [this.viewing, this.listing] = [false, false];
    this[which] = on;
  }

  /** The next box that is drawn on the stage is shown as large as it goes. */
  box(): void {
    this.boxing = true;
    this.on.session.note('Draw a box on the stage.');
  }

  // — views —

  /** The directions of the active system. */
  private get system(): [Vector3, Vector3, Vector3] {
    const active = this.on.session.scene?.active;
    const frame = active ?? { x: [1, 0, 0], y: [0, 1, 0], normal: [0, 0, 1] };
    return [frame.x, frame.y, frame.normal].map((v) => new Vector3(...(v as Spot))) as never;
  }

  look(name: string): void {
    const view = VIEWS.find((v) => v[0] === name);
    const stage = this.on.stage;
    if (!view || !stage) return;
    const axes = this.system;
    const [towards, up] = view
      .slice(1)
      .map((v) => axes.reduce((sum, a, i) => sum.addScaledVector(a, (v as Spot)[i]), new Vector3()));
    stage.view.lookFrom(towards, up);
  }

  /** Turn on to the nearest of the system's six directions. */
  toAxis(): void {
    const view = this.on.stage?.view;
    if (!view) return;
    const six = this.system.flatMap((a) => [a, a.clone().negate()]);
    const near = (v: Vector3, from: Vector3[]) => from.reduce((b, a) => (a.dot(v) > b.dot(v) ? a : b));
    const towards = near(view.towards(), six);
    const up = near(
      new Vector3(0, 1, 0).applyQuaternion(view.camera.quaternion),
      six.filter((a) => Math.abs(a.dot(towards)) < 0.5),
    );
    view.lookFrom(towards, up);
  }

  step(way: 'back' | 'on'): void {
    if (!this.on.stage?.view.step(way))
      this.on.session.note(way === 'back' ? 'There is no view before this one.' : 'There is no later view.');
  }

  deepen(): void {
    this.perspective = !this.perspective;
    this.on.session.note(this.perspective ? 'In perspective: what is near is larger.' : 'Orthographic.');
  }

  /** Draw the contact shade, or leave it away. */
  shadeOrNot(): void {
    this.shade = !this.shade;
    localStorage.setItem('wendal.shade', this.shade ? 'on' : 'off');
    const slow = this.shade && this.on.stage?.shadesSlowly;
    this.on.session.note(
      slow
        ? 'Contact shade is on, but this machine draws it too slowly, so it is left away.'
        : this.shade
          ? 'Contact shade: where faces come near each other it is darker, while the view stands.'
          : 'Without contact shade.',
    );
  }

  keepView(name: string): Promise<boolean> {
    const { turn, target, scale } = this.on.stage!.view.pose;
    const [x, y, z, w] = turn.toArray();
    return this.on.session.try({
      do: 'keep_view',
      view: {
        ...{ name, turn: [x, y, z, w], target: target.toArray(), scale },
        perspective: this.perspective,
      },
    });
  }

  goTo(view: KeptView): void {
    this.perspective = view.perspective ?? false;
    this.on.stage?.view.go({
      turn: new Quaternion(...(view.turn as [number, number, number, number])),
      target: new Vector3(...(view.target as Spot)),
      scale: view.scale,
    });
  }

  nextEdges(): void {
    const all: EdgeLook[] = ['seen', 'hidden too', 'none'];
    this.edges = all[(all.indexOf(this.edges) + 1) % all.length];
    this.on.session.note(`Edges: ${this.edges === 'seen' ? 'those that are seen' : this.edges}.`);
  }

  // — sections —

  /** Whether what a section takes away stays as thin lines. */
  awayLines = $state(false);

  /** Have the outlines of the cuts as the kernel has them. */
  async outline(frames: FrameData[]): Promise<void> {
    const planes = frames.map(({ origin, normal, x }) => ({ origin, normal, x }));
    try {
      const told = await this.on.session.socket.ask({
        type: 'ask',
        ask: { of: 'cut_outline', planes },
      } as never);
      if (told.type === 'answer' && told.answer.of === 'cut_outline')
        this.on.stage?.outlined(JSON.stringify(frames), told.answer.lines);
    } catch {
      // the outline of the triangles stays
    }
  }

  get section(): Section | null {
    return this.sections[this.at] ?? null;
  }

  change(change: Partial<Section>): void {
    this.sections = this.sections.map((s, i) => (i === this.at ? { ...s, ...change } : s));
  }

  /** Cut at a plane or flat face; false where the thing is none. */
  cutAt(thing: Thing | undefined): boolean {
    const frame = this.on.frameOf(thing);
    if (!frame || !thing || this.sections.length >= MOST) return false;
    const name = thing.brief ?? thing.words;
    const fresh: Section = { frame, name, off: 0, turns: [0, 0], flipped: false, ref: thing.ref };
    [this.sections, this.at] = [[...this.sections, fresh], this.sections.length];
    return true;
  }

  /** Take the section in hand away again. */
  uncut(): void {
    this.sections = this.sections.filter((_, i) => i !== this.at);
    this.at = Math.max(this.sections.length - 1, 0);
  }

  keepSection(name: string): Promise<boolean> {
    const cuts = this.sections.map((s) => ({
      ...{ at: s.ref, words: s.name, off: s.off, turns: s.turns, flipped: s.flipped },
    }));
    return this.on.session.try({ do: 'keep_section', section: { name, cuts } } as never);
  }

  /** Show a kept section; planes that are not there any more are told. */
  cutAsKept(kept: KeptSection): void {
    const found = kept.cuts.map((cut) => {
      const thing = this.thingOf(cut.at as never);
      const frame = this.on.frameOf(thing);
      return (
        frame && {
          ...{ frame, name: cut.words ?? '', off: cut.off ?? 0 },
          turns: [...(cut.turns ?? [0, 0])] as [number, number],
          ...{ flipped: cut.flipped ?? false, ref: cut.at as never },
        }
      );
    });
    const there = found.filter((s): s is NonNullable<typeof s> => !!s);
    if (there.length < found.length)
      this.on.session.note(`A plane of the section “${kept.name}” is not there any more.`, true);
    [this.sections, this.at] = [there, 0];
  }

  /** The thing that a reference means; planes and base planes also where they are hidden. */
  private thingOf(ref: Record<string, unknown>): Thing | undefined {
    const plain = { words: '', facets: ['plane'], ref, depth: 0 };
    if (ref.of === 'base') return { ...plain, kind: 'base', key: `base:${ref.name}` };
    if (ref.of === 'datum') return { ...plain, kind: 'datum', key: '', step: ref.step as string };
    const told = (r: Record<string, unknown>) => JSON.stringify([r.of, r.body, r.names]);
    return this.on.stage?.all().find((t) => t.ref && told(t.ref) === told(ref));
  }

  /** The part has changed: sections stand at their planes as they are now. */
  follow(): void {
    if (!this.sections.length) return;
    this.sections = this.sections.map((s) => {
      const frame = this.on.frameOf(this.thingOf(s.ref));
      return frame ? { ...s, frame, gone: false } : { ...s, gone: true };
    });
  }

  /** The frames at which bodies are shown cut: what lies on a normal's side of all of them is taken away. */
  get frames(): FrameData[] {
    return this.sections.map(frameOf);
  }

  // — what is shown —

  /** Kinds of things that are left out of the view. */
  get without(): string[] {
    return this.on.session.part?.unseen ?? [];
  }

  /** Leave a kind of things out of the view, or show it again. */
  toggle(kind: string): Promise<boolean> {
    const { without } = this;
    const kinds = without.includes(kind) ? without.filter((k) => k !== kind) : [...without, kind];
    return this.on.session.try({ do: 'set_unseen', kinds } as never);
  }
}

/** A section's own frame: moved, turned, and perhaps turned round. */
export function frameOf({ frame, off, turns, flipped }: Section): FrameData {
  const [o, x, y, n] = [frame.origin, frame.x, frame.y, frame.normal].map((v) => new Vector3(...(v as Spot)));
  const turn = new Quaternion()
    .setFromAxisAngle(y, turns[1])
    .multiply(new Quaternion().setFromAxisAngle(x, turns[0]));
  const at = o.clone().addScaledVector(n, off);
  const [u, v, w] = [x, y, n].map((a) => a.clone().applyQuaternion(turn));
  const s = flipped ? -1 : 1;
  return {
    origin: at.toArray() as Spot,
    x: u.multiplyScalar(s).toArray() as Spot,
    y: v.toArray() as Spot,
    normal: w.multiplyScalar(s).toArray() as Spot,
  };
}
