/** Bodies on the stage: warm stone with ink edges; hovered and picked parts in brass. */
import {
  DoubleSide,
  GreaterDepth,
  Group,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  type Plane,
  Raycaster,
  Vector3,
  type Material,
} from 'three';
import type { FrameData, SceneBody } from '../api/types';
import { BodyView, ink, type Content } from './bodyView';
import { pairs } from './content';
import { token } from './colours';
import { SHADED } from './contact';
import type { CutLines } from './cutSpots';
import { behind, filled, hatch, outline } from './cutting';
import type { LineMaterial } from 'three/examples/jsm/lines/LineMaterial.js';
import { discard, drawLines, lineMaterial } from './lines';
import { paint } from './paints';
import type { Thing } from './things';
import type { View } from './view';

const NEAR = 6; // px
const THROUGH = 0.32; // how much is seen of a body that is seen through

/** The lines of a cut, by the plane's number: each plane is cut off by the others. */
const paintCut = (i: number, colour: string, look: Parameters<typeof lineMaterial>[0]) =>
  paint(`cut ${i}, ${colour} ${look.through}`, () => {
    const material = lineMaterial(look);
    [material.polygonOffset, material.polygonOffsetFactor, material.polygonOffsetUnits] = [true, -4, -4];
    return material;
  });

function hiddenMaterial(): LineMaterial {
  const material = lineMaterial({ colour: token('graphite'), width: 0.8, dash: 5, gap: 4 });
  material.depthFunc = GreaterDepth;
  material.depthWrite = false;
  return material;
}

export class Bodies {
  readonly group = new Group();
  private shown = new Map<string, BodyView>();
  private readonly stones = new Map<string, MeshLambertMaterial>();
  private readonly ink = lineMaterial(ink());
  dimmed = false;
  /** The outline of a section, on the stage beside the bodies. */
  readonly contour = new Group();
  private section: { frames: FrameData[]; apart: number } = { frames: [], apart: 1 };
  /** The halves of space of which a section leaves what lies in one of them. */
  private halves: Plane[] = [];
  private edgesShown: 'seen' | 'hidden too' | 'none' = 'seen';
  /** Lines that are behind something: thin and dashed. */
  private readonly hidden = hiddenMaterial();
  /** Lines of what a section takes away; whether they are drawn. */
  private readonly thin = lineMaterial({ colour: token('graphite'), width: 0.6 });
  private thinShown = false;
  /** The outlines of the cuts as the kernel has them, by plane; of which frames. */
  private exact: { of: string; lines: number[][] } | null = null;

  update(bodies: SceneBody[], content: Content): void {
    const keep = new Set(bodies.map((b) => b.key));
    for (const [key, view] of this.shown) {
      if (!keep.has(key)) {
        this.group.remove(view.group);
        discard(view.group);
        this.shown.delete(key);
        this.exact = null; // it was of another shape
      }
    }
    for (const body of bodies) {
      if (!this.shown.has(body.key)) {
        const view = new BodyView(body, content, this.stone(body), this.ink);
        this.shown.set(body.key, view);
        this.exact = null;
        this.group.add(view.group);
      }
      const view = this.shown.get(body.key)!;
      view.mesh.layers[body.through ? 'disable' : 'enable'](SHADED);
      view.tell(body, content); // its name and look may have changed
      view.group.visible = body.visible ?? true;
      view.mesh.material = this.stone(body);
      view.paint((colour) => this.paintOf(colour));
      view.mesh.renderOrder = body.through ? 3 : 0; // what is seen through is drawn after what is behind it
    }
    this.drawEdges(this.edgesShown);
    this.dim(this.dimmed);
    if (this.section.frames.length) this.cut(this.section.frames, this.section.apart);
  }

  /** Draw the edges that are seen, the hidden ones too (thin and dashed), or none. */
  drawEdges(which: 'seen' | 'hidden too' | 'none'): void {
    this.edgesShown = which;
    for (const view of this.shown.values()) view.drawEdges(which, this.hidden);
  }

  /** Dashes are so many pixels long at a scale. */
  scaled(scale: number): void {
    this.hidden.dashScale = scale;
  }

