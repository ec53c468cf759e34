/** Tables for spreadsheets. */
import { api } from '../api/client';

export type Cell = string | number | null;

/** A cell as CSV has it; text that a spreadsheet would run as a formula of its own is marked as text. */
function cell(value: Cell): string {
  if (value === null) return '';
  if (typeof value === 'number') return String(Number(value.toPrecision(12)));
  const text = /^[=+\-@\t\r]/.test(value) ? `'${value}` : value;
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

const asCsv = (rows: Cell[][]) => rows.map((row) => row.map(cell).join(',')).join('\r\n') + '\r\n';

/** Save rows, the head first, as a CSV file. */
export function saveCsv(name: string, rows: Cell[][]): void {
  save(new Blob([asCsv(rows)], { type: 'text/csv' }), `${name}.csv`);
}

/** Save rows, the head first, as a spreadsheet. Throws Refusal. */
export async function saveSheet(name: string, rows: Cell[][]): Promise<void> {
  save(await api.sheet(name, asCsv(rows)), `${name}.xlsx`);
}

/** The text of a table that was chosen: CSV as it is, a spreadsheet's first sheet as CSV. Throws Refusal. */
export async function tableIn(file: File): Promise<string> {
  return /\.xlsx$/i.test(file.name) ? api.table(file) : file.text();
}

function save(content: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(content);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
