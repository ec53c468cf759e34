/** A STEP or STL file that was given to the list of parts: read for a new part, and put into it when that is open. */
import { api } from '../api/client';
import type { FileReceived } from '../api/types';

export const BODIES = /\.(step|stp|stl)$/i;
let sent: { part: number; file: File; told: FileReceived } | null = null;

/** Make a part of a file; return its number. Where the file can not be read there is no part. */
export async function partFrom(file: File): Promise<number> {
  const made = await api.create(file.name.replace(/\.[^.]*$/, '').slice(0, 80) || 'Received');
  try {
    sent = { part: made.id, file, told: await api.receive(made.id, file) };
  } catch (error) {
    await api.remove(made.id);
    await api.remove(made.id, true);
    throw error;
  }
  return made.id;
}

/** What was read for a part, once. */
export function sentTo(part: number) {
  const found = sent?.part === part ? sent : null;
  if (found) sent = null;
  return found;
}
