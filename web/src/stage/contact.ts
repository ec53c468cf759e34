/**
 * A soft shade where faces come near to each other, so that depth reads: ambient occlusion of the solid bodies,
 * laid over the finished picture once the view stands. While it moves nothing of it is worked out.
 */
import {
  CustomBlending,
  DoubleSide,
  type Group,
  Mesh,
  type OrthographicCamera,
  type PerspectiveCamera,
  PlaneGeometry,
  Scene,
  ShaderMaterial,
  SrcColorFactor,
  Vector2,
  type WebGLRenderer,
  ZeroFactor,
} from 'three';
import { GTAOPass } from 'three/examples/jsm/postprocessing/GTAOPass.js';

/** The layer of what casts and takes the shade. */
export const SHADED = 1;
const REACH = 26; // px that the shade reaches
const STRENGTH = 0.55; // of 1, how dark the darkest place becomes
const SLOW = 220; // ms: where drawing it takes longer, it is left away

type Camera = OrthographicCamera | PerspectiveCamera;

export class ContactShade {
  private world = new Scene();
  private passes = new Map<string, GTAOPass>();
  private over: ShaderMaterial;
  private sheet: Scene;
  private quad: Mesh;
  /** How often it took too long. */
  private late = 0;

  constructor(bodies: Group) {
    this.world.children.push(bodies); // drawn in two worlds; it stays the child of the other one
    this.over = new ShaderMaterial({
      uniforms: { shade: { value: null }, strength: { value: STRENGTH } },
      vertexShader: 'varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }',
      fragmentShader:
        'uniform sampler2D shade; uniform float strength; varying vec2 at;' +
        'void main() { gl_FragColor = vec4(vec3(mix(1.0, texture2D(shade, at).r, strength)), 1.0); }',
      ...{ blending: CustomBlending, blendSrc: ZeroFactor, blendDst: SrcColorFactor },
      ...{ depthTest: false, depthWrite: false, transparent: true },
    });
    this.sheet = new Scene();
    this.quad = new Mesh(new PlaneGeometry(2, 2), this.over);
    this.quad.frustumCulled = false;
    this.quad.layers.enableAll();
    this.sheet.add(this.quad);
  }

  /** Whether this machine draws it too slowly to be of use; `localStorage['wendal.shade'] = 'always'` waits. */
  get tooSlow(): boolean {
    return this.late > 1 && localStorage.getItem('wendal.shade') !== 'always';
  }

  /** Lay the shade over what has just been drawn. reach : mm a pixel; radius : of all that is shown, mm. */
  draw(renderer: WebGLRenderer, camera: Camera, scale: number, radius: number): void {
    const began = performance.now();
    const size = renderer.getDrawingBufferSize(new Vector2());
    const own = camera.clone() as Camera;
    own.layers.set(SHADED);
    if (own.type === 'OrthographicCamera') [own.near, own.far] = [-radius, radius];
    own.updateProjectionMatrix();
    const pass = this.pass(own, size);
    pass.camera = own;
    pass.updateGtaoMaterial({ radius: REACH / scale, thickness: (2 * REACH) / scale });
    const { autoClear } = renderer;
    pass.render(renderer, null as never, null as never, 0, false);
    renderer.setRenderTarget(null);
    this.over.uniforms.shade.value = pass.gtaoMap;
    renderer.autoClear = false;
    renderer.render(this.sheet, own);
    renderer.autoClear = autoClear;
    this.watch(renderer, began);
  }

  /** Give back what it holds of the graphics memory. */
  dispose(): void {
    for (const pass of this.passes.values()) pass.dispose();
    this.over.dispose();
    this.quad.geometry.dispose();
  }

  private pass(camera: Camera, size: Vector2): GTAOPass {
    let pass = this.passes.get(camera.type);
    if (!pass) {
      pass = new GTAOPass(this.world, camera, size.x, size.y);
      pass.output = GTAOPass.OUTPUT.Off;
      pass.updateGtaoMaterial({ distanceExponent: 1, scale: 1.2, samples: 16 });
      (pass as unknown as { normalMaterial: { side: number } }).normalMaterial.side = DoubleSide;
      this.passes.set(camera.type, pass);
    }
    if (pass.width !== size.x || pass.height !== size.y) pass.setSize(size.x, size.y);
    return pass;
  }

  /** The first times, wait for the picture and see how long it took. */
  private looked = 0;
  private watch(renderer: WebGLRenderer, began: number): void {
    if (this.looked > 2) return;
    this.looked += 1;
    const gl = renderer.getContext();
    gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
    if (this.looked > 1 && performance.now() - began > SLOW) this.late += 1; // the first one makes the programs
  }
}