  /** What a face with a colour of its own is drawn with: over its body, which lies a little deeper. */
  private paintOf(colour: string): Material {
    const name = `${colour} of a face`;
    const known =
      this.stones.get(name) ??
      new MeshLambertMaterial({
        ...{ color: token(colour), side: DoubleSide },
        // Over the body's own face, and under the lines.
        ...{ polygonOffset: true, polygonOffsetFactor: 0.5, polygonOffsetUnits: 0.5 },
      });
    this.stones.set(name, known);
    if (this.halves.length) {
      known.clippingPlanes = this.halves;
      known.clipIntersection = this.halves.length > 1;
    }
    return known;
  }

  /** What a body's faces are drawn with: one of each colour. */
  private stone(body: SceneBody): Material {
    const colour = body.colour || 'stone';
    const name = body.through ? `${colour} through` : colour;
    const known =
      this.stones.get(name) ??
      new MeshLambertMaterial({
        color: token(colour),
        transparent: !!body.through,
        opacity: body.through ? THROUGH : 1,
        depthWrite: !body.through,
        side: DoubleSide,
        polygonOffset: true,
        polygonOffsetFactor: 1,
        polygonOffsetUnits: 1,
      });
    this.stones.set(name, known);
    return known;
  }

  dim(on: boolean): void {
    this.dimmed = on;
    for (const [name, material] of this.stones) {
      const through = name.endsWith(' through');
      if (material.transparent !== (on || through)) material.needsUpdate = true;
      material.transparent = on || through;
      material.opacity = on ? 0.35 : through ? THROUGH : 1;
    }
  }

  /**
   * Take away what lies before the planes of all frames (a corner, where there are several), and draw the cuts
   * with hatching so many mm apart; no frames show all.
   */
  cut(frames: FrameData[], apart = 1): void {
    this.section = { frames, apart };
    const own = new Set([...this.shown.values()].map((v) => v.mesh.geometry));
    for (const drawn of this.contour.children as Mesh[])
      if (!own.has(drawn.geometry)) drawn.geometry.dispose();
    this.contour.clear();
    this.halves = frames.map(behind);
    for (const material of [this.ink, this.hidden, ...this.stones.values()]) {
      material.clippingPlanes = this.halves;
      material.clipIntersection = this.halves.length > 1;
    }
    this.thin.clippingPlanes = this.halves.map((half) => half.clone().negate());
    for (const view of this.shown.values()) view.drawAway(this.thinShown && frames.length > 0, this.thin);
    const exact = this.exact?.of === JSON.stringify(frames) ? this.exact.lines : null;
    frames.forEach((frame, i) => this.fill(frame, i, apart, exact?.[i]));
  }

  /** Show what a section takes away as thin lines, or not. */
  drawAway(on: boolean): void {
    this.thinShown = on;
    if (this.section.frames.length) this.cut(this.section.frames, this.section.apart);
  }

  /** Take the outlines of the cuts at some frames as the kernel has them. */
  outlined(of: string, lines: number[][]): void {
    this.exact = { of, lines };
    if (JSON.stringify(this.section.frames) === of) this.cut(this.section.frames, this.section.apart);
  }

  /** The outlines of the cuts, where they are known exactly. */
  get cuts(): CutLines[] {
    const { frames } = this.section;
    if (!frames.length || this.exact?.of !== JSON.stringify(frames)) return [];
    return frames.map((frame, i) => ({
      ...{ frame, lines: this.exact!.lines[i] },
      others: this.halves.filter((_, k) => k !== i).map((p) => p.clone().negate()),
    }));
  }

