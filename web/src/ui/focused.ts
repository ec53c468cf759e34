/** Give a field the focus as soon as it is there, whatever had it before. */
export function focused(field: HTMLInputElement | HTMLTextAreaElement): void {
  field.focus();
  field.select();
}
