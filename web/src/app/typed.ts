/**
 * A figure of the program's as a person would type it into a field, with at most n significant digits. Three digits after the point could
 * be thousands as well, and the server would have to ask: they become four.
 */
export function typed(v: number, n: number): string {
  let s = String(Number(v.toPrecision(n)));
  if (s.includes("e")) s = v.toFixed(Math.min(20, Math.max(0, n - 1 - Math.floor(Math.log10(Math.abs(v))))));
  return /^-?\d+\.\d{3}$/.test(s) ? `${s}0` : s;
}