  /** Draw the cut at one plane, as far as the others take away what is before it. */
  private fill(frame: FrameData, i: number, apart: number, exact?: number[]): void {
    const plane = this.halves[i];
    const others = this.halves.filter((_, k) => k !== i).map((p) => p.clone().negate());
    let way: 1 | -1 = 1;
    for (const view of this.shown.values()) {
      if (!view.group.visible) continue;
      const edges = outline(view.mesh.geometry, plane);
      if (!edges.length) continue;
      this.contour.add(
        ...filled(
          view.mesh.geometry,
          plane,
          i,
          others,
          frame,
          token('stone').lerp(token('stage'), 0.55),
          1 + this.contour.children.length / 1000,
        ),
      );
      for (const [lines, colour, width] of [
        [hatch(edges, frame, apart, way), 'graphite', 0.9],
        [exact ? [] : edges, 'ink', 2.6],
      ] as const) {
        if (!lines.length) continue;
        // One plane's cut lies before all that is left; of several, one may hide another.
        const look = { colour: token(colour), width, through: !others.length };
        const drawn = drawLines(lines, look, paintCut(i, colour, look));
        drawn.material.clippingPlanes = others;
        this.contour.add(drawn);
      }
      way = way === 1 ? -1 : 1; // bodies beside each other are hatched the other way
    }
    if (!exact?.length) return;
    const look = { colour: token('ink'), width: 2.6, through: !others.length };
    const drawn = drawLines(exact, look, paintCut(i, 'ink', look));
    drawn.material.clippingPlanes = others;
    this.contour.add(drawn);
  }

  /** The bodies that are not hidden. */
  private get seen(): BodyView[] {
    return [...this.shown.values()].filter((v) => v.group.visible);
  }

  private view(body: string): BodyView | undefined {
    return [...this.shown.values()].find((v) => v.body.id === body);
  }

  box(): [Vector3, Vector3] | null {
    const all = [...this.shown.values()].map((v) => v.body.mass);
    if (!all.length) return null;
    const low = new Vector3(Infinity, Infinity, Infinity);
    const high = low.clone().negate();
    for (const m of all) {
      low.min(new Vector3(...m.low));
      high.max(new Vector3(...m.high));
    }
    return [low, high];
  }

  /** Everything of the bodies under the pointer: corners, edges, then faces from the front to the back. */
  under(x: number, y: number, ray: Raycaster, view: View): Thing[] {
    const faces: Thing[] = [];
    let front = Infinity;
    for (const shown of this.seen) {
      for (const hit of ray.intersectObject(shown.mesh, false)) {
        if (this.away(hit.point)) continue;
        const i = shown.faceAt(hit.faceIndex!);
        const face = shown.things.faces[i];
        front = Math.min(front, hit.distance);
        faces.push({
          ...this.face(shown, i),
          ref: { ...face.ref, near: hit.point.toArray() },
          depth: hit.distance,
          place: hit.point.clone(),
        });
      }
    }
    faces.sort((a, b) => a.depth - b.depth);
    const unique = faces.filter((f, i) => faces.findIndex((g) => g.key === f.key) === i);
    return [
      ...this.corners(x, y, ray, view, front),
      ...this.spots(x, y, ray, view, front),
      ...this.edges(x, y, ray, view, front),
      ...unique,
    ];
  }

  /** Whether a place was taken away by the section. */
  private away(p: Vector3): boolean {
    return this.halves.length > 0 && this.halves.every((half) => half.distanceToPoint(p) < -1e-6);
  }

  private face(shown: BodyView, i: number): Thing {
    const face = shown.things.faces[i];
    const named = shown.body.painted?.[i]?.name;
    return {
      kind: face.form === 'flat' ? 'flat' : 'face',
      key: `${shown.body.id}/f${i}`,
      words: named ? `${named}, ${face.words}` : face.words,
      brief: named || face.brief,
      madeBy: face.made_by,
      copiedBy: face.copied_by,
      facets: face.facets,
      ref: face.ref as unknown as Record<string, unknown>,
      body: shown.body.id,
      depth: 0,
    };
  }

  private edge(shown: BodyView, i: number): Thing {
    const edge = shown.things.edges[i];
    return {
      kind: 'edge',
      key: `${shown.body.id}/e${i}`,
      words: edge.words,
      brief: edge.brief,
      facets: edge.facets,
      ref: edge.ref as unknown as Record<string, unknown>,
      body: shown.body.id,
      depth: 0,
    };
  }

  /** A face or edge of a body by its index; null where there is none. */
  at(body: string, kind: 'edge' | 'face', index: number): Thing | null {
    const shown = [...this.shown.values()].find((v) => v.body.id === body);
    if (!shown) return null;
    if (kind === 'edge') return shown.things.edges[index] ? this.edge(shown, index) : null;
    return shown.things.faces[index] ? this.face(shown, index) : null;
  }

