/** Lowest and highest value of every bucket, at growing bucket sizes: a trace drawn from it loses no spike at any zoom. */
export interface Pyramid {
  readonly timeS: Float32Array;
  readonly values: Float32Array;
  readonly low: number;
  readonly high: number;
  readonly levels: readonly PyramidLevel[];
}

export interface PyramidLevel {
  /** samples in a bucket */
  readonly size: number;
  readonly min: Float32Array;
  readonly max: Float32Array;
}

const FANOUT = 4;
const SMALLEST = 64;

/**
 * @param timeS - length n, increasing
 * @param values - length n; NaN = no reading, a bucket of only NaN is NaN
 * @returns copies as 32-bit floats with levels of bucket size 4, 16, 64 … while more than 64 buckets remain
 * Cost: O(n).
 */
export function buildPyramid(timeS: Float64Array, values: Float64Array): Pyramid {
  const n = values.length;
  const raw = Float32Array.from(values);
  let low = Infinity;
  let high = -Infinity;
  for (let i = 0; i < n; i++) {
    const v = raw[i] as number;
    if (v < low) low = v;
    if (v > high) high = v;
  }
  const levels: PyramidLevel[] = [];
  let min: Float32Array = raw;
  let max: Float32Array = raw;
  let size = 1;
  while (min.length > SMALLEST) {
    const m = Math.ceil(min.length / FANOUT);
    const nextMin = new Float32Array(m);
    const nextMax = new Float32Array(m);
    for (let b = 0; b < m; b++) {
      let lo = Number.NaN;
      let hi = Number.NaN;
      const end = Math.min(min.length, (b + 1) * FANOUT);
      for (let i = b * FANOUT; i < end; i++) {
        const a = min[i] as number;
        const c = max[i] as number;
        if (!(lo <= a)) lo = Number.isNaN(a) ? lo : a;
        if (!(hi >= c)) hi = Number.isNaN(c) ? hi : c;
      }
      nextMin[b] = lo;
      nextMax[b] = hi;
    }
    size *= FANOUT;
    levels.push({ size, min: nextMin, max: nextMax });
    min = nextMin;
    max = nextMax;
  }
  return {
    timeS: Float32Array.from(timeS),
    values: raw,
    low: low === Infinity ? 0 : low,
    high: high === -Infinity ? 1 : high,
    levels,
  };
}

/** First index whose time is not before `t`. @param timeS - increasing */
export function indexAtOrAfter(timeS: Float32Array | Float64Array, t: number): number {
  let lo = 0;
  let hi = timeS.length;
  while (lo < hi) {
    const mid = (lo + hi) >> 1;
    if ((timeS[mid] as number) < t) lo = mid + 1;
    else hi = mid;
  }
  return lo;
}
