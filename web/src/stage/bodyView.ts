/** One body on the stage: its faces as one mesh, its edges, and what a face of it looks like by itself. */
import { BufferAttribute, BufferGeometry, Group, Mesh, type Material } from 'three';
import { LineSegments2 } from 'three/examples/jsm/lines/LineSegments2.js';
import type { LineMaterial } from 'three/examples/jsm/lines/LineMaterial.js';
import type { BodyThings, SceneBody } from '../api/types';
import { token } from './colours';
import { pairs, readJson, readLines, readTriangles } from './content';
import { drawLines } from './lines';

export type Content = Map<string, ArrayBuffer>;
/** The pen of edges. */
export const ink = () => ({ colour: token('ink'), width: 1.2 });

/** One body: one mesh for all its faces, and where each face's triangles begin. */
export class BodyView {
  readonly group = new Group();
  things!: BodyThings;
  private told = '';
  readonly mesh: Mesh;
  readonly lines: Float32Array[];
  private edges: LineSegments2;
  /** The edges once more, where they are hidden. */
  private behind: LineSegments2 | null = null;
  private painted: Mesh[] = [];
  private paintedAs = '';
  /** The edges once more, where a section has taken them away. */
  private away: LineSegments2 | null = null;
  /** Of each face, its first triangle, and its first place. */
  private starts: number[] = [];
  private firsts: number[] = [];

  constructor(
    public body: SceneBody,
    content: Content,
    stone: Material,
    lines: LineMaterial,
  ) {
    this.tell(body, content);
    this.lines = body.edges.flatMap((d) => readLines(content.get(d)!));
    this.mesh = new Mesh(this.joined(body.faces.map((d) => readTriangles(content.get(d)!))), stone);
    this.edges = drawLines(pairs(this.lines), ink(), lines);
    this.group.add(this.mesh, this.edges);
  }

  /** Draw the edges that are seen, the hidden ones too, or none. */
  drawEdges(which: 'seen' | 'hidden too' | 'none', dashed: LineMaterial): void {
    this.edges.visible = which !== 'none' && this.lines.length > 0;
    if (which === 'hidden too' && !this.behind) {
      this.behind = new LineSegments2(this.edges.geometry, dashed);
      this.behind.computeLineDistances();
      this.behind.renderOrder = 4;
      this.behind.raycast = () => undefined;
      this.group.add(this.behind);
    }
    if (this.behind) this.behind.visible = which === 'hidden too' && this.lines.length > 0;
  }

  /** Draw the edges that a section has taken away as thin lines, or leave them away. */
  drawAway(on: boolean, thin: LineMaterial): void {
    if (on && !this.away) {
      this.away = new LineSegments2(this.edges.geometry, thin);
      this.away.raycast = () => undefined;
      this.group.add(this.away);
    }
    if (this.away) this.away.visible = on && this.lines.length > 0;
  }

  /** Draw faces that have a colour of their own over the body. stone : what a colour is drawn with. */
  paint(stone: (colour: string) => Material): void {
    const told = JSON.stringify([this.body.painted ?? {}, this.body.through]);
    if (told === this.paintedAs) return;
    this.paintedAs = told;
    for (const mesh of this.painted) {
      this.group.remove(mesh);
      mesh.geometry.dispose();
    }
    this.painted = [];
    for (const [index, { colour }] of Object.entries(this.body.painted ?? {})) {
      if (!colour || this.body.through) continue; // what is seen through has one colour
      const mesh = new Mesh(this.face(Number(index)), stone(colour));
      mesh.raycast = () => undefined;
      mesh.renderOrder = 1;
      this.painted.push(mesh);
      this.group.add(mesh);
    }
  }

  /** Take what is said of its faces, edges and corners, which may change while they do not. */
  tell(body: SceneBody, content: Content): void {
    this.body = body;
    if (this.told === body.things.join()) return;
    this.told = body.things.join();
    const pieces = body.things.map((d) => readJson<BodyThings>(content, d));
    this.things = {
      faces: pieces.flatMap((p) => p.faces ?? []),
      edges: pieces.flatMap((p) => p.edges ?? []),
      vertices: pieces.flatMap((p) => p.vertices ?? []),
    };
  }

  private joined(faces: ReturnType<typeof readTriangles>[]): BufferGeometry {
    const count = (pick: (f: (typeof faces)[0]) => ArrayLike<number>) =>
      faces.reduce((n, f) => n + pick(f).length, 0);
    const places = new Float32Array(count((f) => f.places));
    const normals = new Float32Array(count((f) => f.normals));
    const index = new Uint32Array(count((f) => f.triangles));
    let [p, t] = [0, 0];
    for (const f of faces) {
      places.set(f.places, p);
      normals.set(f.normals, p);
      this.starts.push(t / 3);
      this.firsts.push(p / 3);
      for (const i of f.triangles) index[t++] = i + p / 3;
      p += f.places.length;
    }
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(places, 3));
    geometry.setAttribute('normal', new BufferAttribute(normals, 3));
    geometry.setIndex(new BufferAttribute(index, 1));
    return geometry;
  }

  faceAt(triangle: number): number {
    let [low, high] = [0, this.starts.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.starts[middle] <= triangle) low = middle;
      else high = middle - 1;
    }
    return low;
  }

  /**
   * The shape of one face, with places of its own: when it is thrown away, the body's stay with the graphics
   * card.
   */
  face(index: number): BufferGeometry {
    const whole = this.mesh.geometry;
    const geometry = new BufferGeometry();
    const [places, first] = [whole.getAttribute('position').array as Float32Array, this.firsts[index]];
    geometry.setAttribute(
      'position',
      new BufferAttribute(places.slice(3 * first, 3 * (this.firsts[index + 1] ?? places.length / 3)), 3),
    );
    const normals = whole.getAttribute('normal').array as Float32Array;
    geometry.setAttribute(
      'normal',
      new BufferAttribute(normals.slice(3 * first, 3 * (this.firsts[index + 1] ?? normals.length / 3)), 3),
    );
    const end = this.starts[index + 1] ?? whole.index!.count / 3;
    geometry.setIndex(
      new BufferAttribute(
        (whole.index!.array as Uint32Array).slice(3 * this.starts[index], 3 * end).map((i) => i - first),
        1,
      ),
    );
    return geometry;
  }
}
