/** What stands on what, by the steps' reports. */
import type { Session } from './session.svelte';

function under(session: Session, step: string, seen = new Set<string>()): Set<string> {
  for (const s of session.report(step)?.stands_on ?? []) if (!seen.has(s)) under(session, s, seen.add(s));
  return seen;
}

/** "under": `shown` stands on the step, straight or through others; "over": the step stands on it. */
export function relation(session: Session, shown: string, step: string): 'under' | 'over' | '' {
  if (!shown || shown === step) return '';
  if (under(session, shown).has(step)) return 'under';
  return under(session, step).has(shown) ? 'over' : '';
}
