/** Every action with its words and keys: what can be begun, drawn, bound and looked at. */
import type { MovesAt } from './trust.svelte';
import type { About, Kind } from '../api/types';
import { drawingActions } from '../pages/actions';
import type { Drawing } from '../pages/drawing.svelte';
import type { Action } from './action';

/** What actions are done to. */
export interface Doing {
  readonly about: About;
  readonly board: {
    take(tool: string): void;
    toggleConstruction(): Promise<void>;
    showConflicts(): void;
    readonly fromFile: { choose(): void };
    readonly binding: {
      propose(): Promise<void>;
      dimension(): Promise<void>;
      constrain(kind: string): Promise<void>;
    };
    readonly moving: { playAll(): Promise<void> };
  } | null;
  readonly stage: { fit(): void } | null;
  dimensions: boolean;
  readonly sights: {
    open(which: 'viewing' | 'listing'): void;
    box(): void;
    toggle(kind: string): Promise<boolean>;
    toAxis(): void;
    step(way: 'back' | 'on'): void;
    deepen(): void;
    shadeOrNot(): void;
    nextEdges(): void;
  };
  readonly versions: { toggle(): void; openCompare(): Promise<void> };
  readonly together: { open(): Promise<void> };
  readonly exchange: { show(): void };
  readonly drawing: Drawing;
  writePages(ending: string): Promise<void>;
  printPages(): Promise<void>;
  readonly route: {
    renumber(): Promise<boolean>;
    moveBy(by: -1 | 1): Promise<void>;
    suppress(): Promise<void>;
    remove(): Promise<void>;
    copy(): void;
    paste(): Promise<void>;
    group(): void;
    roll(by: -1 | 1): void;
    play(): void;
    nextAmiss(): void;
    whatMade(): Promise<void>;
    filtering: boolean;
    aboutOpen: boolean;
  };
  begin(kind: Kind): void;
  closeBoard(): void;
  workIn(): Promise<void>;
  squareTo(): void;
  hide(): Promise<void>;
  measure(): void;
  weigh(): void;
  schedule(): void;
  readonly trust: { shake(): void; showMoves(at?: MovesAt): void; showFamily(): void; pull(): void };
  cutOpen(): void;
  seeThrough(): Promise<void>;
  onlyThis(): Promise<void>;
  fitPicked(): void;
}

export function actionsOf(on: Doing): Action[] {
  const needBoard = () => (on.board ? '' : 'Open a sketch first: make one, or click one on the route card.');
  const kinds = on.about.kinds.map((kind): Action => ({
    group: kind.group as Action['group'],
    key: kind.key,
    title: kind.kind === 'sketch' ? 'New sketch' : kind.title,
    explains: kind.explains,
    run: () => on.begin(kind),
    kind: kind.kind,
    shelf: kind.shelf,
  }));
  return [
    ...kinds,
    ...drawing(on, needBoard),
    ...constraining(on, needBoard),
    ...looking(on),
    ...onRoute(on),
    ...drawingActions(on),
  ];
}

