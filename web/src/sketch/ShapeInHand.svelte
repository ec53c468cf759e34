<script lang="ts">
  /** The shape that is being drawn, before its last place is given. */
  import type { Board } from './board.svelte';
  import { splinePlaces } from './bent';
  import { circleThrough, distance, leaving } from './geometry';

  let { board }: { board: Board } = $props();

  const d = $derived.by(() => {
    const p = board.pointer?.at;
    const [a, b] = board.given.map((g) => g.at);
    if (!p || !a || !board.shape) return '';
    const shape = board.shape?.shape;
    const circle = (c: readonly number[], r: number) =>
      `M${c[0] + r} ${c[1]}A${r} ${r} 0 0 1 ${c[0] - r} ${c[1]}A${r} ${r} 0 0 1 ${c[0] + r} ${c[1]}`;
    if (shape === 'rectangle') return `M${a[0]} ${a[1]}H${p[0]}V${p[1]}H${a[0]}Z`;
    if (shape === 'rectangle_centre')
      return `M${2 * a[0] - p[0]} ${2 * a[1] - p[1]}H${p[0]}V${p[1]}H${2 * a[0] - p[0]}Z`;
    if (shape === 'rectangle_three' && b) {
      const n = distance(a, b) || 1;
      const [nx, ny] = [-(b[1] - a[1]) / n, (b[0] - a[0]) / n];
      const h = (p[0] - a[0]) * nx + (p[1] - a[1]) * ny;
      return `M${a.join(' ')}L${b.join(' ')}L${b[0] + h * nx} ${b[1] + h * ny}L${a[0] + h * nx} ${a[1] + h * ny}Z`;
    }
    if ((shape === 'ellipse' || shape === 'ellipse_arc') && b) {
      const p = board.given[2]?.at ?? board.pointer!.at;
      const [half, n] = [[b[0] - a[0], b[1] - a[1]], distance(a, b) || 1];
      const along = ((p[0] - a[0]) * half[0] + (p[1] - a[1]) * half[1]) / n;
      const across = Math.abs(half[0] * (p[1] - a[1]) - half[1] * (p[0] - a[0])) / n;
      const share = 1 - (along / n) ** 2;
      const r = share > 0.05 ? across / Math.sqrt(share) : across;
      const turn = (Math.atan2(half[1], half[0]) * 180) / Math.PI;
      if (board.given[2]) {
        // A part: from its start to where the pointer's direction meets the ellipse.
        const [u, v] = [half.map((x) => x / n), [-half[1] / n, half[0] / n]];
        const angle = (q: readonly number[]) =>
          Math.atan2(
            ((q[0] - a[0]) * v[0] + (q[1] - a[1]) * v[1]) / r,
            ((q[0] - a[0]) * u[0] + (q[1] - a[1]) * u[1]) / n,
          );
        const [t0, t1] = [angle(p), angle(board.pointer!.at)];
        const turn = (t1 - t0 + 4 * Math.PI) % (2 * Math.PI);
        const spots = Array.from({ length: 49 }, (_, i) => t0 + (turn * i) / 48).map((t) =>
          [0, 1].map((k) => a[k] + Math.cos(t) * half[k] + Math.sin(t) * r * v[k]).join(' '),
        );
        return `M${spots.join('L')}`;
      }
      return `M${b.join(' ')}A${n} ${r} ${turn} 0 1 ${2 * a[0] - b[0]} ${2 * a[1] - b[1]}A${n} ${r} ${turn} 0 1 ${b.join(' ')}`;
    }
    if (shape === 'spline' || shape === 'spline_pulled') {
      const places = [...board.given.map((g) => g.at), p];
      return `M${splinePlaces(places, shape === 'spline' ? 'through' : 'pulled')
        .map((q) => q.join(' '))
        .join('L')}`;
    }
    if (shape === 'circle') return circle(a, distance(a, p));
    if (shape === 'circle_three' || shape === 'circle_tangent') {
      const found = b && circleThrough(a, b, p);
      return found ? circle(found.centre, found.radius) : `M${a.join(' ')}L${p.join(' ')}`;
    }
    if (shape === 'arc_centre' && b) {
      const [r, t0] = [distance(a, b), Math.atan2(b[1] - a[1], b[0] - a[0])];
      const turn = (Math.atan2(p[1] - a[1], p[0] - a[0]) - t0 + 4 * Math.PI) % (2 * Math.PI);
      return `M${b.join(' ')}A${r} ${r} 0 ${turn > Math.PI ? 1 : 0} 1 ${a[0] + r * Math.cos(t0 + turn)} ${a[1] + r * Math.sin(t0 + turn)}`;
    }
    if (shape === 'tangent_arc') {
      const way = leaving(board.drawing, board.given[0].on);
      if (!way) return `M${a.join(' ')}L${p.join(' ')}`;
      const [dx, dy] = [p[0] - a[0], p[1] - a[1]];
      const off = -way[1] * dx + way[0] * dy;
      if (Math.abs(off) < 1e-9) return `M${a.join(' ')}L${p.join(' ')}`;
      const r = Math.abs((dx * dx + dy * dy) / (2 * off));
      const large = way[0] * dx + way[1] * dy < 0 ? 1 : 0;
      return `M${a.join(' ')}A${r} ${r} 0 ${large} ${off > 0 ? 1 : 0} ${p.join(' ')}`;
    }
    if (shape === 'arc_slot' && b) {
      const c = board.given[2]?.at;
      const [r, t0] = [distance(a, b), Math.atan2(b[1] - a[1], b[0] - a[0])];
      const goal = c ?? p;
      const turn = (Math.atan2(goal[1] - a[1], goal[0] - a[0]) - t0 + 4 * Math.PI) % (2 * Math.PI);
      const on = (q: number, t: number) => `${a[0] + q * Math.cos(t)} ${a[1] + q * Math.sin(t)}`;
      const big = turn > Math.PI ? 1 : 0;
      if (!c) return `M${on(r, t0)}A${r} ${r} 0 ${big} 1 ${on(r, t0 + turn)}`;
      const w = Math.min(Math.abs(distance(a, p) - r), r * 0.99);
      return `M${on(r + w, t0)}A${r + w} ${r + w} 0 ${big} 1 ${on(r + w, t0 + turn)}A${w} ${w} 0 0 1 ${on(r - w, t0 + turn)}A${r - w} ${r - w} 0 ${big} 0 ${on(r - w, t0)}A${w} ${w} 0 0 1 ${on(r + w, t0)}Z`;
    }
    if (shape === 'arc' && b) {
      const found = circleThrough(a, b, p);
      if (!found) return `M${a.join(' ')}L${b.join(' ')}`;
      const turn = (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]);
      const side = (b[0] - a[0]) * (found.centre[1] - a[1]) - (b[1] - a[1]) * (found.centre[0] - a[0]);
      return `M${a.join(' ')}A${found.radius} ${found.radius} 0 ${turn * side > 0 ? 1 : 0} ${turn > 0 ? 0 : 1} ${b.join(' ')}`;
    }
    if (shape === 'slot' && b) {
      const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
      const n = Math.hypot(dx, dy) || 1;
      const [ux, uy] = [dx / n, dy / n];
      const along = Math.min(Math.max((p[0] - a[0]) * ux + (p[1] - a[1]) * uy, 0), n);
      const r = Math.hypot(p[0] - a[0] - along * ux, p[1] - a[1] - along * uy);
      const at = (o: readonly number[], s: number) => `${o[0] - s * uy * r} ${o[1] + s * ux * r}`;
      return `M${at(a, 1)}A${r} ${r} 0 0 1 ${at(a, -1)}L${at(b, -1)}A${r} ${r} 0 0 1 ${at(b, 1)}Z`;
    }
    if (shape === 'polygon') {
      const sides = Math.min(Math.max(Number(board.typed.sides) || 6, 3), 60);
      const [r, turn] = [distance(a, p), Math.atan2(p[1] - a[1], p[0] - a[0])];
      const spots = Array.from({ length: sides }, (_, i) => turn + (2 * Math.PI * i) / sides).map(
        (t) => `${a[0] + r * Math.cos(t)} ${a[1] + r * Math.sin(t)}`,
      );
      return `M${spots.join('L')}Z`;
    }
    return `M${a.join(' ')}L${p.join(' ')}`;
  });
</script>

<path
  {d}
  fill="none"
  vector-effect="non-scaling-stroke"
  class="stroke-pencil [stroke-dasharray:5_2.5] [stroke-width:1.5]"
/>
