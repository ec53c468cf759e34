/** Tables for spreadsheets. */
type Cell = string | number | null;

/** A cell as CSV has it; text that a spreadsheet would run as a formula of its own is marked as text. */
function cell(value: Cell): string {
  if (value === null) return '';
  if (typeof value === 'number') return String(Number(value.toPrecision(12)));
  const text = /^[=+\-@\t\r]/.test(value) ? `'${value}` : value;
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/** Save rows, the head first, as a CSV file. */
export function saveCsv(name: string, rows: Cell[][]): void {
  const text = rows.map((row) => row.map(cell).join(',')).join('\r\n') + '\r\n';
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([text], { type: 'text/csv' }));
  link.download = `${name}.csv`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
