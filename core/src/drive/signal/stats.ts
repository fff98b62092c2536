import { quickselect } from "simple-statistics";

/** Where quantiles are partially sorted; grows to the longest list asked for. */
let scratch = new Float64Array(1024);
const scratchFor = (length: number): Float64Array => {
  if (scratch.length < length) scratch = new Float64Array(length * 2);
  return scratch;
};

/** Quantile of the first `n` values of the scratch, which are moved about. */
function quantileOfScratch(n: number, p: number): number {
  if (n === 0) return Number.NaN;
  const at = p * (n - 1);
  const k = Math.floor(at);
  const part = scratch.subarray(0, n);
  // partial sorting: all before k is not above it, all after not below
  quickselect(part as unknown as number[], k, 0, n - 1);
  const lower = part[k] as number;
  if (k === at) return lower;
  let upper = Infinity;
  for (let i = k + 1; i < n; i++) if ((part[i] as number) < upper) upper = part[i] as number;
  return lower + (at - k) * (upper - lower);
}

/**
 * Quantile of the finite values, linear between the neighbours (type 7 of Hyndman and Fan 1996).
 * @param values - read only
 * @param p - 0…1
 * @returns NaN for no values
 */
export function quantile(values: ArrayLike<number>, p: number): number {
  const known = scratchFor(values.length);
  let n = 0;
  for (let i = 0; i < values.length; i++) {
    const v = values[i] as number;
    if (v - v === 0) known[n++] = v;
  }
  return quantileOfScratch(n, p);
}

/** {@link quantile} of the values at some indices. */
export function quantileAt(values: Float64Array, index: readonly number[], p: number): number {
  const known = scratchFor(index.length);
  let n = 0;
  for (let i = 0; i < index.length; i++) {
    const v = values[index[i] as number] as number;
    if (v - v === 0) known[n++] = v;
  }
  return quantileOfScratch(n, p);
}

/** A reading that may be missing, as it is stored: NaN becomes undefined. */
export const finite = (v: number | undefined): number | undefined =>
  v !== undefined && Number.isFinite(v) ? v : undefined;

export const median = (values: ArrayLike<number>): number => quantile(values, 0.5);

/** The values at some indices. */
export function pick(values: Float64Array, index: readonly number[]): Float64Array {
  const out = new Float64Array(index.length);
  for (let i = 0; i < out.length; i++) out[i] = values[index[i] as number] as number;
  return out;
}

/** Lowest and highest of the values at some indices. @returns undefined when there is none */
export function extentAt(values: Float64Array, index: readonly number[]): [number, number] | undefined {
  let lo = Infinity;
  let hi = -Infinity;
  for (let i = 0; i < index.length; i++) {
    const v = values[index[i] as number] as number;
    if (v < lo) lo = v;
    if (v > hi) hi = v;
  }
  return lo <= hi ? [lo, hi] : undefined;
}

/** Lowest and highest finite value. @returns undefined when there is none */
export function extent(values: ArrayLike<number>): [number, number] | undefined {
  let lo = Infinity;
  let hi = -Infinity;
  for (let i = 0; i < values.length; i++) {
    const v = values[i] as number;
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

/** Indices at which `test` holds. */
export function where(n: number, test: (i: number) => boolean): number[] {
  const hits: number[] = [];
  for (let i = 0; i < n; i++) if (test(i)) hits.push(i);
  return hits;
}

/**
 * Joins hits into runs: hits closer in time than `joinS` belong together; runs shorter than `minS` or with fewer than
 * `minSamples` hits are left out.
 * @param hits - increasing indices into `timeS`
 */
export function runs(
  timeS: Float64Array,
  hits: readonly number[],
  joinS: number,
  minS: number,
  minSamples: number,
): Span[] {
  const found: { start: number; end: number; hits: number }[] = [];
  for (const i of hits) {
    const last = found.at(-1);
    if (last && (timeS[i] as number) - (timeS[last.end - 1] as number) <= joinS) {
      last.end = i + 1;
      last.hits++;
    } else found.push({ start: i, end: i + 1, hits: 1 });
  }
  return found.filter((s) => s.hits >= minSamples && (timeS[s.end - 1] as number) - (timeS[s.start] as number) >= minS);
}

/** Indices of the runs in which `test` holds, from `afterS` past the start of each on: what has come to rest by then. */
export function settled(timeS: Float64Array, test: (i: number) => boolean, joinS: number, afterS: number): number[] {
  return runs(timeS, where(timeS.length, test), joinS, afterS, 1).flatMap(({ start, end }) =>
    where(end - start, (k) => (timeS[start + k] as number) - (timeS[start] as number) > afterS).map((k) => start + k),
  );
}

/** The highest value that was held for half a second in all, among some samples. */
export function topHeld(values: Float64Array, index: readonly number[], rateHz: number): number | undefined {
  const back = Math.max(1, Math.round(0.5 * rateHz));
  const n = index.length;
  return n < back ? undefined : finite(quantileAt(values, index, (n - back) / Math.max(1, n - 1)));
}

const ONSET_S = 0.5;

/**
 * The lowest value at which slip began: the highest of the first half second of each episode. Once it slips, sliding
 * friction lets it slip on at less.
 */
export function lowestOnset(timeS: Float64Array, values: Float64Array, spans: readonly Span[]): number | undefined {
  let lowest = Number.POSITIVE_INFINITY;
  for (const s of spans) {
    let highest = Number.NEGATIVE_INFINITY;
    for (let i = s.start; i < s.end && (timeS[i] as number) - (timeS[s.start] as number) <= ONSET_S; i++)
      highest = Math.max(highest, values[i] as number);
    if (highest > Number.NEGATIVE_INFINITY) lowest = Math.min(lowest, highest);
  }
  return finite(lowest);
}

/** 1 in any of some spans of time, which begin one after the other. @returns length of `timeS` */
export function within(timeS: Float64Array, spans: readonly (readonly [startS: number, endS: number])[]): Uint8Array {
  const out = new Uint8Array(timeS.length);
  let from = 0;
  for (const [startS, endS] of spans) {
    while (from < out.length && (timeS[from] as number) < startS) from++;
    for (let i = from; i < out.length && (timeS[i] as number) <= endS; i++) out[i] = 1;
  }
  return out;
}
