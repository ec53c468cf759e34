/** References and foreseen changes in words. */
import type { Blank, Drawing, Foreseen, Step } from '../api/types';
import type { Session } from './session.svelte';

/** The parts of a reference that tell one thing from another. */
export function identity(ref: Record<string, unknown>): string {
  const { near: _near, inside: _inside, beside: _beside, key: _key, alone: _alone, ...rest } = ref;
  return JSON.stringify(rest);
}

/** What the references of a step are called, by their identity, as the server says it. */
export function saidOf(step: Step, session: Session): Map<string, string> {
  const said = new Map<string, string>();
  for (const r of session.report(step.id)?.references ?? []) {
    const held = [step[r.field]].flat()[r.item];
    if (r.said && held) said.set(identity(held as Record<string, unknown>), r.said);
  }
  return said;
}

/** Say what a pick blank holds. words : what references are called, by their identity. */
export function sayHeld(blank: Blank, held: unknown, session: Session, words: Map<string, string>): string {
  const items = (Array.isArray(held) ? held : held ? [held] : []) as Record<string, unknown>[];
  if (!items.length) return blank.unless || blank.label;
  const name = (step: unknown) => session.step(String(step))?.name ?? 'a deleted step';
  const drawing = (ref: Record<string, unknown>) =>
    session.step(String(ref.step))?.drawing as Drawing | undefined;
  /** How many of some region references mean texts. */
  const written = (of: Record<string, unknown>[]) =>
    of.filter((r) => drawing(r)?.texts?.[(r.sides as string[])?.[0]]).length;
  const body = (ref: Record<string, unknown>) =>
    session.scene?.bodies.find((b) => b.id === ref.body)?.name ?? name(String(ref.body).split('.')[0]);
  const one = (ref: Record<string, unknown>): string => {
    if (ref.of === 'base') return ref.name === 'origin' ? 'the origin' : String(ref.name);
    if (ref.of === 'datum')
      return name(ref.step) + (Number(ref.index) > 0 ? ` ${Number(ref.index) + 1}` : '');
    if (ref.of === 'body') return body(ref);
    if (ref.of === 'step') return name(ref.step);
    if (ref.of === 'sketch') return `all of ${name(ref.step)}`;
    if (ref.of === 'region') return `${written([ref]) ? '1 text' : '1 region'} of ${name(ref.step)}`;
    if (ref.of === 'drawn')
      return ref.entity === 'origin'
        ? `origin of ${name(ref.step)}`
        : `${drawing(ref)?.points?.[String(ref.entity)] ? 'a point' : 'a curve'} of ${name(ref.step)}`;
    const known = words.get(identity(ref));
    if (known) return known;
    if (ref.of === 'spot') return `${String(ref.at)} of ${one(ref.edge as Record<string, unknown>)}`;
    if (ref.of === 'edge') return `an edge of ${body(ref)}`;
    if (ref.of === 'vertex') return `a corner of ${body(ref)}`;
    return `a face of ${body(ref)}`;
  };
  if (items.length === 1) return one(items[0]);
  if (items.some((r) => r.of !== 'region')) {
    const said = [...new Set(items.map(one))];
    return said.length <= 3 && said.length === items.length
      ? `${said.slice(0, -1).join(', ')} and ${said.at(-1)}`
      : `${items.length} ${blank.label}`;
  }
  const texts = written(items);
  const rest = items.length - texts;
  const count = [
    rest ? `${rest} ${rest === 1 ? 'region' : 'regions'}` : '',
    texts ? `${texts} ${texts === 1 ? 'text' : 'texts'}` : '',
  ]
    .filter(Boolean)
    .join(' and ');
  return `${count} of ${[...new Set(items.map((r) => name(r.step)))].join(', ')}`;
}

const figure = (v: number) => v.toLocaleString('en-GB', { maximumFractionDigits: 0 }).replaceAll(',', ' ');

/**
 * Say what a change reaches: "Reaches 2 later steps. Volume of Base 208 416 → 206 380 mm³." step: the one
 * that is changed.
 */
export function sayForeseen(foreseen: Foreseen, step = ''): string {
  const others = foreseen.steps.filter((s) => s.id !== step);
  const stopped = others.filter((s) => s.state === 'stopped');
  const held = others.filter((s) => s.state === 'held');
  const parts = [
    others.length
      ? `Reaches ${others.length} ${step ? 'later ' : ''}${others.length === 1 ? 'step' : 'steps'}.`
      : step
        ? 'Reaches no later step.'
        : 'Reaches no step.',
  ];
  for (const s of stopped) parts.push(`Step ${s.number} ${s.name} would stop: ${s.message}`);
  for (const s of held) parts.push(`Step ${s.number} ${s.name} would ask: ${s.message}`);
  for (const b of foreseen.bodies) {
    const say = (v: number | null) => (v === null ? 'none' : figure(v));
    if (b.before === null || b.after === null || Math.abs(b.before - b.after) > 0.5)
      parts.push(`Volume of ${b.name} ${say(b.before)} → ${say(b.after)} mm³.`);
  }
  parts.push(...sayLost(foreseen));
  return parts.join(' ');
}

/** Say what a change would take from kept measures and from pages, a sentence each. */
export const sayLost = ({ measures = [], pages = [] }: Pick<Foreseen, 'measures' | 'pages'>): string[] => [
  ...(measures.length ? [`Nothing would be left to measure for ${measures.join(', ')}.`] : []),
  ...pages.map(
    (p) =>
      `${p.name}: ${p.lost} ${p.lost === 1 ? 'dimension or mark' : 'dimensions and marks'} would be lost.`,
  ),
];
