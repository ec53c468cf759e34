/** Errors of the page itself: told to whoever looks at it, and reported to the log. */

export const troubles = {
  /** Shows a line; an open part puts its own way here. */
  tell: (text: string): void => void text,
};

const REPORTS = 20; // a page that goes wrong at every move need not say so for ever
let reported = 0;

function report(error: unknown): void {
  if (reported++ >= REPORTS) return;
  const text = error instanceof Error ? `${error.message}\n${error.stack ?? ''}` : String(error);
  troubles.tell(
    `Something went wrong in this window: ${error instanceof Error ? error.message : String(error)}. What was accepted is kept; if it goes on, load the page anew.`,
  );
  void fetch('/api/trouble', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ text: text.slice(0, 4000) }),
  }).catch(() => undefined);
}

export function watchForTroubles(): void {
  addEventListener('error', (event) => report(event.error ?? event.message));
  addEventListener('unhandledrejection', (event) => report(event.reason));
}
