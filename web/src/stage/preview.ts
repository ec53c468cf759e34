/** Material to be added (verdigris dots) and to be removed (hatching), in the screen's own pixels. */
import { BufferAttribute, BufferGeometry, Color, DoubleSide, Group, Mesh, ShaderMaterial } from 'three';
import { token } from './colours';
import { readTriangles } from './content';
import { paint } from './paints';

const vertex = 'void main() { gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }';
const fragment = `
uniform vec3 colour; uniform bool hatched; uniform float share;
void main() {
  vec2 p = gl_FragCoord.xy;
  if (hatched) { if (mod(p.x + p.y, 9.0) > 2.0) { gl_FragColor = vec4(colour, 0.16 * share); return; } }
  else { vec2 q = mod(p + vec2(mod(floor(p.y / 6.0), 2.0) * 3.0, 0.0), 6.0) - 3.0; if (dot(q, q) > 2.2) { gl_FragColor = vec4(colour, 0.14 * share); return; } }
  gl_FragColor = vec4(colour, 0.9 * share);
}`;

/** share : how strongly it is seen, up to 1. */
export function material(colour: Color, hatched: boolean, share = 1): ShaderMaterial {
  return new ShaderMaterial({
    uniforms: { colour: { value: colour }, hatched: { value: hatched }, share: { value: share } },
    vertexShader: vertex,
    fragmentShader: fragment,
    transparent: true,
    depthTest: !hatched,
    depthWrite: false,
    side: DoubleSide,
  });
}

export function previewMaterial(
  digests: string[],
  content: Map<string, ArrayBuffer>,
  removed: boolean,
): Group {
  const group = new Group();
  const look = paint(removed ? 'removed' : 'added', () =>
    material(token(removed ? 'carmine' : 'verdigris'), removed),
  );
  for (const digest of digests) {
    const data = content.get(digest);
    if (!data) continue;
    const { places, triangles } = readTriangles(data);
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(places, 3));
    geometry.setIndex(new BufferAttribute(triangles, 1));
    const mesh = new Mesh(geometry, look);
    mesh.renderOrder = 4;
    group.add(mesh);
  }
  return group;
}
