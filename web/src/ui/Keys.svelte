<script lang="ts">
  /** The keyboard: two strokes for an action; Enter, Esc, Tab, Delete, undo, redo, find, quiet. */
  import { useWorkplace } from '../state/workplace.svelte';

  const work = useWorkplace();
  const GROUPS = 'dkcbl';

  function typing(event: KeyboardEvent): boolean {
    const t = event.target as HTMLElement;
    return t.tagName === 'INPUT' || t.tagName === 'TEXTAREA' || t.tagName === 'SELECT' || work.finding;
  }

  function controlled(event: KeyboardEvent): boolean {
    const key = event.key.toLowerCase();
    if (key === 'k') work.find();
    else if (key === 'z') void work.session.move(event.shiftKey ? 'redo' : 'undo');
    else if (key === 'c' && work.board?.picked.length) work.board.copy();
    else if (key === 'v' && work.board) void work.board.paste(work.board.at);
    else return false;
    return true;
  }

  function plain(event: KeyboardEvent): boolean {
    const { key } = event;
    const onButton = (event.target as HTMLElement).tagName === 'BUTTON';
    if (work.stroke && key.length === 1) {
      const action = work.actions.find((a) => a.key === `${work.stroke} ${key}`);
      if (action) work.run(action);
      else [work.stroke] = [''];
    } else if (key === 'Escape') work.escape();
    else if (key === 'Enter' && work.editing && !onButton) void work.accept();
    else if (key === 'Enter' && work.board?.form && !onButton) void work.board.acceptForm();
    else if (key === 'Enter' && work.board?.shape?.least && work.board.given.length && !onButton) void work.board.chain.end();
    else if (key === 'Tab' && !onButton && work.board) return work.board.other();
    else if (key === 'Tab' && !onButton && (work.editing || work.under.length > 1)) other();
    else if ((key === 'Delete' || key === 'Backspace') && work.board) void work.board.remove();
    else if (key === 'q' && work.board) work.board.quiet = true;
    else if (work.board?.measures.length && /^[\d.]$/.test(key)) {
      // A digit goes into the first measure of the shape in hand.
      document.querySelector<HTMLInputElement>('[data-measure="0"]')?.focus();
      return false;
    } else if (key.length === 1 && GROUPS.includes(key) && !event.altKey) work.stroke = key;
    else return false;
    return true;
  }

  /** The other answer: of the step under edit, else the next thing under the pointer. */
  function other() {
    if (work.under.length > 1) {
      work.under = [...work.under.slice(1), work.under[0]];
      work.hovered = work.under[0];
      work.chosen = true;
    } else work.editing?.other();
  }

  function down(event: KeyboardEvent) {
    if (event.ctrlKey || event.metaKey) {
      if ((event.key.toLowerCase() === 'k' || !typing(event)) && controlled(event)) event.preventDefault();
      return;
    }
    const ahead = work.finding && event.key.length === 1 && (event.target as HTMLElement).tagName !== 'INPUT';
    if (ahead) work.sought += event.key; // typed before the field has the focus
    if (ahead || (!typing(event) && plain(event))) event.preventDefault();
  }
  function up(event: KeyboardEvent) {
    if (event.key === 'q' && work.board) work.board.quiet = false;
  }
</script>

<svelte:window onkeydown={down} onkeyup={up} />
