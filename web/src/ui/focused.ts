/** Give a field the focus as soon as it is there, whatever had it before; its words are selected. */
export function focused(field: HTMLElement): void {
  field.focus();
  if (field instanceof HTMLInputElement || field instanceof HTMLTextAreaElement) field.select();
}
