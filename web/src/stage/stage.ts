/**
 * The stage: renderer, view, everything shown on it, and what is under the pointer. Drawn only when something
 * changed.
 */
import {
  AmbientLight,
  Box3,
  DirectionalLight,
  Group,
  Raycaster,
  Scene as World,
  Vector2,
  Vector3,
  type WebGLRenderer,
} from 'three';
import type { Compared, FrameData, PreviewShape, Scene, TriedOn } from '../api/types';
import type { Showing } from '../state/versions.svelte';
import { Bodies } from './bodies';
import { giveCanvas, takeCanvas } from './canvas';
import { token } from './colours';
import { pairs, readLines } from './content';
import { cutSpots } from './cutSpots';
import { finesse } from './finesse';
import { drawCompared } from './comparing';
import { ContactShade } from './contact';
import { discard, drawLines, setResolution } from './lines';
import { BASES, Planes, type Flag } from './planes';
import { previewMaterial } from './preview';
import { at } from './sketches';
import type { Thing } from './things';
import { drawTried } from './trying';
import { View, corners } from './view';

const STANDS = 140; // ms without a frame, after which the contact shade is drawn
const HATCH = 9; // px between hatching lines, from half to twice while zooming

export class Stage {
  readonly view: View;
  readonly bodies = new Bodies();
  readonly planes = new Planes();
  private renderer: WebGLRenderer;
  private world = new World();
  private overlay = new Group();
  private previewed = new Group();
  private ahead: Box3 | null = null; // around what a preview adds
  private compared = new Group();
  private old = new Group();
  private threads = new Group();
  private light = new DirectionalLight(0xffffff, 2.1);
  private ray = new Raycaster();
  private due = 0;
  private contact = new ContactShade(this.bodies.group);
  private shaded = false;
  private standing = 0;
  private stands = finesse().stands;
  private late = 0;
  /** How many draw calls the last frame took. */
  draws = 0;
  private scene: Scene | null = null;
  private fitted = false;
  /** Kinds of things that are left out. */
  private without: string[] = [];
  private hiddenSketch = '';
  private listeners = new Set<() => void>();

  constructor(
    private host: HTMLElement,
    private content: Map<string, ArrayBuffer>,
  ) {
    this.renderer = takeCanvas();
    this.renderer.setClearColor(token('stage'), 1);
    this.renderer.clear();
    host.prepend(this.renderer.domElement);
    this.view = new View(() => this.invalidate());
    this.world.add(
      new AmbientLight(0xffffff, 1.55),
      this.light,
      this.bodies.group,
      this.bodies.contour,
      this.planes.group,
      this.previewed,
      this.compared,
      this.overlay,
      this.old,
      this.threads,
    );
  }

