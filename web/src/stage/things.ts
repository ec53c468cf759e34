/** What can be picked on the stage. */
import type { Vector3 } from 'three';

export type ThingKind =
  | 'base'
  | 'datum'
  | 'flat'
  | 'face'
  | 'edge'
  | 'vertex'
  | 'spot'
  | 'region'
  | 'curve'
  | 'dot'
  | 'step'
  | 'sketch'
  | 'body'
  | 'cut';

export type Thing = {
  kind: ThingKind;
  /** Unique on the stage: same key, same thing. */
  key: string;
  words: string;
  /** How it is said in a sentence, where that is shorter. */
  brief?: string;
  /** Of a face: the step that made it, and the one that copied it last or "". */
  madeBy?: string;
  copiedBy?: string;
  /** What it can be taken for: "plane", "line", "point" … */
  facets: string[];
  /** The durable reference that is stored when it is picked. */
  ref: Record<string, unknown>;
  /** For faces, edges, corners: the body. */
  body?: string;
  step?: string;
  depth: number;
  place?: Vector3;
  /** Of a cut's outline: its lines, six figures each. */
  path?: number[];
};

/** Whether a thing is itself what a blank takes, and does not only stand for it. */
export const isOneOf = (thing: Thing, accepts: string[]): boolean =>
  thing.facets.some((f) => accepts.includes(f));

/** What a thing may stand for in a blank: a face also stands for its body. */
export function standsFor(thing: Thing, accepts: string[]): Record<string, unknown> | null {
  if (thing.facets.some((f) => accepts.includes(f))) return thing.ref;
  // A round edge stands for its centre where a point is wanted.
  if (thing.kind === 'edge' && accepts.includes('point') && thing.facets.includes('circle'))
    return { of: 'spot', at: 'centre', edge: thing.ref };
  if (thing.body && accepts.includes('body')) return { of: 'body', body: thing.body };
  if (accepts.includes('step')) {
    const step = thing.copiedBy || thing.madeBy; // a face stands for the step that made it last
    if (step) return { of: 'step', step };
  }
  if (accepts.includes('sketch') && thing.step && ['region', 'curve', 'dot'].includes(thing.kind))
    return { of: 'sketch', step: thing.step };
  return null;
}
