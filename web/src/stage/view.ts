/**
 * The view: where it looks, how it is turned, how many pixels a millimetre takes; orthographic, or on request
 * in perspective, where that is told for the depth of what it looks at.
 */
import { type Box3, Matrix4, OrthographicCamera, PerspectiveCamera, Quaternion, Vector3 } from 'three';
import type { FrameData, Spot } from '../api/types';

const DEPTH = 1e5;
const TURN_MS = 220;
const EYE = 2.2; // how many heights of the view the eye is away, in perspective
const PAUSE = 700; // ms without a turn of the hand, after which the next one begins another view
const MOST = 50; // views that are gone back to

/** How the stage is looked at. */
export type Pose = { turn: Quaternion; target: Vector3; scale: number };

/** The corners of a box. */
export const corners = (low: Vector3, high: Vector3) =>
  Array.from(
    { length: 8 },
    (_, i) => new Vector3(i & 1 ? high.x : low.x, i & 2 ? high.y : low.y, i & 4 ? high.z : low.z),
  );

export class View {
  private readonly flatly = new OrthographicCamera(-1, 1, 1, -1, -DEPTH, DEPTH);
  private readonly deeply = new PerspectiveCamera();
  /** Whether what is nearer is larger. */
  private deep = false;
  target = new Vector3();
  scale = 4;
  width = 1;
  height = 1;
  private running = 0;
  private saved: Pose | null = null;
  private past: Pose[] = [];
  private later: Pose[] = [];
  private moved = 0;

  constructor(private changed: () => void) {
    this.camera.quaternion.copy(looking(new Vector3(1, -1.6, 1.1), new Vector3(0, 0, 1)));
  }

  get camera(): OrthographicCamera | PerspectiveCamera {
    return this.deep ? this.deeply : this.flatly;
  }

  get perspective(): boolean {
    return this.deep;
  }

  set perspective(on: boolean) {
    if (on === this.deep) return;
    const turn = this.camera.quaternion.clone();
    this.deep = on;
    this.camera.quaternion.copy(turn);
    this.apply();
  }

  /** How far the eye is from what it looks at, mm. */
  private get eye(): number {
    return (EYE * this.height) / this.scale;
  }

  get pose(): Pose {
    return { turn: this.camera.quaternion.clone(), target: this.target.clone(), scale: this.scale };
  }

  /** Another view begins: the present one can be gone back to. */
  private mark(): void {
    this.past = [...this.past.slice(1 - MOST), this.pose];
    this.later = [];
  }

  /** A turn of the hand: views are told apart by the pauses between. */
  private byHand(): void {
    const now = performance.now();
    if (now - this.moved > PAUSE) this.mark();
    this.moved = now;
    this.stop();
  }

  /** Go to the view before, or on to the one after; false where there is none. */
  step(way: 'back' | 'on'): boolean {
    const [from, to] = way === 'back' ? [this.past, this.later] : [this.later, this.past];
    const pose = from.pop();
    if (!pose) return false;
    to.push(this.pose);
    this.moved = 0;
    this.run(pose.turn, pose.target, pose.scale);
    return true;
  }

  resize(width: number, height: number): void {
    this.width = Math.max(width, 1);
    this.height = Math.max(height, 1);
    this.apply();
  }

  apply(): void {
    const c = this.camera;
    if (c instanceof OrthographicCamera) {
      c.left = -this.width / 2 / this.scale;
      c.right = -c.left;
      c.top = this.height / 2 / this.scale;
      c.bottom = -c.top;
      c.position.copy(this.target);
    } else {
      c.fov = (360 / Math.PI) * Math.atan(1 / (2 * EYE));
      c.aspect = this.width / this.height;
      [c.near, c.far] = [this.eye / 50, this.eye * 50];
      c.position.copy(this.target).addScaledVector(this.towards(), this.eye);
    }
    c.updateProjectionMatrix();
    c.updateMatrixWorld();
    this.changed();
  }

  /** Stage pixels of a place in space. */
  screen(p: Vector3): [number, number] {
    const q = p.clone().applyMatrix4(this.camera.matrixWorldInverse);
    const size = this.scale * this.nearness(q.z);
    return [this.width / 2 + q.x * size, this.height / 2 - q.y * size];
  }

  /** How much larger than in the depth of the target something is, by its depth before the camera. */
  private nearness(z: number): number {
    return this.deep ? this.eye / Math.max(-z, this.eye / 1000) : 1;
  }

  /** The same for very many places: a function of their coordinates that makes nothing new. */
  flat(): (x: number, y: number, z: number, out: [number, number]) => void {
    const m = this.camera.matrixWorldInverse.elements;
    const [scale, w, h] = [this.scale, this.width / 2, this.height / 2];
    return (x, y, z, out) => {
      const s = this.deep ? scale * this.nearness(m[2] * x + m[6] * y + m[10] * z + m[14]) : scale;
      out[0] = w + (m[0] * x + m[4] * y + m[8] * z + m[12]) * s;
      out[1] = h - (m[1] * x + m[5] * y + m[9] * z + m[13]) * s;
    };
  }

  /** The place in the target's depth under stage pixels. */
  place(x: number, y: number): Vector3 {
    const local = new Vector3((x - this.width / 2) / this.scale, (this.height / 2 - y) / this.scale, 0);
    return local.applyQuaternion(this.camera.quaternion).add(this.target);
  }

  /** The direction towards the eye. */
  towards(): Vector3 {
    return new Vector3(0, 0, 1).applyQuaternion(this.camera.quaternion);
  }

