/** A probability as it is shown: never a flat 0 or 100 % for what is not certain. */
export function percent(p: number): string {
  if (p > 0 && p < 0.01) return "< 1\u00a0%";
  if (p > 0.99 && p < 1) return "> 99\u00a0%";
  return `${Math.round(p * 100)}\u00a0%`;
}
