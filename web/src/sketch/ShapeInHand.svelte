<script lang="ts">
  /** The shape that is being drawn, before its last place is given. */
  import type { Board } from './board.svelte';
  import { circleThrough, distance } from './geometry';

  let { board }: { board: Board } = $props();

  const d = $derived.by(() => {
    const p = board.pointer?.at;
    const [a, b] = board.given.map((g) => g.at);
    if (!p || !a) return '';
    if (board.tool === 'rectangle') return `M${a[0]} ${a[1]}H${p[0]}V${p[1]}H${a[0]}Z`;
    const circle = (c: readonly number[], r: number) => `M${c[0] + r} ${c[1]}A${r} ${r} 0 0 1 ${c[0] - r} ${c[1]}A${r} ${r} 0 0 1 ${c[0] + r} ${c[1]}`;
    if (board.tool === 'circle') return circle(a, distance(a, p));
    if (board.tool === 'arc' && b) {
      const found = circleThrough(a, b, p);
      if (!found) return `M${a.join(' ')}L${b.join(' ')}`;
      const turn = (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]);
      const side = (b[0] - a[0]) * (found.centre[1] - a[1]) - (b[1] - a[1]) * (found.centre[0] - a[0]);
      return `M${a.join(' ')}A${found.radius} ${found.radius} 0 ${turn * side > 0 ? 1 : 0} ${turn > 0 ? 0 : 1} ${b.join(' ')}`;
    }
    if (board.tool === 'slot' && b) {
      const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
      const n = Math.hypot(dx, dy) || 1;
      const [ux, uy] = [dx / n, dy / n];
      const along = Math.min(Math.max((p[0] - a[0]) * ux + (p[1] - a[1]) * uy, 0), n);
      const r = Math.hypot(p[0] - a[0] - along * ux, p[1] - a[1] - along * uy);
      const at = (o: readonly number[], s: number) => `${o[0] - s * uy * r} ${o[1] + s * ux * r}`;
      return `M${at(a, 1)}A${r} ${r} 0 0 1 ${at(a, -1)}L${at(b, -1)}A${r} ${r} 0 0 1 ${at(b, 1)}Z`;
    }
    if (board.tool === 'polygon') {
      const sides = Math.min(Math.max(Number(board.typed.sides) || 6, 3), 60);
      const [r, turn] = [distance(a, p), Math.atan2(p[1] - a[1], p[0] - a[0])];
      const spots = Array.from({ length: sides }, (_, i) => turn + (2 * Math.PI * i) / sides).map((t) => `${a[0] + r * Math.cos(t)} ${a[1] + r * Math.sin(t)}`);
      return `M${spots.join('L')}Z`;
    }
    return `M${a.join(' ')}L${p.join(' ')}`;
  });
</script>

<path {d} fill="none" vector-effect="non-scaling-stroke" class="stroke-pencil [stroke-dasharray:5_2.5] [stroke-width:1.5]" />