  /** Every face, edge and corner. */
  all(): Thing[] {
    return this.seen.flatMap((shown) => [
      ...shown.things.faces.map((_, i) => this.face(shown, i)),
      ...shown.things.edges.map((_, i) => this.edge(shown, i)),
      ...shown.things.vertices.map((v, i): Thing => ({
        kind: 'vertex',
        key: `${shown.body.id}/v${i}`,
        words: v.words,
        brief: v.brief,
        facets: ['point'],
        ref: v.ref as unknown as Record<string, unknown>,
        body: shown.body.id,
        depth: 0,
        place: new Vector3(...v.place),
      })),
    ]);
  }

  private depth(p: Vector3, ray: Raycaster): number {
    return p.clone().sub(ray.ray.origin).dot(ray.ray.direction);
  }

  private corners(x: number, y: number, ray: Raycaster, view: View, front: number): Thing[] {
    const found: Thing[] = [];
    const [flat, at] = [view.flat(), [0, 0] as [number, number]];
    for (const shown of this.seen) {
      shown.things.vertices.forEach((v, i) => {
        flat(v.place[0], v.place[1], v.place[2], at);
        if (Math.hypot(at[0] - x, at[1] - y) >= NEAR) return;
        const p = new Vector3(...v.place);
        const depth = this.depth(p, ray);
        if (depth < front + 0.5 && !this.away(p)) {
          found.push({
            kind: 'vertex',
            key: `${shown.body.id}/v${i}`,
            words: v.words,
            brief: v.brief,
            facets: ['point'],
            ref: v.ref,
            body: shown.body.id,
            depth,
            place: p,
          });
        }
      });
    }
    return found.sort((a, b) => a.depth - b.depth);
  }

  /** Middles of edges and centres of round ones. */
  private spots(x: number, y: number, ray: Raycaster, view: View, front: number): Thing[] {
    const found: Thing[] = [];
    const [flat, seen] = [view.flat(), [0, 0] as [number, number]];
    for (const shown of this.seen) {
      shown.things.edges.forEach((e, i) => {
        for (const at of ['middle', 'centre'] as const) {
          const spot = at === 'middle' ? (e.form === 'line' ? e.middle : null) : e.centre;
          if (!spot) continue;
          flat(spot[0], spot[1], spot[2], seen);
          if (Math.hypot(seen[0] - x, seen[1] - y) >= NEAR) continue;
          const p = new Vector3(...spot);
          const depth = this.depth(p, ray);
          // A centre stands in the air or inside the body, so nothing hides it.
          if ((at === 'centre' || depth < front + 0.5) && !this.away(p)) {
            found.push({
              kind: 'spot',
              key: `${shown.body.id}/${at[0]}${i}`,
              words: `${at} of the ${e.words}`,
              facets: ['point'],
              ref: { of: 'spot', at, edge: e.ref },
              body: undefined,
              depth,
              place: p,
            });
          }
        }
      });
    }
    // Several edges may have one centre: the first of them stands for all.
    found.sort((a, b) => a.depth - b.depth);
    return found.filter((t, i) => found.findIndex((o) => o.place!.distanceTo(t.place!) < 1e-6) === i);
  }

  /**
   * Two straight edges of a flat face that are not parallel, the nearest to the picked place first, and how
   * far away they are.
   */
  edgesOf(face: Thing): { ref: Record<string, unknown>; away: string }[] {
    const shown = this.view(face.body ?? '');
    const index = Number(face.key.split('/f')[1]);
    if (!shown || !face.place) return [];
    const found = shown.things.edges
      .map((e, i) => ({ e, i }))
      .filter(({ e }) => e.form === 'line' && e.faces.includes(index))
      .map(({ e, i }) => {
        const line = shown.lines[i];
        const start = new Vector3().fromArray(line, 0);
        const d = new Vector3()
          .fromArray(line, line.length - 3)
          .sub(start)
          .normalize();
        const from = face.place!.clone().sub(start);
        return {
          ref: e.ref as unknown as Record<string, unknown>,
          d,
          off: from.sub(d.clone().multiplyScalar(from.dot(d))).length(),
        };
      })
      .sort((a, b) => a.off - b.off);
    const second = found.find((f) => Math.abs(f.d.dot(found[0].d)) < 0.999);
    return second
      ? [found[0], second].map((f) => ({ ref: f.ref, away: `${Number(f.off.toFixed(2))} mm` }))
      : [];
  }

