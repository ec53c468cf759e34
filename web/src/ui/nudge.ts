/** Numbers by the arrows: a plain number with a unit goes up or down by a round amount. */

/** The text after an arrow, or null where it is a formula that no arrow can turn. */
export function nudged(text: string, up: boolean): string | null {
  const found = /^(-?\d+(?:\.\d+)?)(\s*[a-z°µ%]*)$/.exec(text.trim());
  if (!found) return null;
  const value = Number(found[1]);
  const step = Math.abs(value) >= 10 ? 1 : Math.abs(value) >= 1 ? 0.1 : 0.01;
  const whole = !found[2].trim() && Number.isInteger(value); // a bare whole number may be a count
  return `${Number((value + (up ? 1 : -1) * (whole ? 1 : step)).toFixed(4))}${found[2]}`;
}
