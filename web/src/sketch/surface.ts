/** What the helpers of the drawing board know of it: each no more than it needs. */
import type { Drawing, SketchView } from '../api/types';
import type { Desk } from './desk';
import type { Snap } from './geometry';
import type { Manner } from './tools';
import type { Edit } from './trial.svelte';

/** The surface: what is drawn on it, how far a place reaches, and the way to change it. */
export interface DrawingSurface {
  readonly desk: Desk;
  readonly step: string;
  readonly view: SketchView | null;
  readonly drawing: Drawing;
  readonly reach: number;
  readonly step_mm: number;
  /** The part's unit of length. */
  readonly unit: string;
  readonly quiet: boolean;
  readonly trial: { show(edit: Edit | null): void };
  trouble: string;
  edit(edit: Edit): Promise<boolean>;
}

/** The surface with a tool in hand, and the places given to it so far. */
export interface Hand extends DrawingSurface {
  readonly tool: string;
  manner: number;
  given: Snap[];
  typed: Record<string, string>;
  /** The measure with which a shape was refused: it has the focus, selected. */
  refusedMeasure: string;
  readonly refusal: unknown;
  pointer: Snap | null;
  suggested: 'horizontal' | 'vertical' | 'tangent' | '';
  readonly touched: string;
  readonly hand: number;
  readonly shape: Manner | null;
  readonly needs: string[];
  readonly measures: string[];
  readonly construction: boolean;
  /** Things of the model among some picks taken in; null when one of them can not be. */
  resolved(picks: string[]): Promise<string[] | null>;
}

/** The surface with what is picked on it. */
export interface Picks extends DrawingSurface {
  picked: string[];
  /** A constraint or dimension that was asked for before its things are picked. */
  asked: { kind: string; title: string; wants: string } | null;
  /** The dimension whose figure is being typed. */
  typing: string;
  /** Why the last edit was refused. */
  readonly refusal: unknown;
  resolved(picks: string[]): Promise<string[] | null>;
  kind(entity: string): string;
  isModel(entity: string): boolean;
}
