/** Reading binary content: a JSON head with its length in front, then little-endian arrays. */
export type Triangles = { places: Float32Array; normals: Float32Array; triangles: Uint32Array };

function head<T>(content: ArrayBuffer): [T, number] {
  const size = new DataView(content).getUint32(0, true);
  return [JSON.parse(new TextDecoder().decode(new Uint8Array(content, 4, size))) as T, 4 + size];
}

export function readTriangles(content: ArrayBuffer): Triangles {
  const [{ places, triangles }, at] = head<{ places: number; triangles: number }>(content);
  return {
    places: new Float32Array(content, at, 3 * places),
    normals: new Float32Array(content, at + 12 * places, 3 * places),
    triangles: new Uint32Array(content, at + 24 * places, 3 * triangles),
  };
}

/** The points of every line, one array a line. */
export function readLines(content: ArrayBuffer): Float32Array[] {
  const [{ counts }, start] = head<{ counts: number[] }>(content);
  let at = start;
  return counts.map((n) => {
    const line = new Float32Array(content, at, 3 * n);
    at += 12 * n;
    return line;
  });
}

const told = new WeakMap<ArrayBuffer, unknown>();

/** JSON content, read once for as long as it is held. */
export function readJson<T>(content: Map<string, ArrayBuffer>, digest: string): T {
  const data = content.get(digest)!;
  if (!told.has(data)) told.set(data, JSON.parse(new TextDecoder().decode(data)));
  return told.get(data) as T;
}

/** Lines as pairs of points, for drawing them in one go. */
export function pairs(lines: Iterable<ArrayLike<number>>): number[] {
  const found: number[] = [];
  for (const line of lines) {
    for (let i = 3; i < line.length; i += 3) {
      found.push(line[i - 3], line[i - 2], line[i - 1], line[i], line[i + 1], line[i + 2]);
    }
  }
  return found;
}