  turn(dx: number, dy: number): void {
    const yaw = new Quaternion().setFromAxisAngle(new Vector3(0, 0, 1), -dx * 0.008);
    const across = new Vector3(1, 0, 0).applyQuaternion(this.camera.quaternion);
    const pitch = new Quaternion().setFromAxisAngle(across, -dy * 0.008);
    this.byHand();
    this.camera.quaternion.premultiply(pitch).premultiply(yaw).normalize();
    this.apply();
  }

  slide(dx: number, dy: number): void {
    this.byHand();
    this.target.add(
      new Vector3(-dx / this.scale, dy / this.scale, 0).applyQuaternion(this.camera.quaternion),
    );
    this.apply();
  }

  zoom(x: number, y: number, factor: number): void {
    this.byHand();
    const before = this.place(x, y);
    this.scale = Math.min(Math.max(this.scale * factor, 1e-3), 1e4);
    this.target.add(before.sub(this.place(x, y)));
    this.apply();
  }

  /** Look from a direction, `up` upwards on the screen; the size stays. */
  lookFrom(towards: Vector3, up: Vector3, target?: Vector3, scale?: number): void {
    this.glide(looking(towards, up), target ?? this.target, scale ?? this.scale);
  }

  /** Look square at a plane. */
  squareTo(frame: FrameData, centre?: Vector3, scale?: number): void {
    const n = new Vector3(...(frame.normal as Spot));
    const origin = new Vector3(...(frame.origin as Spot));
    this.lookFrom(n, new Vector3(...(frame.y as Spot)), centre ?? origin, scale);
  }

  /** Show a box whole; share : how much of the view it takes, of what it takes at most. */
  fit(low: Vector3, high: Vector3, quick = false, share = 1): void {
    const centre = low.clone().add(high).multiplyScalar(0.5);
    const scale = share * this.whole(low, high, centre, this.camera.quaternion);
    if (quick) {
      this.target.copy(centre);
      this.scale = scale;
      this.apply();
    } else this.glide(this.camera.quaternion.clone(), centre, scale);
  }

  /** The scale at which a box is whole about a place, looked at with a turn. */
  private whole(low: Vector3, high: Vector3, centre: Vector3, turn: Quaternion): number {
    let [w, h] = [1e-6, 1e-6];
    for (const p of corners(low, high)) {
      p.sub(centre).applyQuaternion(turn.clone().invert());
      [w, h] = [Math.max(w, 2 * Math.abs(p.x)), Math.max(h, 2 * Math.abs(p.y))];
    }
    return Math.min((0.74 * this.width) / w, (0.68 * this.height) / h);
  }

  /** Keep the present view, to come back to it. */
  save(): void {
    this.saved ??= this.pose;
  }

  /** Go back to the kept view, or, where a box would not be in it, to one of all there is from there. */
  restore(wanted: Box3 | null, [low, high]: [Vector3, Vector3]): void {
    const { saved } = this;
    this.saved = null;
    if (!saved) return;
    const off = (p: Vector3) => {
      p.sub(saved.target).applyQuaternion(saved.turn.clone().invert()).multiplyScalar(saved.scale);
      return Math.abs(p.x) > this.width / 2 || Math.abs(p.y) > this.height / 2;
    };
    if (!wanted || !corners(wanted.min, wanted.max).some(off))
      return this.glide(saved.turn, saved.target, saved.scale);
    const centre = low.clone().add(high).multiplyScalar(0.5);
    this.glide(saved.turn, centre, this.whole(low, high, centre, saved.turn));
  }

  /** Return a way back to the present view. */
  keep(): () => void {
    const [turn, target, scale] = [this.camera.quaternion.clone(), this.target.clone(), this.scale];
    return () => this.glide(turn, target, scale);
  }

  /** Go to a view that was kept. */
  go(pose: Pose): void {
    this.glide(pose.turn, pose.target, pose.scale);
  }

  /** Show a piece of the stage, in its pixels, as large as it goes. */
  zoomTo(low: [number, number], high: [number, number]): void {
    const [w, h] = [Math.abs(high[0] - low[0]), Math.abs(high[1] - low[1])];
    const centre = this.place((low[0] + high[0]) / 2, (low[1] + high[1]) / 2);
    const by = Math.min(this.width / Math.max(w, 1), this.height / Math.max(h, 1));
    this.glide(this.camera.quaternion.clone(), centre, Math.min(this.scale * by, 1e4));
  }

  private glide(to: Quaternion, target: Vector3, scale: number): void {
    const same =
      this.camera.quaternion.angleTo(to) < 1e-6 &&
      this.target.distanceTo(target) * this.scale < 0.5 &&
      Math.abs(scale / this.scale - 1) < 1e-6;
    if (!same) this.mark();
    this.moved = 0;
    this.run(to, target, scale);
  }

  private run(to: Quaternion, target: Vector3, scale: number): void {
    this.stop();
    const [q0, t0, s0] = [this.camera.quaternion.clone(), this.target.clone(), this.scale];
    const began = performance.now();
    const quick = matchMedia('(prefers-reduced-motion: reduce)').matches;
    const step = () => {
      const k = quick ? 1 : Math.min((performance.now() - began) / TURN_MS, 1);
      const e = k * k * (3 - 2 * k);
      this.camera.quaternion.slerpQuaternions(q0, to, e);
      this.target.lerpVectors(t0, target, e);
      this.scale = s0 * (scale / s0) ** e;
      this.apply();
      this.running = k < 1 ? requestAnimationFrame(step) : 0;
    };
    step();
  }

  private stop(): void {
    if (this.running) cancelAnimationFrame(this.running);
    this.running = 0;
  }
}

export function looking(towards: Vector3, up: Vector3): Quaternion {
  return new Quaternion().setFromRotationMatrix(new Matrix4().lookAt(towards, new Vector3(), up));
}
