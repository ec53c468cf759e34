/** Tools that are filled in: what they are made of, their numbers and choices, and the edit that follows. */
import type { Flat } from '../api/types';
import type { Snap } from './geometry';

export type EntityKind = 'point' | 'line' | 'circle' | 'arc' | 'ellipse' | 'ellipse_arc' | 'spline' | 'text';
export type Slot = { name: string; label: string; many: boolean; kinds: EntityKind[]; needs: string };
export type Field = {
  name: string;
  label: string;
  start: string;
  /** Words are typed into it: wide, and the first thing to be typed. */
  wide?: boolean;
  /** Words by value; without them the field is typed. */
  choices?: Record<string, string>;
  when?: [string, string[]];
};
export type Filled = {
  picks: Record<string, string[]>;
  at: Record<string, Flat>;
  values: Record<string, string>;
  kind: (e: string) => string;
  places: Snap[];
  level: string;
};
export type FormTool = {
  title: string;
  slots: Slot[];
  fields: Field[];
  /** Instead of its first slot so many places may be given: a line is drawn between them. */
  places?: number;
  /** What a pick makes of the choices. */
  suits?: (kind: string) => Record<string, string>;
  /** The choice that is the other answer. */
  other?: string;
  edit: (f: Filled) => Record<string, unknown> & { op: string };
};

export const CURVES: EntityKind[] = ['line', 'circle', 'arc', 'ellipse', 'ellipse_arc', 'spline'];
export const ENDED: EntityKind[] = ['line', 'arc', 'ellipse_arc', 'spline'];
const ALL: EntityKind[] = ['point', ...CURVES, 'text'];
export const PLACES = { start: 'its start', middle: 'its middle', end: 'its end' };
const YES = { no: 'no', yes: 'yes' };

/** Corners are points; two curves are a corner of their own. */
function corners(f: Filled): Record<string, unknown> {
  const curves = f.picks.corners.filter((e) => f.kind(e) !== 'point');
  const pair = curves.length === 2 ? { curves, keep: curves.map((c) => f.at[c] ?? [0, 0]) } : {};
  return { points: f.picks.corners.filter((e) => f.kind(e) === 'point'), ...pair };
}

