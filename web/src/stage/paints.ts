/**
 * Materials by their look, each made once and shared by all that looks so. A graphics card has its programs
 * made from them, which takes up to
 * half a second, and throws a program away with the last material that uses it; so what is drawn anew in the
 * same look must not need a new one.
 */
import type { Material } from 'three';

const MOST = 400; // looks: dashes hang on how near one is
const made = new Map<string, Material>();

/** Return the material of a look, made when it is first asked for. */
export function paint<M extends Material>(look: string, make: () => M): M {
  const known = made.get(look);
  const found = known ?? make();
  made.delete(look); // what was asked for last stands at the end
  made.set(look, found);
  if (made.size > MOST) {
    const [oldest, material] = made.entries().next().value!;
    made.delete(oldest);
    material.dispose();
  }
  return found as M;
}

/**
 * Give all of them back, when their stage closes: a material holds on to every renderer that has drawn it.
 */
export function giveBack(): void {
  for (const material of made.values()) material.dispose();
  made.clear();
}
