/** A kind's sentence cut into words and blanks; blanks that are not asked for are left out with the space before them. */
import type { Blank, Kind } from '../api/types';

export type Token = string | { name: string; blank: Blank };

export function sentence(kind: Kind, fields: Record<string, unknown>): Token[] {
  const tokens: Token[] = [];
  for (const piece of kind.sentence.split(/(\{\w+\})/)) {
    const name = /^\{(\w+)\}$/.exec(piece)?.[1];
    if (!name) {
      if (piece) tokens.push(piece);
      continue;
    }
    const blank = kind.blanks[name];
    const asked = Object.entries(blank.when).every(([other, values]) => values.includes(String(fields[other])));
    if (asked) tokens.push({ name, blank });
  }
  return tokens;
}
