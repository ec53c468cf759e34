/**
 * A list of choices whose value is kept elsewhere. What is chosen quickly, one after the other, is kept in
 * order, and an answer that comes late turns nothing back.
 */
type Given = { value: string; set: (value: string) => unknown };

export function choosing(list: HTMLSelectElement, given: Given) {
  let now = given;
  let wanted: string | null = null;
  let busy = false;
  const show = () => {
    if (!busy) list.value = now.value;
  };
  async function chosen() {
    wanted = list.value;
    if (busy) return;
    busy = true;
    try {
      while (wanted !== null) {
        const value: string = wanted;
        wanted = null;
        await now.set(value);
      }
    } finally {
      busy = false;
      show(); // what was refused is not shown as if it were kept
    }
  }
  list.addEventListener('change', chosen);
  queueMicrotask(show); // the choices are there by then
  return {
    update(fresh: Given) {
      now = fresh;
      show();
    },
    destroy: () => list.removeEventListener('change', chosen),
  };
}
