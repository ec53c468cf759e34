/**
 * How many questions are under way: asked, or about to be asked after a pause. The page tells it as
 * `data-underway`, so that whoever looks from outside (a test, a screen recorder) knows when it is at rest.
 */
let count = 0;

function tell(): void {
  document.body.dataset.underway = String(count);
}

/** Count one; call what is returned once it has its answer. */
export function begin(): () => void {
  let open = true;
  count++;
  tell();
  return () => {
    if (!open) return;
    open = false;
    count--;
    tell();
  };
}
