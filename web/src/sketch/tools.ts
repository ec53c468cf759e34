/** The tools of the drawing board: the shapes in their manners, and how curves are cut. */

/** least: a shape of as many places as one likes, at least so many; Enter ends it. */
export type Manner = { shape: string; name: string; needs: string[]; measures: string[]; least?: number };
export type ShapeTool =
  'point' | 'line' | 'rectangle' | 'circle' | 'arc' | 'slot' | 'polygon' | 'ellipse' | 'spline';
export type CutTool = 'trim' | 'extend' | 'split' | 'spline point';

export const SHAPES: Record<ShapeTool, Manner[]> = {
  point: [{ shape: 'point', name: 'point', needs: ['its place'], measures: [] }],
  line: [
    { shape: 'line', name: 'straight', needs: ['its start', 'its end'], measures: ['length'] },
    {
      shape: 'tangent_arc',
      name: 'tangent arc',
      needs: ['the end it goes on from', 'its end'],
      measures: ['radius'],
    },
  ],
  rectangle: [
    {
      shape: 'rectangle',
      name: 'by corners',
      needs: ['one corner', 'the opposite corner'],
      measures: ['width', 'height'],
    },
    {
      shape: 'rectangle_centre',
      name: 'by its middle',
      needs: ['its middle', 'a corner'],
      measures: ['width', 'height'],
    },
    {
      shape: 'rectangle_three',
      name: 'aslant',
      needs: ['one corner', 'the next corner', 'a place on the side across'],
      measures: ['width', 'height'],
    },
  ],
  circle: [
    {
      shape: 'circle',
      name: 'by its centre',
      needs: ['its centre', 'a place on it'],
      measures: ['diameter'],
    },
    {
      shape: 'circle_three',
      name: 'through three places',
      needs: ['a place on it', 'another place on it', 'a third place on it'],
      measures: ['diameter'],
    },
    {
      shape: 'circle_tangent',
      name: 'touching three curves',
      needs: ['a curve to touch', 'another curve to touch', 'a third curve to touch'],
      measures: [],
    },
  ],
  arc: [
    {
      shape: 'arc',
      name: 'by three places',
      needs: ['its start', 'its end', 'a place between'],
      measures: ['radius'],
    },
    {
      shape: 'arc_centre',
      name: 'about its centre',
      needs: ['its centre', 'its start', 'its end, counter-clockwise'],
      measures: ['radius'],
    },
  ],
  slot: [
    {
      shape: 'slot',
      name: 'straight',
      needs: ['the middle of one end', 'the middle of the other', 'a place on its rim'],
      measures: ['width'],
    },
    {
      shape: 'arc_slot',
      name: 'curved',
      needs: [
        'the centre it bends about',
        'the middle of one end',
        'the middle of the other, counter-clockwise',
        'a place on its rim',
      ],
      measures: ['width'],
    },
  ],
  ellipse: [
    {
      shape: 'ellipse',
      name: 'by its axes',
      needs: ['its middle', 'the end of an axis', 'a place on it, beside the axis'],
      measures: ['axis', 'cross axis'],
    },
    {
      shape: 'ellipse_arc',
      name: 'part of one',
      needs: ['its middle', 'the end of an axis', 'its start', 'its end, counter-clockwise'],
      measures: ['axis', 'cross axis'],
    },
  ],
  spline: [
    {
      shape: 'spline',
      name: 'through points',
      needs: ['its first point', 'its next point', 'its next point', 'its next point, or Enter'],
      measures: [],
      least: 3,
    },
    {
      shape: 'spline_pulled',
      name: 'pulled by points',
      needs: ['its first end', 'a point that pulls', 'the next point', 'the next point, or Enter at its end'],
      measures: [],
      least: 3,
    },
  ],
  polygon: [
    {
      shape: 'polygon',
      name: 'regular',
      needs: ['its middle', 'a corner'],
      measures: ['sides', 'across corners'],
    },
  ],
};

/** The manners of each cutting tool: the word the server knows, and what to click. */
export const CUTS: Record<CutTool, { manner: string; name: string; needs: string[] }[]> = {
  trim: [
    { manner: 'nearest', name: 'piece', needs: ['the piece that is to go'] },
    { manner: 'sweep', name: 'sweep', needs: ['and drag across the pieces that are to go'] },
    {
      manner: 'corner',
      name: 'corner',
      needs: ['the first curve, on the part that stays', 'the second curve, on the part that stays'],
    },
    {
      manner: 'inside',
      name: 'inside',
      needs: ['one boundary', 'the other boundary', 'a curve to cut between them'],
    },
    {
      manner: 'outside',
      name: 'outside',
      needs: ['one boundary', 'the other boundary', 'a curve to cut beyond them'],
    },
  ],
  extend: [
    { manner: '', name: '', needs: ['a line, an arc or a part of a spline near the end that is to grow'] },
  ],
  split: [{ manner: '', name: '', needs: ['the place where it is to break', 'the second place'] }],
  'spline point': [
    { manner: '', name: '', needs: ['a spline where the point is to stand; the curve stays as it is'] },
  ],
};

export const isShape = (tool: string): tool is ShapeTool => tool in SHAPES;
export const isCut = (tool: string): tool is CutTool => tool in CUTS;
