/** The design tokens as three.js colours; app.css is where they are defined. */
import { Color } from 'three';

const style = () => getComputedStyle(document.documentElement);

export function token(name: string): Color {
  return new Color(style().getPropertyValue(`--color-${name}`).trim() || '#000');
}
