/** A figure to so many digits, without zeros that tell nothing. */
export function figure(v: number, digits = 6): string {
  if (v === 0) return '0';
  return Math.abs(v) < 1e-3 ? v.toExponential(1) : Number(v.toPrecision(digits)).toString();
}
