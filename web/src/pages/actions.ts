/** Actions on the drawing: pages, views, dimensions, marks. */
import type { Action } from '../state/action';
import type { Drawing } from './drawing.svelte';

export function drawingActions(on: {
  readonly drawing: Drawing;
  readonly board: unknown;
  writePages(ending: string): Promise<void>;
  printPages(): Promise<void>;
}): Action[] {
  const closed = () => (on.board ? 'Close the sketch first.' : '');
  const needPage = () => closed() || (on.drawing.open ? '' : 'Open the drawing first (g o).');
  const shelf =
    (shelf: string, barred: () => string) =>
    (key: string, title: string, explains: string, run: () => unknown): Action => ({
      ...{ group: 'drawing', shelf, key, title, explains, barred, run: () => void run() },
    });
  const { drawing } = on;
  const [open, page] = [shelf('Pages', closed), shelf('Pages', needPage)];
  const [views, figures, marks] = [
    shelf('Views', needPage),
    shelf('Dimensions', needPage),
    shelf('Marks', needPage),
  ];
  return [
    open('g o', 'Open the drawing', 'Its pages in place of the stage, or back to the part.', () =>
      drawing.toggle(),
    ),
    open('g p', 'New page', 'Main views at the scale that fits, with what is dimensioned first.', () =>
      drawing.newPage(),
    ),
    page('g e', 'Show the whole page', 'As large as it goes.', () => drawing.fit?.()),
    page('g i', 'Issue', 'Keep the figures of this page under a name; what changes is listed.', () => {
      drawing.issuing = true;
    }),
    page('g c', 'Clouds', 'Round figures that changed since the last issue.', () => {
      drawing.clouds = !drawing.clouds;
      void drawing.draw();
    }),
    page('g b', 'Print', 'All pages, as a PDF from which the browser prints.', () => on.printPages()),
    page('g w', 'Write PDF', 'All pages, with the fonts in it.', () => on.writePages('pdf')),
    views('g v', 'Add a view', 'From a side, from the corner, or as the stage is turned.', () => {
      drawing.adding = true;
    }),
    views('g s', 'Section view', 'Cut at a line that is drawn on a view; it may step.', () =>
      drawing.take('section'),
    ),
    views('g d', 'Detail', 'A round piece of a view, larger.', () => drawing.take('detail')),
    figures('g m', 'Dimension on the page', 'Of picked edges: the kind follows, ; takes another.', () =>
      drawing.dimension(),
    ),
    figures('g a', 'Dimensions by themselves', 'Overall sizes, holes, radii, numbers of the part.', () =>
      drawing.dimensionAll(),
    ),
    figures('g x', 'Take off the page', 'A picked view, dimension or mark.', () => drawing.remove()),
    marks('g n', 'Note', 'Words on the page.', () => drawing.note('note')),
    marks('g t', 'Datum letter', 'On a picked edge (ISO 5459).', () => drawing.take('datum')),
    marks('g g', 'Geometrical tolerance', 'Of a picked edge (ISO 1101).', () => drawing.take('geometry')),
    marks('g u', 'Surface texture', 'On a picked edge (ISO 21920).', () => drawing.take('texture')),
    marks('g h', 'Hole table', 'Every hole in the active system.', () => drawing.note('holes')),
    marks('g l', 'Tolerance table', 'The limits of all classes on the page.', () =>
      drawing.note('tolerances'),
    ),
  ];
}
