import { quantileSorted } from "simple-statistics";

/** Quantile of the finite values. @param p - 0…1. @returns NaN for no values */
export function quantile(values: ArrayLike<number>, p: number): number {
  const finite = Float64Array.from(values).filter((v) => Number.isFinite(v)).sort();
  return finite.length === 0 ? Number.NaN : quantileSorted(finite as unknown as number[], p);
}

/** A reading that may be missing, as it is stored: NaN becomes undefined. */
export const finite = (v: number | undefined): number | undefined => (v !== undefined && Number.isFinite(v) ? v : undefined);

export const median = (values: ArrayLike<number>): number => quantile(values, 0.5);

/** Lowest and highest finite value. @returns undefined when there is none */
export function extent(values: Iterable<number>): [number, number] | undefined {
  let lo = Infinity;
  let hi = -Infinity;
  for (const v of values) {
    if (v < lo) lo = v;
    if (v > hi) hi = v;
  }
  return lo <= hi ? [lo, hi] : undefined;
}

export interface Span {
  /** first index */
  readonly start: number;
  /** index after the last */
  readonly end: number;
}

/**
 * Runs in which `test` holds; runs closer than `joinS` are joined, runs shorter than `minS` or with fewer than
 * `minSamples` samples left out.
 */
export function runs(timeS: Float64Array, from: number, to: number, test: (i: number) => boolean, joinS: number, minS: number, minSamples: number): Span[] {
  const found: { start: number; end: number; hits: number }[] = [];
  for (let i = from; i < to; i++) {
    if (!test(i)) continue;
    const last = found.at(-1);
    if (last && (timeS[i] as number) - (timeS[last.end - 1] as number) <= joinS) {
      last.end = i + 1;
      last.hits++;
    } else found.push({ start: i, end: i + 1, hits: 1 });
  }
  return found.filter((s) => s.hits >= minSamples && (timeS[s.end - 1] as number) - (timeS[s.start] as number) >= minS);
}
