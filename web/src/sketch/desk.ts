/** What the drawing board knows of the part around it. */
import type { About } from '../api/types';
import type { Thing } from '../stage/things';
import type { Session } from '../state/session.svelte';

export interface Desk {
  readonly session: Session;
  readonly about: About;
  readonly stage: { readonly view: { readonly scale: number } } | null;
  /** The thing of the model under the pointer. */
  hovered: Thing | null;
}
