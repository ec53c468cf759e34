/** A variant's sentence cut into words and blanks; blanks that are not asked for are left out. */
import type { Blank, Kind, Variant } from '../api/types';

/** before, after : words that come and go with a blank; tail : a comma that stays on its line. */
export type Token = string | { name: string; blank: Blank; before: string; after: string; tail?: string };

export const variantOf = (kind: Kind, fields: Record<string, unknown>): Variant =>
  kind.variants[String(fields.how ?? '')] ?? Object.values(kind.variants)[0];

/**
 * Whether a blank is there with the present choices: all that it hangs on must be chosen, and be there
 * themselves.
 */
export function asked(blanks: Record<string, Blank>, blank: Blank, fields: Record<string, unknown>): boolean {
  return Object.entries(blank.when).every(
    ([other, values]) =>
      values.includes(String(fields[other])) && (!blanks[other] || asked(blanks, blanks[other], fields)),
  );
}

/** Words of a sentence that a name says once more: "Rib Rib 1: from …" reads "Rib 1: from …". */
function repeats(words: string, fields: Record<string, unknown>): boolean {
  const [said, name] = [words.trim().toLowerCase(), String(fields.name ?? '').toLowerCase()];
  return !!said && (name === said || name.startsWith(`${said} `));
}

export function sentence(variant: Variant, fields: Record<string, unknown>): Token[] {
  const tokens: Token[] = [];
  for (const piece of variant.sentence.split(/(\{\w+\})/)) {
    const name = /^\{(\w+)\}$/.exec(piece)?.[1];
    if (!name) {
      if (piece) tokens.push(piece);
      continue;
    }
    const blank = variant.blanks[name];
    if (!asked(variant.blanks, blank, fields) || (blank.kind === 'choice' && fields[name] === '')) continue;
    const words = blank.kind === 'choice' ? (blank.words?.[String(fields[name])] ?? '') : '';
    // A clause begins with its comma; blanks side by side stand apart.
    const lead = blank.before || /^[,;]/.exec(words)?.[0] || '';
    const last = tokens.at(-1);
    // No space before a comma
    if (/^[,;]/.test(lead) && typeof last === 'string' && !last.trim()) tokens.pop();
    const apart = tokens.length && typeof tokens.at(-1) !== 'string' && !/^[,; ]/.test(lead) ? ' ' : '';
    tokens.push({
      name,
      blank,
      before: lead ? `${apart}${lead} ` : apart,
      after: blank.after ? ` ${blank.after}` : '',
    });
  }
  const [first, second] = tokens;
  if (typeof first === 'string' && typeof second !== 'string' && second?.blank.kind === 'name')
    if (repeats(first, fields)) tokens.shift();
  return tokens;
}

/** The words of a choice without the comma that begins its clause. */
export const bare = (words: string | undefined) => (words ?? '').replace(/^[,;]\s*/, '');

/** What a finished step leaves unsaid: one copy, no move, the only answer, what is as it always is. */
export function quiet(tokens: Token[], fields: Record<string, unknown>): Token[] {
  const formula = (name: string) => (fields[name] as { formula: string } | undefined)?.formula ?? '';
  const unturned = ['turn_x', 'turn_y', 'turn_z'].every((n) => /^0?( deg)?$/.test(formula(n)));
  const empty = (held: unknown) => !held || (Array.isArray(held) && !held.length);
  const plain = (t: Token) =>
    typeof t !== 'string' &&
    ((t.blank.unsaid && empty(fields[t.name])) ||
      (t.name === 'way' && !fields.along) ||
      (t.name === 'copies' && formula('copies') === '1') ||
      (t.name === 'more' && fields.more === 'as') ||
      (t.blank.quiet && !t.blank.when.more && formula(t.name) === t.blank.start) ||
      (['words', 'dots'].includes(t.blank.kind) && empty(fields[t.name])) ||
      (unturned && t.name.startsWith('turn_')) ||
      t.blank.kind === 'answer' ||
      t.blank.kind === 'facing');
  return tokens.filter((t, i) => {
    if (plain(t)) return false;
    const [before, after] = [tokens[i - 1], tokens[i + 1]];
    if (t === '; ' && after && plain(after)) return false;
    if (typeof t === 'string' && /^ of them/.test(t) && before && plain(before)) return false;
    if (typeof t === 'string' && /^, (.* )?$/.test(t) && after && plain(after)) return false;
    return true;
  });
}

/** Put the comma with which words begin behind the blank before them, so that no line begins with it. */
export function tailed(tokens: Token[]): Token[] {
  const found: Token[] = [];
  for (const token of tokens) {
    const last = found.at(-1);
    const words = typeof token === 'string' ? token : token.before;
    if (!last || typeof last === 'string' || last.after || !/^[,;:.]/.test(words)) {
      found.push(token);
      continue;
    }
    found[found.length - 1] = { ...last, tail: words[0] };
    const rest = words.slice(1);
    found.push(typeof token === 'string' ? rest : { ...token, before: rest });
  }
  return found;
}