function drawing(on: Doing, needBoard: () => string): Action[] {
  const tools =
    (rail: Action['rail']) =>
    (key: string, title: string, name: string, explains: string, short?: string): Action => ({
      group: 'sketch',
      key,
      title,
      explains,
      barred: needBoard,
      run: () => on.board?.take(name),
      rail,
      tool: name,
      short,
    });
  const [draw, change, take] = [tools('Draw'), tools('Change'), tools('Take in')];
  return [
    draw('k l', 'Line', 'line', 'Straight lines, one after the other; ; for a tangent arc.'),
    draw('k r', 'Rectangle', 'rectangle', 'By two corners, by its middle, or aslant.'),
    draw('k c', 'Circle', 'circle', 'By centre, through three places, or touching three curves.'),
    draw('k a', 'Arc', 'arc', 'By start, end and a place between, or about its centre.'),
    draw('k e', 'Ellipse', 'ellipse', 'By its middle, the end of an axis, and a place on it.'),
    draw('k u', 'Curve (spline)', 'spline', 'Through points, or pulled by them; Enter ends it.', 'Curve'),
    draw('k s', 'Slot', 'slot', 'Straight or curved, and a place on its rim.'),
    draw('k g', 'Polygon', 'polygon', 'Regular, by its middle and a corner.'),
    draw('k p', 'Point', 'point', 'A point of its own.'),
    draw('k t', 'Text', 'text', 'Letters along a curve or a new base line, to build from.'),
    change('k i', 'Trim', 'trim', 'The nearest piece, a sweep, a corner, inside or outside two boundaries.'),
    change('k d', 'Extend', 'extend', 'Lengthen an end up to the next curve.'),
    change('k b', 'Break', 'split', 'Split a curve in two.'),
    change(
      'k w',
      'Add a spline point',
      'spline point',
      'One point more to pull at; the curve stays as it is.',
      'Add point',
    ),
    change(
      'k f',
      'Round a corner',
      'round',
      'Corners, two lines, or all in a box; the sharp corner stays as a point.',
      'Round',
    ),
    change(
      'k h',
      'Chamfer a corner',
      'chamfer',
      'By equal legs, two legs, or a leg and an angle.',
      'Chamfer',
    ),
    change('k o', 'Offset a chain', 'offset', 'Beside a chain, outside or inside; it follows.', 'Offset'),
    change('k m', 'Mirror', 'mirror', 'A linked half or a free copy.'),
    change(
      'k y',
      'Pattern in the sketch',
      'repeat',
      'Along a line or about a point; copies follow.',
      'Pattern',
    ),
    {
      group: 'sketch',
      key: 'k 1',
      title: 'Curves from a file',
      explains: 'DXF or SVG: layers, unit and ends that meet are shown before they are put in.',
      barred: needBoard,
      run: () => on.board?.fromFile.choose(),
      rail: 'Take in',
      short: 'From file',
    },
    change('k v', 'Move, turn or scale', 'transform', 'Picked curves and points, or a copy of them.', 'Move'),
    {
      group: 'sketch',
      key: 'k x',
      title: 'Make construction / make real',
      explains: 'Construction lines bound no region.',
      barred: needBoard,
      run: () => void on.board?.toggleConstruction(),
      rail: 'Change',
      short: 'Construction',
    },
    take('k j', 'Project', 'project', 'Takes in edges, corners and faces of the model; they follow it.'),
    take('k k', 'Cut line', 'cut line', 'Takes in the line where a face or plane meets the sketch plane.'),
    {
      group: 'sketch',
      key: 'k q',
      title: 'Close sketch',
      explains: 'Back to the part; the sketch is picked for the next step.',
      barred: needBoard,
      run: () => on.closeBoard(),
    },
    {
      group: 'sketch',
      key: 'k z',
      title: 'Constrain the rest',
      explains: 'Proposes what would fully constrain the sketch, measured from what is picked.',
      barred: needBoard,
      run: () => void on.board?.binding.propose(),
    },
  ];
}

function constraining(on: Doing, needBoard: () => string): Action[] {
  const seen = new Set<string>();
  const found: Action[] = [];
  for (const c of on.about.constraints) {
    if (!c.key || seen.has(c.key)) continue;
    seen.add(c.key);
    const dimension = c.quantity !== '';
    found.push({
      group: 'constrain',
      key: c.key,
      constraint: dimension ? 'dimension' : c.kind,
      title: dimension ? 'Dimension' : c.title,
      explains: dimension
        ? 'Distance, diameter, radius or angle: the kind follows the picks.'
        : `Wants ${c.wants}.`,
      barred: needBoard,
      rail: 'Constrain',
      run: () => void (dimension ? on.board?.binding.dimension() : on.board?.binding.constrain(c.kind)),
    });
  }
  found.push({
    group: 'constrain',
    key: 'c w',
    title: 'Show what still moves',
    explains: 'Plays every freedom that is left.',
    barred: needBoard,
    run: () => void on.board?.moving.playAll(),
    rail: 'Constrain',
    short: 'Freedoms',
  });
  found.push({
    group: 'constrain',
    key: 'c x',
    title: 'Show conflicts',
    explains: 'What keeps the sketch from being solved, and ways out.',
    barred: needBoard,
    run: () => on.board?.showConflicts(),
    rail: 'Constrain',
    short: 'Conflicts',
  });
  return found;
}