export const FORMS: Record<string, FormTool> = {
  text: {
    title: 'Text',
    slots: [
      {
        name: 'base',
        label: 'base line',
        many: false,
        kinds: CURVES,
        needs: 'a curve to stand along, or the place where a new base line begins',
      },
    ],
    places: 2,
    fields: [
      { name: 'words', label: 'words', start: '', wide: true },
      { name: 'height', label: 'height', start: '5 mm' },
      { name: 'font', label: 'in', start: 'barlow', choices: {} },
      { name: 'place', label: 'at', start: 'start', choices: PLACES },
      {
        name: 'turned',
        label: 'side',
        start: 'auto',
        choices: { auto: 'as it reads', no: 'left of it', yes: 'right of it' },
      },
    ],
    other: 'turned',
    suits: (kind) => ({ place: kind === 'circle' || kind === 'ellipse' ? 'middle' : 'start' }),
    edit: (f) => ({
      op: 'write',
      words: f.values.words,
      height: f.values.height,
      font: f.values.font,
      place: f.values.place,
      turned: { auto: null, no: false, yes: true }[f.values.turned] ?? null,
      ...(f.picks.base.length
        ? { along: f.picks.base[0] }
        : {
            ends: f.places.map(({ at, on }) => ({ at, on })),
            automatic: f.level ? [{ kind: f.level }] : [],
          }),
    }),
  },
  round: {
    title: 'Round',
    slots: [
      {
        name: 'corners',
        label: 'corners, or two curves',
        many: true,
        kinds: ['point', ...ENDED],
        needs: 'a corner',
      },
    ],
    fields: [
      { name: 'radius', label: 'radius', start: '5 mm' },
      {
        name: 'each',
        label: 'with',
        start: 'no',
        choices: { no: 'one radius for all', yes: 'a radius each' },
      },
    ],
    other: 'each',
    edit: (f) => ({
      op: 'round_corner',
      ...corners(f),
      radius: f.values.radius,
      each: f.values.each === 'yes',
    }),
  },
  chamfer: {
    title: 'Chamfer',
    slots: [
      {
        name: 'corners',
        label: 'corners, or two curves',
        many: true,
        kinds: ['point', ...ENDED],
        needs: 'a corner',
      },
    ],
    fields: [
      {
        name: 'manner',
        label: 'by',
        start: 'equal',
        choices: { equal: 'equal legs', two: 'two legs', angle: 'a leg and an angle' },
      },
      { name: 'leg', label: 'leg', start: '3 mm' },
      { name: 'other', label: 'second leg', start: '5 mm', when: ['manner', ['two']] },
      { name: 'angle', label: 'angle', start: '30 deg', when: ['manner', ['angle']] },
      {
        name: 'swap',
        label: 'first leg on',
        start: 'no',
        choices: { no: 'the first curve', yes: 'the second curve' },
        when: ['manner', ['two', 'angle']],
      },
    ],
    other: 'swap',
    edit: (f) => {
      const other = { equal: '', two: f.values.other, angle: f.values.angle }[f.values.manner] ?? '';
      return {
        op: 'chamfer_corner',
        ...corners(f),
        manner: f.values.manner,
        leg: f.values.leg,
        other,
        swap: f.values.swap === 'yes',
      };
    },
  },
  offset: {
    title: 'Offset',
    slots: [{ name: 'curves', label: 'chain', many: true, kinds: CURVES, needs: 'a curve of the chain' }],
    fields: [
      { name: 'distance', label: 'by', start: '3 mm' },
      {
        name: 'side',
        label: 'on',
        start: '1',
        choices: { '1': 'the outside (left)', '-1': 'the inside (right)', both: 'both sides' },
      },
      { name: 'gaps', label: 'gaps', start: 'no', choices: { no: 'sharp', yes: 'rounded' } },
    ],
    other: 'side',
    edit: (f) => ({
      op: 'offset',
      curves: f.picks.curves,
      distance: f.values.distance,
      side: f.values.side === '-1' ? -1 : 1,
      both: f.values.side === 'both',
      round_gaps: f.values.gaps === 'yes',
    }),
  },
  mirror: {
    title: 'Mirror',
    slots: [
      {
        name: 'entities',
        label: 'curves and points',
        many: true,
        kinds: ALL,
        needs: 'what is to be mirrored',
      },
      { name: 'axis', label: 'about', many: false, kinds: ['line'], needs: 'a line or axis to mirror about' },
    ],
    fields: [
      { name: 'linked', label: 'as', start: 'yes', choices: { yes: 'a linked half', no: 'a free copy' } },
    ],
    other: 'linked',
    edit: (f) => ({
      op: 'mirror',
      entities: f.picks.entities,
      axis: f.picks.axis[0],
      linked: f.values.linked === 'yes',
    }),
  },
  repeat: {
    title: 'Pattern',
    slots: [
      {
        name: 'entities',
        label: 'curves and points',
        many: true,
        kinds: ALL,
        needs: 'what is to be repeated',
      },
      {
        name: 'by',
        label: 'along a line, or about a point',
        many: false,
        kinds: ['line', 'point'],
        needs: 'a line or axis to go along, or a point to go about',
      },
    ],
    fields: [
      { name: 'count', label: 'in all', start: '3' },
      { name: 'spacing', label: 'every', start: '' },
      { name: 'back', label: 'way', start: 'no', choices: { no: 'forwards', yes: 'backwards' } },
    ],
    other: 'back',
    edit: (f) => ({
      op: 'repeat',
      entities: f.picks.entities,
      by: f.picks.by[0],
      count: Math.round(Number(f.values.count)) || 0,
      spacing: f.values.spacing || (f.kind(f.picks.by[0]) === 'point' ? '60 deg' : '20 mm'),
      back: f.values.back === 'yes',
    }),
  },
  transform: {
    title: 'Move, turn, scale',
    slots: [
      { name: 'entities', label: 'curves and points', many: true, kinds: ALL, needs: 'what is to be moved' },
      { name: 'about', label: 'about', many: false, kinds: ['point'], needs: '' },
    ],
    fields: [
      { name: 'x', label: 'X', start: '10 mm' },
      { name: 'y', label: 'Y', start: '0 mm' },
      { name: 'turn', label: 'turn', start: '0 deg' },
      { name: 'scale', label: 'times', start: '1' },
      { name: 'copied', label: 'copy', start: 'no', choices: YES },
    ],
    other: 'copied',
    edit: (f) => ({
      op: 'transform',
      entities: f.picks.entities,
      move: [f.values.x, f.values.y],
      turn: f.values.turn,
      scale: Number(f.values.scale) || 0,
      about: f.at[f.picks.about[0]] ?? [0, 0],
      copied: f.values.copied === 'yes',
    }),
  },
};
