/** The strokes of dimensions on the screen, as path data: thin lines, and arrows by ISO 129. */
import type { Flat } from '../api/types';
import type { Figure } from './figures';

type Screen = (p: Flat) => Flat;
const say = (p: Flat) => `${p[0].toFixed(2)} ${p[1].toFixed(2)}`;

function arc({ centre, radius, from, to }: NonNullable<Figure['arc']>, screen: Screen): string {
  const turns = Array.from({ length: 25 }, (_, i) => from + ((to - from) * i) / 24);
  return `M${turns.map((t) => say(screen([centre[0] + radius * Math.cos(t), centre[1] + radius * Math.sin(t)]))).join('L')}`;
}

export function thinOf(figures: Figure[], screen: Screen): string {
  return figures
    .map(
      (f) =>
        f.lines.map((l) => `M${l.map((p) => say(screen(p))).join('L')}`).join('') +
        (f.arc ? arc(f.arc, screen) : ''),
    )
    .join('');
}

export function arrowsOf(figures: Figure[], screen: Screen): string {
  const arrow = ({ at, to }: Figure['arrows'][0]) => {
    const [p, q] = [screen(at), screen([at[0] + to[0], at[1] + to[1]])];
    const n = Math.hypot(q[0] - p[0], q[1] - p[1]) || 1;
    const [ux, uy] = [(q[0] - p[0]) / n, (q[1] - p[1]) / n];
    const [bx, by] = [p[0] - 10 * ux, p[1] - 10 * uy];
    return `M${say(p)}L${say([bx - 2 * uy, by + 2 * ux])}L${say([bx + 2 * uy, by - 2 * ux])}Z`;
  };
  return figures.flatMap((f) => f.arrows.map(arrow)).join('');
}

/** How a figure is turned, degrees: along its line, read from below or from the right (ISO 129). */
export function turnOf(figure: Figure, screen: Screen): number {
  const line = figure.lines[0];
  if (!line || figure.arrows.length < 2) return 0;
  const [p, q] = line.map(screen);
  const a = (Math.atan2(q[1] - p[1], q[0] - p[0]) * 180) / Math.PI;
  return a > 89.9 ? a - 180 : a < -90.1 ? a + 180 : a;
}
