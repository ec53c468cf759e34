<script lang="ts">
  /**
   * The keyboard: two strokes for an action; Enter, Esc, Tab, Delete, undo, redo, find, quiet, and the key
   * for the other answer.
   */
  import { OTHER } from '../state/action';
  import { handbook } from '../state/handbook.svelte';
  import { useWorkplace } from '../state/workplace.svelte';

  const work = useWorkplace();
  const GROUPS = 'dkcblrg';
  const target = (event: KeyboardEvent) => event.target as HTMLElement;
  const within = (event: KeyboardEvent, where: string) => !!target(event).closest?.(where);

  function typing(event: KeyboardEvent): boolean {
    if (closing(event)) return false;
    if (within(event, 'input:is([type=range], [type=checkbox])')) return work.finding; // they take no letters
    return ['INPUT', 'TEXTAREA', 'SELECT'].includes(target(event).tagName) || work.finding;
  }

  /** The list of actions is on its way out: what is typed is for the step that was begun from it. */
  const closing = (event: KeyboardEvent) =>
    !work.finding && work.editing !== null && within(event, '[data-finding]');

  function controlled(event: KeyboardEvent): boolean {
    const key = event.key.toLowerCase();
    if (key === 'k') work.find();
    else if (key === 'z' && event.shiftKey) void work.session.move('redo');
    else if (key === 'z') work.undo();
    else if (key === 'y') void work.session.move('redo');
    else if (key === 'a' && work.board) work.board.selectAll();
    else if (key === 'a')
      return true; // the page's own text is not selected
    else if (key === 'c' && work.board?.picked.length) work.board.copy();
    else if (key === 'v' && work.board) void work.board.paste(work.board.at);
    else if (key === 'c' && !work.board && work.route.marked.length) work.route.copy();
    else if (key === 'v' && !work.board && !work.editing) void work.route.paste();
    else return false;
    return true;
  }

  /**
   * Enter accepts what is open, wherever the focus is: but a menu, a flag, Cancel and fields elsewhere keep
   * it for themselves.
   */
  function accepts(event: KeyboardEvent): boolean {
    if (
      work.listing ||
      work.finding ||
      within(event, '[role=menu], [role=dialog], [data-cancel], [data-flag]')
    )
      return false;
    if (
      within(event, 'input, textarea, select') &&
      !within(event, '[data-testid=editor], [data-testid=toolbar]')
    )
      return false;
    const { board, editing } = work;
    if (work.drawing.open && !editing && !work.drawing.typing) {
      if (work.drawing.tool) void work.drawing.endTool();
      else if (work.drawing.lines.length) void work.drawing.dimension();
      else return false;
    } else if (editing) void work.accept(event.shiftKey && !editing.step);
    else if (work.measuring && !work.measuring.anew && !within(event, 'button')) work.measuring.keep();
    else if (board?.form) void board.acceptForm();
    else if (board?.asked?.kind === 'dimension' && board.picked.length) void board.binding.dimension();
    else if (board?.shape && within(event, '[data-testid=toolbar] input')) void board.chain.acceptTyped();
    else if (board?.shape?.least && board.given.length) void board.chain.end();
    else return false;
    return true;
  }

  /** The other answer: of the tool in hand, of the next thing under the pointer, of the step under edit. */
  function other(): boolean {
    if (work.board) return work.board.other();
    if (work.drawing.open) return work.drawing.other();
    if (work.measuring && (work.measuring.things.length > 1 || work.under.length < 2))
      return work.measuring.other();
    const complete = work.editing && !work.editing.missing.length; // then no pick is waited for
    if (work.under.length > 1 && !complete) {
      work.under = [...work.under.slice(1), work.under[0]];
      work.hovered = work.under[0];
      work.chosen = true;
    } else if (work.editing) work.editing.other();
    else return false;
    return true;
  }

  /** What is typed beside all fields goes to the number that is asked for. */
  function toNumber(key: string, leaving = false): 'passed' | 'taken' | '' {
    const { editing } = work;
    if (editing?.ahead && key.length === 1) {
      editing.ahead += key; // typed on before there is a field
      return 'taken';
    }
    if (!/^[\d.(−-]$/.test(key)) return '';
    if (editing && leaving) {
      editing.ahead = key;
      return 'taken';
    }
    if (editing) {
      const name = editing.wantedNumber();
      const field = document.querySelector<HTMLInputElement>(`[data-number="${name}"]`);
      if (!name && editing.deciding) editing.ahead = key;
      else if (!name) work.session.note(`This step asks for no number, so “${key}” went nowhere.`);
      else if (!field) editing.ahead = key;
      else {
        field.focus();
        return 'passed';
      }
      return 'taken';
    }
    if (work.board?.shape)
      document
        .querySelector<HTMLInputElement>(work.board.measures.length ? '[data-measure="0"]' : '[data-place]')
        ?.focus();
    else return '';
    return 'passed';
  }

  /**
   * From beside all fields, Tab goes to the blanks of what is open; from there, and where nothing is open, it
   * goes its own way.
   */
  function toBlanks(): boolean {
    const blank = work.board?.tool
      ? document.querySelector<HTMLElement>('[data-testid=toolbar] :is(input, select, button)')
      : null;
    blank?.focus();
    return !!blank || (!work.board?.tool && !!work.editing?.ask());
  }

  function plain(event: KeyboardEvent): boolean {
    const { key } = event;
    const aside = target(event) === document.body;
    let went: ReturnType<typeof toNumber> = '';
    if (work.stroke && key.length === 1) {
      const action = work.actions.find((a) => a.key === `${work.stroke} ${key}`);
      if (action) work.run(action);
      else [work.stroke] = [''];
    } else if ((key === 'ContextMenu' || (key === 'F10' && event.shiftKey)) && !work.board) work.listHere();
    else if (key === '?') work.keysShown = true;
    else if (key === 'Escape') work.escape();
    else if (key === 'Tab') return aside && !event.shiftKey && toBlanks();
    else if ((key === 'Delete' || key === 'Backspace') && work.board) void work.board.remove();
    else if (key === 'Delete' && work.drawing.open) void work.drawing.remove();
    else if (key === 'Delete' && work.route.marked.length && !work.editing) void work.route.remove();
    else if (key === 'q' && work.board) work.board.quiet = true;
    else if ((went = toNumber(key, closing(event))))
      return went === 'taken'; // else the key goes into the field that has the focus now
    else if (key.length === 1 && GROUPS.includes(key) && !event.altKey) work.stroke = key;
    else return false;
    return true;
  }

  const board = () => !!work.board;

  function down(event: KeyboardEvent) {
    if (handbook.page) return; // its own keys are its own
    if (work.keysShown && event.key !== 'Shift') {
      work.keysShown = false;
      if (event.key === '?') handbook.page = board() ? 'sketches' : 'ideas';
      return event.preventDefault();
    }
    if (event.ctrlKey || event.metaKey) {
      const back = event.key.toLowerCase() === 'z' && !event.shiftKey;
      if (back && within(event, '[data-testid=editor]') && work.editing?.undo())
        return event.preventDefault();
      if ((event.key.toLowerCase() === 'k' || !typing(event)) && controlled(event)) event.preventDefault();
      return;
    }
    // What is typed before a dimension's field is there is for the field.
    if (!typing(event) && !event.altKey && work.board?.binding.ahead.takes(event.key))
      return event.preventDefault();
    if (event.key === 'Enter' && accepts(event)) return event.preventDefault();
    if (
      event.key === OTHER &&
      !work.finding &&
      !within(event, '[data-words], [data-testid=ledger], [role=dialog]') &&
      other()
    )
      return event.preventDefault();
    const ahead = work.finding && event.key.length === 1 && target(event).tagName !== 'INPUT';
    if (ahead) work.sought += event.key; // typed before the field has the focus
    const leaves = event.key === 'Escape' && within(event, '[data-testid=editor] select');
    // A choice takes arrows and letters; figures go to the number that is asked for.
    const choice =
      target(event).tagName === 'SELECT' &&
      within(event, '[data-testid=editor], [data-testid=toolbar]') &&
      !event.altKey;
    if (choice && toNumber(event.key) === 'taken') return event.preventDefault();
    if (ahead || leaves || (!typing(event) && plain(event))) event.preventDefault();
    if (leaves) work.escape();
  }
  function up(event: KeyboardEvent) {
    if (event.key === 'q' && work.board) work.board.quiet = false;
  }
</script>

<svelte:window onkeydown={down} onkeyup={up} />