function onRoute(on: Doing): Action[] {
  const closed = () => (on.board ? 'Close the sketch first.' : '');
  const { route } = on;
  const shelf =
    (shelf: string) =>
    (key: string, title: string, explains: string, run: () => unknown): Action => ({
      ...{ group: 'route', shelf, key, title, explains, barred: closed, run: () => void run() },
    });
  const [steps, past, versions] = [shelf('Steps'), shelf('The past'), shelf('Versions')];
  return [
    steps('r f', 'Filter the route', 'By name, kind, state, tag, or what stands on what.', () => {
      route.filtering = true;
    }),
    steps('r e', 'Next step amiss', 'The next one that is stopped or held.', () => route.nextAmiss()),
    steps('r w', 'What made this', 'The steps, lines and dimensions behind a picked face or edge.', () =>
      route.whatMade(),
    ),
    steps('r u', 'Move up', 'What is marked, one place towards the beginning.', () => route.moveBy(-1)),
    steps('r d', 'Move down', 'What is marked, one place towards the end.', () => route.moveBy(1)),
    steps('r s', 'Suppress', 'Leave what is marked out of what is built, or build it again.', () =>
      route.suppress(),
    ),
    steps('r g', 'Put under a heading', 'What is marked, under words of your own.', () => route.group()),
    steps('r c', 'Copy steps', 'What is marked, to be put in here or in another part.', () => route.copy()),
    steps('r m', 'Pull a face', 'A flat face by its arrow: the dimension that moves it follows.', () =>
      on.trust.pull(),
    ),
    steps('r i', 'Put copies in', 'What was copied, behind what is marked.', () => route.paste()),
    steps('r z', 'Number the steps anew', '10, 20, 30 … from the first to the last.', () => route.renumber()),
    steps('r x', 'Delete steps', 'What is marked; it is told before what would stop.', () => route.remove()),
    past('r b', 'One step back', 'Look at the part as it stands one step earlier.', () => route.roll(-1)),
    past('r n', 'One step on', 'Look one step later.', () => route.roll(1)),
    past('r p', 'Play the route', 'Every state one after the other.', () => route.play()),
    versions('r v', 'Versions', 'All that was ever kept: look, go back, branch, name.', () =>
      on.versions.toggle(),
    ),
    versions('r t', 'Bring together', 'Another branch of this part comes in.', () => on.together.open()),
    versions('r o', 'Write files', 'STEP, meshes, DXF, SVG: the part, a face, a sketch, a section.', () =>
      on.exchange.show(),
    ),
    versions('r a', 'About the part', 'Its number, material, who drew it, remarks.', () => {
      route.aboutOpen = !route.aboutOpen;
    }),
  ];
}