  /** The thing that a stored reference means, when it stands on the stage as it was picked. */
  named(ref: Record<string, unknown>): Thing | undefined {
    const names = (r: Record<string, unknown>) => JSON.stringify([r.of, r.names ?? r.faces]);
    for (const shown of this.shown.values()) {
      const lists = [
        ['f', shown.things.faces],
        ['e', shown.things.edges],
        ['v', shown.things.vertices],
      ] as const;
      for (const [letter, list] of lists) {
        const i = list.findIndex((t) => names(t.ref as never) === names(ref));
        if (i >= 0)
          return {
            kind: 'face',
            key: `${shown.body.id}/${letter}${i}`,
            words: '',
            facets: [],
            ref,
            depth: 0,
          };
      }
    }
    return undefined;
  }

  private edges(x: number, y: number, ray: Raycaster, view: View, front: number): Thing[] {
    const found: (Thing & { off: number })[] = [];
    const flat = view.flat();
    const [p, q] = [
      [0, 0],
      [0, 0],
    ] as [number, number][];
    for (const shown of this.seen) {
      shown.lines.forEach((line, i) => {
        let best = NEAR;
        let at: Vector3 | null = null;
        flat(line[0], line[1], line[2], q);
        for (let k = 3; k < line.length; k += 3) {
          [p[0], p[1]] = q;
          flat(line[k], line[k + 1], line[k + 2], q);
          const dx = q[0] - p[0];
          const dy = q[1] - p[1];
          const t = Math.min(Math.max(((x - p[0]) * dx + (y - p[1]) * dy) / (dx * dx + dy * dy || 1), 0), 1);
          const off = Math.hypot(p[0] + t * dx - x, p[1] + t * dy - y);
          if (off < best) {
            best = off;
            at = new Vector3().fromArray(line, k - 3).lerp(new Vector3().fromArray(line, k), t);
          }
        }
        if (!at || this.away(at)) return;
        const depth = this.depth(at, ray);
        if (depth < front + 0.5) found.push({ ...this.edge(shown, i), depth, place: at, off: best });
      });
    }
    return found.sort((p, q) => p.off - q.off || p.depth - q.depth);
  }

  frameOf(thing: Thing): FrameData | null {
    const [body, spot] = thing.key.split('/');
    const face = spot?.[0] === 'f' ? this.view(body)?.things.faces[Number(spot.slice(1))] : undefined;
    return face?.form === 'flat' ? face.frame : null;
  }

  /** Brass over a face, edge or corner. */
  highlight(thing: Thing, width: number): Group {
    const group = new Group();
    if (thing.path) {
      group.add(
        drawLines(thing.path, { colour: token('brass'), width: thing.ref.end ? 9 : width, through: true }),
      );
      return group;
    }
    const [body, spot] = thing.key.split('/');
    const shown = this.view(body);
    if (!shown || !spot) return group;
    const index = Number(spot.slice(1));
    const pen = { colour: token('brass'), width, through: true };
    if (spot[0] === 'f') {
      const opacity = width > 2 ? 0.3 : 0.16;
      const material = paint(
        `face ${opacity}`,
        () =>
          new MeshBasicMaterial({
            color: token('brass'),
            transparent: true,
            opacity,
            side: DoubleSide,
            depthWrite: false,
          }),
      );
      group.add(new Mesh(shown.face(index), material));
      const around = shown.lines.filter((_, i) => shown.things.edges[i].faces.includes(index));
      group.add(drawLines(pairs(around), pen));
    } else if (spot[0] === 'e') {
      group.add(drawLines(pairs([shown.lines[index]]), pen));
    } else {
      const edge = shown.things.edges[index];
      const p =
        spot[0] === 'v' ? shown.things.vertices[index].place : spot[0] === 'm' ? edge.middle : edge.centre!;
      const r = 0.01;
      group.add(drawLines([p[0] - r, p[1], p[2], p[0] + r, p[1], p[2]], { ...pen, width: 9 }));
    }
    return group;
  }
}