  /** Call back after every drawn frame in which the view may have moved. */
  onView(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  resize(): void {
    const { clientWidth: w, clientHeight: h } = this.host;
    if (this.fitted && w > 1 && h > 1)
      this.view.scale *= Math.min(w, h) / Math.min(this.view.width, this.view.height);
    this.renderer.setSize(w, h);
    setResolution(w, h);
    this.view.resize(w, h);
    if (!this.fitted && this.scene) this.fit(true);
  }

  invalidate(): void {
    this.due ||= requestAnimationFrame(() => {
      this.due = 0;
      const zoomed = this.sectioned ? this.view.scale / this.sectioned.scale : 1;
      if (this.sectioned && (zoomed > 2 || zoomed < 0.5)) this.section(this.sectioned.frames);
      this.bodies.scaled(this.view.scale);
      // The light stands behind the viewer's left shoulder, so that faces differ from every side.
      this.light.position.set(-0.45, 0.65, 1).applyQuaternion(this.view.camera.quaternion);
      clearTimeout(this.late);
      if (this.stands) this.late = window.setTimeout(() => this.draw(), this.stands);
      else this.draw();
      for (const listener of this.listeners) listener();
      clearTimeout(this.standing);
      if (this.shading) this.standing = window.setTimeout(() => this.drawShaded(), STANDS);
    });
  }

  private draw(): void {
    this.renderer.render(this.world, this.view.camera);
    this.draws = this.renderer.info.render.calls;
  }

  /** Whether a contact shade is drawn while the view stands. */
  get shading(): boolean {
    const plain = !this.sectioned && !this.hiddenSketch && !this.compared.children.length;
    return this.shaded && plain && !this.contact.tooSlow && !!this.scene?.bodies.length;
  }

  private drawShaded(): void {
    if (this.due || !this.shading) return;
    const [low, high] = this.box();
    const reach = low.distanceTo(this.view.target) + high.distanceTo(this.view.target);
    this.renderer.render(this.world, this.view.camera);
    this.contact.draw(this.renderer, this.view.camera, this.view.scale, reach);
  }

  /** Draw the contact shade, or leave it away. */
  shade(on: boolean): void {
    this.shaded = on;
    this.invalidate();
  }

  /** The machine draws the contact shade too slowly. */
  get shadesSlowly(): boolean {
    return this.contact.tooSlow;
  }

  show(scene: Scene): void {
    const whole = !!this.scene && this.seen(...this.box());
    const first = !!this.scene && !this.scene.bodies.length && !this.scene.sketches.length;
    this.scene = scene;
    this.bodies.update(scene.bodies, this.content);
    this.drawThreads(scene);
    this.redrawPlanes();
    if (!this.fitted && this.view.width > 1) this.fit(true);
    else if (first && scene.bodies.length && !this.hiddenSketch) this.fit();
    else if (whole) this.bringAlong();
    this.invalidate();
  }

  /** Whether a box lies within the view. */
  private seen(low: Vector3, high: Vector3): boolean {
    const { width, height } = this.view;
    return corners(low, high).every((p) => {
      const [x, y] = this.view.screen(p);
      return x > 0 && x < width && y > 0 && y < height;
    });
  }

  /**
   * What was all in view is so again, after new geometry has left it; never on the drawing board, which has a
   * view of its own.
   */
  private bringAlong(): void {
    if (this.hiddenSketch || this.seen(...this.box())) return;
    const back = this.view.keep();
    this.fit();
    this.moved?.(back);
  }

  /** Threaded ends as drawings show them: three quarters of a thin circle around the hole. */
  private drawThreads(scene: Scene): void {
    discard(this.threads);
    const lines: number[] = [];
    for (const { frame, radius } of scene.threads ?? []) {
      const [o, x, y, n] = [frame.origin, frame.x, frame.y, frame.normal].map(
        (v) => new Vector3(...(v as [number, number, number])),
      );
      const place = (i: number) => {
        const t = (i * Math.PI) / 24;
        return o
          .clone()
          .addScaledVector(x, radius * Math.cos(t))
          .addScaledVector(y, radius * Math.sin(t))
          .addScaledVector(n, -0.02);
      };
      for (let i = 1; i < 37; i++) lines.push(...place(i).toArray(), ...place(i + 1).toArray());
    }
    if (lines.length) this.threads.add(drawLines(lines, { colour: token('ink'), width: 0.9 }));
  }

  /** Leave kinds of things out of the view, and the sketch that is on the drawing board. */
  furnish(without: string[], hiddenSketch: string): void {
    if (this.without.join() === without.join() && this.hiddenSketch === hiddenSketch) return;
    [this.without, this.hiddenSketch] = [without, hiddenSketch];
    this.bodies.dim(hiddenSketch !== '');
    this.redrawPlanes();
  }

  /** Show what a section takes away as thin lines, or not. */
  drawAway(on: boolean): void {
    this.bodies.drawAway(on);
    this.invalidate();
  }
  /** Take the outlines of the cuts at some frames as the kernel has them. */
  outlined(of: string, lines: number[][]): void {
    this.bodies.outlined(of, lines);
    this.invalidate();
  }

  /** Show bodies cut at the planes of frames, what lies before all of them taken away; none shows all. */
  section(frames: FrameData[]): void {
    if (!frames.length && !this.sectioned) return;
    this.sectioned = frames.length ? { frames, scale: this.view.scale } : null;
    this.bodies.cut(frames, HATCH / this.view.scale);
    this.invalidate();
  }

  /** Draw the edges that are seen, the hidden ones too, or none; in perspective or not. */
  look(edges: 'seen' | 'hidden too' | 'none', perspective: boolean): void {
    this.bodies.drawEdges(edges);
    this.view.perspective = perspective && !this.hiddenSketch;
    this.invalidate();
  }

  /** Places that a thing reaches to; none where it has no end. */
  extent(thing: Thing): Vector3[] {
    const box = new Box3();
    for (const group of [this.bodies.highlight(thing, 1), this.planes.highlight(thing, 1)]) {
      if (group.children.length) box.expandByObject(group);
      discard(group);
    }
    if (box.isEmpty()) return [];
    const [low, high] = this.box();
    const least = 0.04 * low.distanceTo(high); // a corner is seen with what is around it
    if (box.min.distanceTo(box.max) < least) box.expandByScalar(least);
    return [box.min, box.max];
  }

  /** Told when the view had to move, with a way back. */
  moved: ((back: () => void) => void) | null = null;

  private sectioned: { frames: FrameData[]; scale: number } | null = null;

  private redrawPlanes(): void {
    if (!this.scene) return;
    this.planes.update(
      this.scene.datums.filter((d) => !this.without.includes(d.kind)),
      this.without.includes('sketch') ? [] : this.scene.sketches,
      this.box(),
      !this.without.includes('base'),
      this.scene.bodies.length > 0,
      this.hiddenSketch,
      this.view.scale,
    );
    this.invalidate();
  }

  /** The plane of a flat face or a base plane. */
  frameOf(thing: Thing): FrameData | null {
    if (thing.kind === 'base') return BASES.find((b) => `base:${b.name}` === thing.key)?.frame ?? null;
    return this.bodies.frameOf(thing);
  }

  get flags(): Flag[] {
    return this.planes.flags;
  }

  box(): [Vector3, Vector3] {
    const [low, high] = this.bodies.box() ?? [
      new Vector3(Infinity, Infinity, Infinity),
      new Vector3(-Infinity, -Infinity, -Infinity),
    ];
    for (const sketch of this.scene?.sketches ?? []) {
      const [o, x, y] = [sketch.frame.origin, sketch.frame.x, sketch.frame.y].map((v) => new Vector3(...v));
      for (const c of sketch.curves) {
        for (const [u, v] of c.points) {
          const p = o.clone().addScaledVector(x, u).addScaledVector(y, v);
          low.min(p);
          high.max(p);
        }
      }
    }
    if (this.ahead) {
      low.min(this.ahead.min);
      high.max(this.ahead.max);
    }
    if (low.x > high.x) return [new Vector3(-40, -40, -40), new Vector3(40, 40, 40)];
    return [low, high];
  }

  /** Go back to the kept view; where a sketch would not be all in it, all there is is brought into it. */
  restore(sketch: string): void {
    const drawn = new Box3();
    for (const s of this.scene?.sketches.filter((x) => x.step === sketch) ?? [])
      for (const c of s.curves) for (const [u, v] of c.points) drawn.expandByPoint(at(s.frame, u, v));
    this.view.restore(drawn.isEmpty() ? null : drawn, this.box());
  }

  fit(quick = false): void {
    this.fitted = true;
    this.view.fit(...this.box(), quick);
  }

  squareTo(frame: FrameData): void {
    const [low, high] = this.box();
    const n = new Vector3(...frame.normal);
    const centre = low.clone().add(high).multiplyScalar(0.5);
    centre.addScaledVector(n, new Vector3(...frame.origin).sub(centre).dot(n));
    const span = (axis: readonly number[]) =>
      axis.reduce((sum, a, i) => sum + Math.abs(a) * (high.getComponent(i) - low.getComponent(i)), 0);
    const scale = Math.min(
      (0.62 * this.view.width) / Math.max(span(frame.x), 1),
      (0.62 * this.view.height) / Math.max(span(frame.y), 1),
    );
    this.view.squareTo(frame, centre, scale);
  }

  /**
   * Everything under a stage pixel, likeliest first: corners, edges, borders of planes, regions and faces,
   * insides. cuts : outlines of cuts before all else.
   */
  under(x: number, y: number, cuts = false): Thing[] {
    this.aim(x, y);
    const cut = cuts ? cutSpots(this.bodies.cuts, x, y, this.view) : [];
    const solid = this.bodies.under(x, y, this.ray, this.view);
    const flat = this.planes.under(x, y, this.ray, this.view);
    // The middle of an edge is the edge, unless a point is wanted.
    const middle = (t: Thing) => t.kind === 'spot' && t.ref.at === 'middle';
    const small = solid.filter((t) => (t.kind === 'vertex' || t.kind === 'spot') && !middle(t));
    const middles = solid.filter(middle);
    const edges = solid.filter((t) => t.kind === 'edge');
    const faces = solid.filter((t) => t.kind === 'flat' || t.kind === 'face');
    // A region that lies on a face or in front of it comes before the face.
    const front = faces[0]?.depth ?? Infinity;
    const [near, far] = [
      flat.regions.filter((r) => r.depth <= front + 0.01),
      flat.regions.filter((r) => r.depth > front + 0.01),
    ];
    // What is drawn in a sketch counts like an edge where it can be seen; behind a face it comes after the
    // face.
    // Base planes and axes step back before anything solid; they are picked by their flags, or where nothing
    // is behind them.
    const behind = (t: Thing) => t.depth > front + 0.5 || (t.kind === 'base' && front < Infinity);
    // Points and systems are drawn through everything; axes, borders and curves count only where they are
    // seen. Axes and borders are picked by their flags and lines, and give way to what is built and drawn.
    const through = (t: Thing) => t.kind === 'datum' && t.facets.includes('point');
    const own = [...flat.dots, ...flat.lines].filter(
      (t) => t.kind !== 'curve' && t.kind !== 'dot' && (through(t) || !behind(t)),
    );
    const drawn = [...flat.dots, ...flat.lines].filter((t) => !own.includes(t) && !behind(t));
    const hidden = [...flat.dots, ...flat.lines, ...flat.borders].filter(
      (t) => !own.includes(t) && behind(t),
    );
    return [
      ...cut,
      ...small,
      ...own.filter(through),
      ...edges,
      ...middles,
      ...drawn,
      ...near,
      ...faces,
      ...own.filter((t) => !through(t)),
      ...flat.borders.filter((t) => !behind(t)),
      ...hidden,
      ...far,
      ...flat.insides,
    ];
  }

  /** Everything on the stage that can be picked: planes and regions first. */
  all(): Thing[] {
    return [...this.planes.all(), ...this.bodies.all()];
  }

  private aim(x: number, y: number): void {
    const ndc = new Vector2((2 * x) / this.view.width - 1, 1 - (2 * y) / this.view.height);
    this.ray.setFromCamera(ndc, this.view.camera);
    // The eye stands outside everything, so that distances along the ray order what is in front.
    this.ray.ray.origin.addScaledVector(this.ray.ray.direction, -1e4);
  }

  highlight(hovered: Thing | null, picked: Thing[]): void {
    discard(this.overlay);
    for (const thing of picked)
      this.overlay.add(this.bodies.highlight(thing, 3.2), this.planes.highlight(thing, 3.2));
    if (hovered) this.overlay.add(this.bodies.highlight(hovered, 1.6), this.planes.highlight(hovered, 1.6));
    this.invalidate();
  }

  /** Mark in carmine where a reference was before. */
  markOld(place: number[] | null): void {
    discard(this.old);
    if (place) {
      const arm = 9 / this.view.scale;
      const lines = [0, 1, 2].flatMap((axis) =>
        [-1, 1].flatMap((s) => place.map((v, i) => (i === axis ? v + s * arm : v))),
      );
      this.old.add(drawLines(lines, { colour: token('carmine'), width: 2, through: true }));
    }
    this.invalidate();
  }

  /** Show two versions over one another in place of the bodies; null: the bodies again. */
  compare(told: Compared | null, see: Showing, mix: number, sketches: boolean): void {
    discard(this.compared);
    if (told) this.compared.add(drawCompared(told, this.content, see, mix, sketches));
    this.inPlace(!!told);
  }

  /** Show the part with other values in place of the bodies. */
  tryOn(told: TriedOn): void {
    discard(this.compared);
    this.compared.add(drawTried(told, this.content));
    this.inPlace(true);
  }

  private inPlace(other: boolean): void {
    this.bodies.group.visible = this.bodies.contour.visible = !other;
    this.invalidate();
  }

  preview(shape: PreviewShape | null): void {
    const whole = this.seen(...this.box());
    discard(this.previewed);
    this.ahead = null;
    for (const [material, removed] of [
      [shape?.added, false],
      [shape?.removed, true],
    ] as const) {
      if (!material) continue;
      const group = previewMaterial(material.faces, this.content, removed);
      this.previewed.add(group);
      if (!removed && group.children.length) this.ahead = new Box3().setFromObject(group);
      const edges = material.edges.flatMap((d) =>
        this.content.has(d) ? readLines(this.content.get(d)!) : [],
      );
      if (edges.length)
        this.previewed.add(
          drawLines(pairs(edges), {
            colour: token(removed ? 'carmine' : 'verdigris'),
            width: 1.4,
            through: true,
          }),
        );
    }
    for (const d of shape?.datums ?? [])
      this.previewed.add(this.planes.ghost(d.kind, d.frame, this.box(), this.view.scale));
    if (whole && this.ahead) this.bringAlong();
    this.invalidate();
  }

  dispose(): void {
    cancelAnimationFrame(this.due);
    clearTimeout(this.standing);
    clearTimeout(this.late);
    this.contact.dispose();
    discard(this.world); // the canvas lives on, and would hold the shapes of every part
    giveCanvas(this.renderer);
  }
}
