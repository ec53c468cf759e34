/** A variant's sentence cut into words and blanks; blanks that are not asked for are left out. */
import type { Blank, Kind, Variant } from '../api/types';

export type Token = string | { name: string; blank: Blank };

export const variantOf = (kind: Kind, fields: Record<string, unknown>): Variant => kind.variants[String(fields.how ?? '')] ?? Object.values(kind.variants)[0];

export function sentence(variant: Variant, fields: Record<string, unknown>): Token[] {
  const tokens: Token[] = [];
  for (const piece of variant.sentence.split(/(\{\w+\})/)) {
    const name = /^\{(\w+)\}$/.exec(piece)?.[1];
    if (!name) {
      if (piece) tokens.push(piece);
      continue;
    }
    const blank = variant.blanks[name];
    const asked = Object.entries(blank.when).every(([other, values]) => values.includes(String(fields[other])));
    if (asked && blank.before) tokens.push(`, ${blank.before} `);
    if (asked) tokens.push({ name, blank });
  }
  return tokens;
}

/** What a finished step leaves unsaid: one copy, no move, the only answer. */
export function quiet(tokens: Token[], fields: Record<string, unknown>): Token[] {
  const plain = (t: Token) =>
    typeof t !== 'string' &&
    ((t.blank.unsaid && !fields[t.name]) || (t.name === 'way' && !fields.along) || (t.name === 'copies' && (fields.copies as { formula: string }).formula === '1') || (t.name === 'more' && fields.more === 'as') || t.blank.sort === 'answer' || t.blank.sort === 'facing');
  const unturned = ['turn_x', 'turn_y', 'turn_z'].every((n) => /^0( deg)?$/.test((fields[n] as { formula: string } | undefined)?.formula ?? '0'));
  return tokens.filter((t, i) => {
    if (unturned && (typeof t === 'string' ? t === ', turned ' : t.name.startsWith('turn_'))) return false;
    if (plain(t)) return false;
    const [before, after] = [tokens[i - 1], tokens[i + 1]];
    if (t === '; ' && after && plain(after)) return false;
    if (typeof t === 'string' && /^ of them/.test(t) && before && plain(before)) return false;
    if (typeof t === 'string' && /^, (.* )?$/.test(t) && after && plain(after)) return false;
    return true;
  });
}
