import { seededRandom } from "../../chance/index.ts";
import { quantile } from "./stats.ts";

/** How a measure changed between two drives. */
export interface Change {
  /** after − before */
  readonly value: number;
  /** 95 % interval; undefined with fewer than three samples on a side */
  readonly interval: readonly [number, number] | undefined;
  /** Cliff's δ, −1…1: share of pairs in which after is higher, less the share in which it is lower */
  readonly effect: number;
  readonly samples: readonly [number, number];
}

const RESAMPLES = 400;
const LEAST_SAMPLES = 3;
const SEED = 0x9e3779b9;

/** Cliff's δ of two samples. Cost: O(n·m). Source: Cliff 1993, dominance statistics. */
export function cliffsDelta(before: readonly number[], after: readonly number[]): number {
  let sum = 0;
  for (const a of after) for (const b of before) sum += Math.sign(a - b);
  return before.length > 0 && after.length > 0 ? sum / (before.length * after.length) : 0;
}

/**
 * Change of a quantile between two samples with its percentile bootstrap interval. The samples must be about independent:
 * seconds of driving, shifts, windows, not rows.
 * @param share - which quantile, 0…1
 * Source: Efron and Tibshirani 1993, an introduction to the bootstrap, ch. 13.
 */
export function changeOf(before: readonly number[], after: readonly number[], share: number): Change {
  const value = quantile(after, share) - quantile(before, share);
  const samples = [before.length, after.length] as const;
  const effect = cliffsDelta(before, after);
  if (before.length < LEAST_SAMPLES || after.length < LEAST_SAMPLES)
    return { value, interval: undefined, effect, samples };
  const random = seededRandom(SEED);
  const draw = (from: readonly number[], into: Float64Array) => {
    for (let i = 0; i < into.length; i++) into[i] = from[Math.floor(random() * from.length)] as number;
    return quantile(into, share);
  };
  const [a, b] = [new Float64Array(after.length), new Float64Array(before.length)];
  const changes = Float64Array.from({ length: RESAMPLES }, () => draw(after, a) - draw(before, b));
  return { value, interval: [quantile(changes, 0.025), quantile(changes, 0.975)], effect, samples };
}
