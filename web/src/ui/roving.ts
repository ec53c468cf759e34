/**
 * Of several controls that stand together, one is where Tab stops; the arrows lead to the others. across :
 * how many stand beside each other.
 */
export function roved(event: KeyboardEvent, all: (HTMLElement | SVGElement)[], across = 1): boolean {
  const step = { ArrowRight: 1, ArrowDown: across, ArrowLeft: -1, ArrowUp: -across }[event.key];
  const at = all.indexOf(event.target as HTMLElement);
  if (!step || at < 0) return false;
  all[(at + step + all.length) % all.length].focus();
  event.preventDefault();
  event.stopPropagation();
  return true;
}
