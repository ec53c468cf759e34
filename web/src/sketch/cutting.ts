/** Cutting on the drawing board: trim, extend and split, as a click or a sweep asks for them. */
import type { Flat } from '../api/types';
import { endsOf } from './bent';
import { AXES, under } from './geometry';
import type { Hand } from './surface';
import { CUTS, isCut } from './tools';
import type { Edit } from './trial.svelte';

export class Cutting {
  constructor(private readonly board: Hand) {}

  /** The edit that a click at a place would make, or null while there is not enough. */
  edit(p: Flat): Edit | null {
    const { board } = this;
    const at = under(board.drawing, p, board.reach).find((e) => board.drawing.curves?.[e]);
    const manner = isCut(board.tool) ? CUTS[board.tool][board.manner].manner : '';
    if (!at || manner === 'sweep') return null;
    if (board.tool === 'extend') return { op: 'extend', curve: at, at: p };
    if (board.tool === 'spline point') return { op: 'add_point', curve: at, at: p };
    if (board.tool === 'split') {
      const circle = !endsOf(board.drawing.curves![at]).length;
      if (!circle) return { op: 'split', curve: at, at: [p] };
      return board.given.length && board.given[0].on === at
        ? { op: 'split', curve: at, at: [board.given[0].at, p] }
        : null;
    }
    if (manner === 'nearest') return { op: 'trim', curves: [at], path: [p] };
    const curves = [...board.given.map((g) => g.on), at];
    if (curves.length < board.needs.length || new Set(curves).size < curves.length) return null;
    return { op: 'trim', manner, curves, path: manner === 'corner' ? [board.given[0].at, p] : [] };
  }

  async click(p: Flat): Promise<void> {
    const { board } = this;
    const at = under(board.drawing, p, board.reach).find((e) => board.drawing.curves?.[e] || AXES[e]);
    if (!at) return;
    const edit = this.edit(p);
    const boundaries = CUTS.trim[board.manner].needs.length === 3 && board.tool === 'trim';
    if (!edit) {
      if (board.given.length < board.needs.length - 1)
        board.given = [...board.given, { at: p, on: at, kind: 'curve' }];
      return;
    }
    board.trial.show(null);
    if ((await board.edit(edit)) && !boundaries) board.given = [];
  }

  /** A sweep across pieces was drawn. */
  async sweep(path: Flat[]): Promise<void> {
    if (path.length > 1) await this.board.edit({ op: 'trim', manner: 'sweep', path });
  }
  get sweeping(): boolean {
    return this.board.tool === 'trim' && CUTS.trim[this.board.manner].manner === 'sweep';
  }
}
