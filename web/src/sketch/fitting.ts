/** What the picks of the drawing board could be bound or worked on with. */
import type { Board } from './board.svelte';
import { CURVES, ENDED } from './forms';

/** Constraint kinds that the picks fit. */
export function fitting(board: Board) {
  if (!board.picked.length) return [];
  const sorts = board.picked.map((e) => board.sort(e));
  const fits = (pattern: string[][]) => {
    const rest = [...sorts];
    for (const wanted of pattern) {
      const i = rest.findIndex((s) => wanted.includes(s));
      if (i < 0) return false;
      rest.splice(i, 1);
    }
    return rest.length === 0;
  };
  return board.work.about.constraints.filter((c) => c.key && !c.quantity && c.takes.some(fits));
}

/** Tools that the picks could be worked on with, by their names. */
export function fittingTools(board: Board): string[] {
  const sorts = board.picked.map((e) => board.sort(e)).filter(Boolean);
  if (!sorts.length || sorts.length < board.picked.length) return [];
  const corners = sorts.every((s) => s === 'point') || (sorts.length === 2 && sorts.every((s) => (ENDED as string[]).includes(s)));
  const curves = board.picked.some((e) => board.drawing.curves?.[e] || board.drawing.texts?.[e]);
  const lone = board.picked.length === 1 && !!board.drawing.curves?.[board.picked[0]];
  if (board.modelThings.length) return board.modelThings.length === board.picked.length ? ['Project'] : [];
  return [...(corners ? ['Round a corner', 'Chamfer a corner'] : []), ...(sorts.every((s) => (CURVES as string[]).includes(s)) ? ['Offset a chain'] : []), ...(curves ? ['Mirror', 'Repeat in the sketch'] : []), ...(lone ? ['Text'] : [])];
}
