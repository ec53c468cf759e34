/** References and foreseen changes in words. */
import type { Blank, Foreseen } from '../api/types';
import type { Session } from './session.svelte';

/** The parts of a reference that tell one thing from another. */
export function identity(ref: Record<string, unknown>): string {
  const { near: _near, inside: _inside, beside: _beside, key: _key, alone: _alone, ...rest } = ref;
  return JSON.stringify(rest);
}

/** How many of some region references mean texts. */
const written = (items: Record<string, unknown>[]) => items.filter((r) => !/[+-]$/.test(String((r.sides as string[])?.[0]))).length;

/** Say what a pick blank holds. */
export function sayHeld(blank: Blank, held: unknown, session: Session, words?: Map<string, string>): string {
  const items = (Array.isArray(held) ? held : held ? [held] : []) as Record<string, unknown>[];
  if (!items.length) return blank.unless || blank.label;
  const name = (step: unknown) => session.step(String(step))?.name ?? 'a deleted step';
  const one = (ref: Record<string, unknown>): string => {
    if (ref.of === 'base') return ref.name === 'origin' ? 'the origin' : String(ref.name);
    if (ref.of === 'datum') return name(ref.step) + (Number(ref.index) > 0 ? ` ${Number(ref.index) + 1}` : '');
    if (ref.of === 'body') return session.scene?.bodies.find((b) => b.id === ref.body)?.name ?? name(String(ref.body).split('.')[0]);
    if (ref.of === 'step') return name(ref.step);
    if (ref.of === 'sketch') return `all of ${name(ref.step)}`;
    if (ref.of === 'region') return `${written([ref]) ? '1 text' : '1 region'} of ${name(ref.step)}`;
    if (ref.of === 'drawn') return ref.entity === 'origin' ? `origin of ${name(ref.step)}` : `${String(ref.entity)[0] === 'p' ? 'a point' : 'a curve'} of ${name(ref.step)}`;
    if (ref.of === 'spot') return `${String(ref.at)} of ${one(ref.edge as Record<string, unknown>)}`;
    const known = words?.get(identity(ref));
    if (known) return known.split(', ')[0].split(' between ')[0];
    if (ref.of === 'edge') return `an edge of ${name(ref.body)}`;
    if (ref.of === 'vertex') return `a corner of ${name(ref.body)}`;
    const [step, role] = String((ref.names as string[])[0]).split('@')[0].split('/');
    const roles: Record<string, string> = { start: 'first end', end: 'far end', side: 'a side' };
    return `${roles[role] ?? role} of ${name(step)}`;
  };
  if (items.length === 1) return one(items[0]);
  if (items.some((r) => r.of !== 'region')) {
    const said = [...new Set(items.map(one))];
    return said.length <= 3 && said.length === items.length ? `${said.slice(0, -1).join(', ')} and ${said.at(-1)}` : `${items.length} ${blank.label}`;
  }
  const texts = written(items);
  const rest = items.length - texts;
  const count = [rest ? `${rest} ${rest === 1 ? 'region' : 'regions'}` : '', texts ? `${texts} ${texts === 1 ? 'text' : 'texts'}` : ''].filter(Boolean).join(' and ');
  return `${count} of ${[...new Set(items.map((r) => name(r.step)))].join(', ')}`;
}

const figure = (v: number) => v.toLocaleString('en-GB', { maximumFractionDigits: 0 }).replaceAll(',', ' ');

/** Say what a change reaches: "Reaches 2 later steps. Volume of Base 208 416 → 206 380 mm³." step: the one that is changed. */
export function sayForeseen(foreseen: Foreseen, step = ''): string {
  const others = foreseen.steps.filter((s) => s.id !== step);
  const stopped = others.filter((s) => s.state === 'stopped');
  const held = others.filter((s) => s.state === 'held');
  const parts = [others.length ? `Reaches ${others.length} ${step ? 'later ' : ''}${others.length === 1 ? 'step' : 'steps'}.` : step ? 'Reaches no later step.' : 'Reaches no step.'];
  for (const s of stopped) parts.push(`Step ${s.number} ${s.name} would stop: ${s.message}`);
  for (const s of held) parts.push(`Step ${s.number} ${s.name} would ask: ${s.message}`);
  for (const b of foreseen.bodies) {
    const say = (v: number | null) => (v === null ? 'none' : figure(v));
    if (b.before === null || b.after === null || Math.abs(b.before - b.after) > 0.5) parts.push(`Volume of ${b.name} ${say(b.before)} → ${say(b.after)} mm³.`);
  }
  return parts.join(' ');
}
