/** What can be picked on the stage. */
import type { Vector3 } from 'three';

export type Sort = 'base' | 'datum' | 'flat' | 'face' | 'edge' | 'vertex' | 'spot' | 'region' | 'curve' | 'dot' | 'step' | 'sketch' | 'body';

export type Thing = {
  sort: Sort;
  /** Unique on the stage: same key, same thing. */
  key: string;
  words: string;
  /** What it can be taken for: "plane", "line", "point" … */
  facets: string[];
  /** The durable reference that is stored when it is picked. */
  ref: Record<string, unknown>;
  /** For faces, edges, corners: the body. */
  body?: string;
  step?: string;
  depth: number;
  place?: Vector3;
};

/** What a thing may stand for in a blank: a face also stands for its body. */
export function standsFor(thing: Thing, accepts: string[]): Record<string, unknown> | null {
  if (thing.facets.some((f) => accepts.includes(f))) return thing.ref;
  if (thing.body && accepts.includes('body')) return { of: 'body', body: thing.body };
  if (accepts.includes('step')) {
    // A face stands for the step that made it last: the one that copied it, else its own.
    const [name] = (thing.ref.names as string[] | undefined) ?? [];
    const step = name && (name.split('@').at(-1)!.split('.')[0].split('/')[0] || name.split('/')[0]);
    if (step) return { of: 'step', step };
  }
  if (accepts.includes('sketch') && thing.step && ['region', 'curve', 'dot'].includes(thing.sort)) return { of: 'sketch', step: thing.step };
  return null;
}
