/** Steps, and the stop line, dragged along the route card. */
import type { RouteWork } from '../state/route.svelte';
import type { Session } from '../state/session.svelte';

const FAR = 5; // px from which on a press is a drag

export class RouteDrag {
  /** What is dragged: steps, or the stop line. */
  going = $state.raw<string[] | 'line' | null>(null);
  /** Behind which step it would come to stand; null: nowhere else. */
  over = $state<string | null>(null);
  why = $state('');
  /** The press was a drag, so the click that ends it does nothing. */
  moved = false;
  private from = 0;
  private held: string[] | 'line' | null = null;

  constructor(
    private route: RouteWork,
    private session: Session,
    private list: () => HTMLElement | undefined,
  ) {}

  private hold(event: PointerEvent, what: string[] | 'line'): void {
    if (event.button || this.session.barred) return;
    [this.held, this.from, this.moved] = [what, event.clientY, false];
  }

  steps(event: PointerEvent, step: string): void {
    const { marked } = this.route;
    this.hold(event, marked.includes(step) ? marked : [step]);
  }

  group(event: PointerEvent, steps: string[]): void {
    this.hold(event, steps);
  }

  line(event: PointerEvent): void {
    this.hold(event, 'line');
  }

  move(event: PointerEvent): void {
    if (!this.held) return;
    if (!(event.buttons & 1)) return this.end();
    if (!this.going && Math.abs(event.clientY - this.from) < FAR) return;
    [this.going, this.moved] = [this.held, true];
    const lines = [...(this.list()?.querySelectorAll<HTMLElement>('[data-step]') ?? [])];
    let after = '';
    for (const line of lines) {
      const box = line.getBoundingClientRect();
      if (event.clientY > box.top + box.height / 2) after = line.dataset.step!;
    }
    this.over = after;
    this.why =
      this.going === 'line'
        ? after
          ? ''
          : 'At least one step is built.'
        : this.route.why(this.ordered(this.going), after);
    const box = this.list()!.getBoundingClientRect();
    if (event.clientY < box.top + 24) this.list()!.scrollTop -= 12;
    if (event.clientY > box.bottom - 24) this.list()!.scrollTop += 12;
  }

  private ordered(steps: string[]): string[] {
    return this.session.steps.map((s) => s.id).filter((s) => steps.includes(s));
  }

  drop(): void {
    const { going, over, why } = this;
    this.end();
    if (going === null || over === null) return;
    if (why) return this.session.note(`${why} Nothing was moved.`, true);
    const ids = this.session.steps.map((s) => s.id);
    if (going === 'line') {
      void this.session.try({ do: 'set_stop_line', after: over === ids.at(-1) ? '' : over });
      return;
    }
    const steps = this.ordered(going);
    const rest = ids.filter((s) => !steps.includes(s));
    const after = steps.includes(over)
      ? (ids
          .slice(0, ids.indexOf(over))
          .filter((s) => rest.includes(s))
          .at(-1) ?? '')
      : over;
    const at = after ? rest.indexOf(after) + 1 : 0;
    const order = [...rest.slice(0, at), ...steps, ...rest.slice(at)];
    if (order.join() !== ids.join()) void this.route.move(steps, after);
  }

  end(): void {
    [this.going, this.over, this.why, this.held] = [null, null, '', null];
    setTimeout(() => (this.moved = false)); // after the click that ends it
  }
}
