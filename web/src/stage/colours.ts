/** The design tokens as three.js colours; app.css is where they are defined. */
import { Color } from 'three';

const known = new Map<string, string>(); // they never change, and asking for a style has the page laid out

export function token(name: string): Color {
  const colour =
    known.get(name) ?? getComputedStyle(document.documentElement).getPropertyValue(`--color-${name}`).trim();
  if (colour) known.set(name, colour);
  return new Color(colour || '#000');
}
