/** The orthographic view: where it looks, how it is turned, how many pixels a millimetre takes. */
import { type Box3, Matrix4, OrthographicCamera, Quaternion, Vector3 } from 'three';
import type { FrameData, Spot } from '../api/types';

const DEPTH = 1e5;
const TURN_MS = 220;

/** The corners of a box. */
export const corners = (low: Vector3, high: Vector3) =>
  Array.from(
    { length: 8 },
    (_, i) => new Vector3(i & 1 ? high.x : low.x, i & 2 ? high.y : low.y, i & 4 ? high.z : low.z),
  );

export class View {
  readonly camera = new OrthographicCamera(-1, 1, 1, -1, -DEPTH, DEPTH);
  target = new Vector3();
  scale = 4;
  width = 1;
  height = 1;
  private running = 0;
  private saved: { turn: Quaternion; target: Vector3; scale: number } | null = null;

  constructor(private changed: () => void) {
    this.camera.quaternion.copy(looking(new Vector3(1, -1.6, 1.1), new Vector3(0, 0, 1)));
  }

  resize(width: number, height: number): void {
    this.width = Math.max(width, 1);
    this.height = Math.max(height, 1);
    this.apply();
  }

  apply(): void {
    const c = this.camera;
    c.left = -this.width / 2 / this.scale;
    c.right = -c.left;
    c.top = this.height / 2 / this.scale;
    c.bottom = -c.top;
    c.position.copy(this.target);
    c.updateProjectionMatrix();
    c.updateMatrixWorld();
    this.changed();
  }

  /** Stage pixels of a place in space. */
  screen(p: Vector3): [number, number] {
    const q = p.clone().applyMatrix4(this.camera.matrixWorldInverse);
    return [this.width / 2 + q.x * this.scale, this.height / 2 - q.y * this.scale];
  }

  /** The same for very many places: a function of their coordinates that makes nothing new. */
  flat(): (x: number, y: number, z: number, out: [number, number]) => void {
    const m = this.camera.matrixWorldInverse.elements;
    const [s, w, h] = [this.scale, this.width / 2, this.height / 2];
    return (x, y, z, out) => {
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
    this.stop();
    this.camera.quaternion.premultiply(pitch).premultiply(yaw).normalize();
    this.apply();
  }

  slide(dx: number, dy: number): void {
    this.stop();
    this.target.add(
      new Vector3(-dx / this.scale, dy / this.scale, 0).applyQuaternion(this.camera.quaternion),
    );
    this.apply();
  }

  zoom(x: number, y: number, factor: number): void {
    this.stop();
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
    this.saved ??= { turn: this.camera.quaternion.clone(), target: this.target.clone(), scale: this.scale };
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

  private glide(to: Quaternion, target: Vector3, scale: number): void {
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

function looking(towards: Vector3, up: Vector3): Quaternion {
  return new Quaternion().setFromRotationMatrix(new Matrix4().lookAt(towards, new Vector3(), up));
}
