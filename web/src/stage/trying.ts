/** Other values tried on: the bodies as they would be, and the outlines of the part as it is as a ghost. */
import { Color, DoubleSide, Group, MeshLambertMaterial } from 'three';
import type { TriedOn } from '../api/types';
import { token } from './colours';
import { outlines, surfaces } from './comparing';
import { paint } from './paints';
import { material } from './preview';

export function drawTried(told: TriedOn, content: Map<string, ArrayBuffer>): Group {
  const group = new Group();
  const plain = paint(
    'tried',
    () =>
      new MeshLambertMaterial({
        ...{ color: token('stone'), side: DoubleSide },
        ...{ polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 },
      }),
  );
  const ghost: Color = token('verdigris');
  // What was refused changes nothing: the part is seen as it is.
  const refused = told.judgement === 'refused';
  for (const { now, tried } of told.bodies) {
    const shown = refused ? now : tried;
    if (shown) group.add(surfaces(shown, content, plain, 0), outlines(shown, content, token('ink'), 1));
    if (refused || !now) continue;
    if (tried) group.add(outlines(now, content, ghost, 1));
    else {
      const gone = paint('tried gone', () => material(token('carmine'), true, 1));
      group.add(surfaces(now, content, gone, 4), outlines(now, content, token('carmine'), 1.4));
    }
  }
  return group;
}