function looking(on: Doing): Action[] {
  const closed = () => (on.board ? 'Close the sketch first.' : '');
  type More = Partial<Pick<Action, 'barred' | 'view'>>;
  const shelf =
    (shelf: string, barred?: () => string) =>
    (key: string, title: string, explains: string, run: () => unknown, more: More = {}): Action => ({
      ...{ group: 'look', shelf, key, title, explains, barred, run: () => void run() },
      ...more,
    });
  const [ask, trust, see] = [shelf('Ask', closed), shelf('Trust', closed), shelf('See')];
  const [away, show] = [shelf('See', closed), shelf('Show')];
  return [
    {
      group: 'datum',
      key: 'd w',
      view: 'work in',
      title: 'Work in this system',
      explains: 'Coordinates, read-out and files follow the picked coordinate system.',
      run: () => void on.workIn(),
    },
    ask(
      'l m',
      'Measure',
      'Distance, angle, length, area, diameter, place: of what is picked, and to what is hovered.',
      () => on.measure(),
      { barred: () => (on.board ? 'Close the sketch first; in it, dimensions measure.' : '') },
    ),
    ask('l p', 'Mass and size', 'Volume, area, mass by material, centre, inertia, box and least wall.', () =>
      on.weigh(),
    ),
    ask('l c', 'Compare', 'With another version or part: steps, figures, and bodies in space.', () =>
      on.versions.openCompare(),
    ),
    ask(
      'l l',
      'Hole schedule',
      'Every hole with its place, size and note, numbered on the stage; as CSV.',
      () => on.schedule(),
    ),
    trust('l k', 'Shakedown', 'Moves every dimension: how far each may go, what breaks and why.', () =>
      on.trust.shake(),
    ),
    trust('l a', 'What moves what', 'By how much each figure changes with each dimension.', () =>
      on.trust.showMoves(),
    ),
    trust('l o', 'Tolerances', 'How far the tolerances of all dimensions add up in a figure.', () =>
      on.trust.showMoves('tolerances'),
    ),
    trust('l v', 'Aim', 'Bring a measure, a volume or a mass to a wish by a dimension.', () =>
      on.trust.showMoves('aim'),
    ),
    trust('l y', 'Families', 'Named sets of values: checked, seen, compared, and all written at once.', () =>
      on.trust.showFamily(),
    ),
    see('l f', 'Fit', 'Show the whole part.', () => on.stage?.fit()),
    see('l e', 'Fit what is picked', 'Show what is picked as large as it goes.', () => on.fitPicked()),
    away('l z', 'Zoom to a box', 'Draw a box on the stage; it is shown as large as it goes.', () =>
      on.sights.box(),
    ),
    see(
      'l n',
      'Square to',
      'Look square at the picked face or plane, or the open sketch.',
      () => on.squareTo(),
      { view: 'square' },
    ),
    away('l w', 'Views', 'Front, top, isometric … by name; own ones kept with the part.', () =>
      on.sights.open('viewing'),
    ),
    away('l t', 'Turn to an axis', 'Turn on to the nearest direction of the system.', () =>
      on.sights.toAxis(),
    ),
    away('l u', 'View before', 'Go back to the view before this one.', () => on.sights.step('back')),
    away('l x', 'View after', 'Go on to the view after this one.', () => on.sights.step('on')),
    away('l j', 'Perspective', 'What is near is larger, or orthographic again.', () => on.sights.deepen()),
    away('l 1', 'Contact shade', 'Where faces come near each other it is darker, or not.', () =>
      on.sights.shadeOrNot(),
    ),
    show('l s', 'Section', 'Cut the part open at picked planes or faces, or at the open sketch.', () =>
      on.cutOpen(),
    ),
    show(
      'l h',
      'Hide / show',
      'Hide the picked bodies, datum or sketch; show it again on the route card or by the list.',
      () => on.hide(),
      { view: 'hide' },
    ),
    show('l i', 'Only this', 'Show the picked bodies alone; without a pick, all of them.', () =>
      on.onlyThis(),
    ),
    show('l g', 'See-through', 'See through the picked bodies, or not any more.', () => on.seeThrough()),
    show('l r', 'What is shown', 'All that is shown or hidden, by kind and one by one.', () =>
      on.sights.open('listing'),
    ),
    show('l d', 'Dimensions on / off', 'Show or hide dimensions and constraint symbols.', () => {
      on.dimensions = !on.dimensions;
    }),
    show('l b', 'Base planes', 'Leave the base planes and axes out of the view, or show them again.', () =>
      on.sights.toggle('base'),
    ),
    show('l q', 'Edges', 'Edges that are seen, the hidden ones dashed too, or none.', () =>
      on.sights.nextEdges(),
    ),
  ];
}
