/** What can be done with a step, a body or a thing of the stage, besides building on it. */
import type { Kind, SceneBody, Step } from '../api/types';
import type { Thing } from '../stage/things';
import { measurable } from './measuring.svelte';
import type { Session } from './session.svelte';

export type Deed = { title: string; run: () => unknown };

/** What deeds are done to. */
export interface Doer {
  readonly session: Session;
  readonly about: { kinds: Kind[] };
  /** The body whose name is being typed. */
  naming: string;
  /** The face whose name is being typed. */
  namingFace: { thing: Thing; name: string } | null;
  weigh(body: string): void;
  measure(things: Thing[]): void;
  edit(step: Step, number?: string): void;
  openBoard(step: string): void;
  readonly exchange: { choose(step: string): void };
  readonly route: {
    noting: string;
    suppress(steps: string[]): Promise<void>;
    remove(steps: string[]): Promise<void>;
    move(steps: string[], after: string): Promise<void>;
    copy(steps: string[]): void;
    whatMade(thing: Thing): Promise<void>;
  };
}

export const COLOURS = ['', 'slate', 'moss', 'clay', 'sand'] as const;

/** How a body is shown, with a change; without a word where it is that already. */
export function look(session: Session, body: SceneBody, change: Record<string, unknown>) {
  const held = session.part?.looks?.[body.id] ?? {};
  return session.try({
    do: 'set_body_look',
    body: body.id,
    look: { name: '', visible: true, colour: '', through: false, material: '', ...held, ...change },
  });
}

export function nextColour(session: Session, body: SceneBody) {
  const at = COLOURS.indexOf((body.colour ?? '') as (typeof COLOURS)[number]);
  return look(session, body, { colour: COLOURS[(at + 1) % COLOURS.length] });
}

/** The look that a face of the stage has of its own. */
function faceLook(on: Doer, thing: Thing): { name: string; colour: string; face: unknown } {
  const body = on.session.scene?.bodies.find((b) => b.id === thing.body);
  const held = body?.painted?.[thing.key.split('/f')[1]];
  // What it is called by in its look, though its neighbours are others now: else it had two.
  const face = (held && on.session.part?.faces?.[held.look]?.face) ?? thing.ref;
  return { name: held?.name ?? '', colour: held?.colour ?? '', face };
}

/** Give a face a name or colour of its own. */
export function setFaceLook(on: Doer, thing: Thing, change: { name?: string; colour?: string }) {
  return on.session.try({ do: 'set_face_look', ...faceLook(on, thing), ...change } as never);
}

function deedsOfFace(on: Doer, thing: Thing): Deed[] {
  if (thing.kind !== 'face' && thing.kind !== 'flat') return [];
  const { name, colour } = faceLook(on, thing);
  const next = COLOURS[(COLOURS.indexOf(colour as (typeof COLOURS)[number]) + 1) % COLOURS.length];
  return [
    { title: 'Colour of this face', run: () => setFaceLook(on, thing, { colour: next }) },
    { title: name ? 'Rename this face' : 'Name this face', run: () => (on.namingFace = { thing, name }) },
  ];
}

/** What can be done with a step of the route. */
export function deedsOfStep(on: Doer, step: Step): Deed[] {
  const { session } = on;
  const kind = on.about.kinds.find((k) => k.kind === step.kind)!;
  const isSketch = kind.makes === 'sketch';
  const index = session.steps.findIndex((s) => s.id === step.id);
  const active = session.part?.active_system === step.id;
  const set = (fields: Record<string, unknown>) => session.try({ do: 'edit_step', step: step.id, fields });
  const move = (by: number) => on.route.move([step.id], index + by >= 0 ? session.steps[index + by].id : '');
  return [
    isSketch
      ? { title: 'Open on the drawing board', run: () => on.openBoard(step.id) }
      : { title: 'Edit', run: () => on.edit(step) },
    ...(kind.wants_file ? [{ title: 'Read a newer file', run: () => on.exchange.choose(step.id) }] : []),
    ...(isSketch ? [{ title: 'Place on another plane', run: () => on.edit(step) }] : []),
    { title: 'Rename', run: () => on.edit(step, 'name') },
    ...(step.kind === 'system'
      ? [
          {
            title: active ? "Work in the part's own system" : 'Work in this system',
            run: () => session.try({ do: 'set_active_system', step: active ? '' : step.id }),
          },
        ]
      : []),
    ...(kind.makes === 'body'
      ? []
      : [{ title: step.visible ? 'Hide' : 'Show', run: () => set({ visible: !step.visible }) }]),
    { title: step.suppressed ? 'Build again' : 'Suppress', run: () => on.route.suppress([step.id]) },
    {
      title: session.part?.notes?.[step.id] ? 'Change the note' : 'Note',
      run: () => (on.route.noting = step.id),
    },
    { title: 'Copy', run: () => on.route.copy([step.id]) },
    { title: 'Stop line after this', run: () => session.try({ do: 'set_stop_line', after: step.id }) },
    ...(index > 0 ? [{ title: 'Move one up', run: () => move(-2) }] : []),
    ...(index < session.steps.length - 1 ? [{ title: 'Move one down', run: () => move(1) }] : []),
    { title: 'Delete', run: () => on.route.remove([step.id]) },
  ];
}

/** What can be done with a body. */
export function deedsOfBody(on: Doer, body: SceneBody): Deed[] {
  const { session } = on;
  const bodies = session.scene?.bodies ?? [];
  const others = bodies.filter((b) => b.id !== body.id && b.visible);
  return [
    { title: `Rename body ${body.name}`, run: () => (on.naming = body.id) },
    {
      title: `${body.visible ? 'Hide' : 'Show'} body ${body.name}`,
      run: () => look(session, body, { visible: !body.visible }),
    },
    ...(others.length
      ? [
          {
            title: `Only body ${body.name}`,
            run: async () => {
              for (const other of others) await look(session, other, { visible: false });
            },
          },
        ]
      : []),
    ...(bodies.some((b) => !b.visible)
      ? [
          {
            title: 'Show all bodies',
            run: async () => {
              for (const b of bodies.filter((x) => !x.visible)) await look(session, b, { visible: true });
            },
          },
        ]
      : []),
    { title: `Mass and size of body ${body.name}`, run: () => on.weigh(body.id) },
    { title: `Colour of body ${body.name}`, run: () => nextColour(session, body) },
  ];
}

/** What can be done with a thing of the stage: with the step that made it, and with its body. */
export function deedsOf(on: Doer, thing: Thing | undefined): Deed[] {
  if (!thing) return [];
  const step = on.session.step(thing.step || thing.copiedBy || thing.madeBy || '');
  const body = on.session.scene?.bodies.find((b) => b.id === thing.body);
  const ofStep = step
    ? deedsOfStep(on, step)
        .filter((d) => !/^(Stop|Move|Note|Change the note|Copy)/.test(d.title))
        .map((d) => ({ ...d, title: `${d.title}: ${step.name}` }))
    : [];
  const measure = measurable(thing) ? [{ title: 'Measure', run: () => on.measure([thing]) }] : [];
  const made = ['face', 'flat', 'edge', 'vertex'].includes(thing.kind)
    ? [{ title: 'What made this', run: () => on.route.whatMade(thing) }]
    : [];
  return [...measure, ...made, ...deedsOfFace(on, thing), ...ofStep, ...(body ? deedsOfBody(on, body) : [])];
}
