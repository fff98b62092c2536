import type { Frame } from "./frame.ts";
import { finite } from "./stats.ts";

/** Readings a second from which a jolt can be measured. */
export const JOLT_RATE_HZ = 10;
const LEAST_BASE_S = 0.1;

/**
 * Acceleration of the output shaft over at least 0.1 s. It varies more than the vehicle does: the half-shafts wind up.
 * @returns rpm/s, length of the frame; NaN where the log can’t tell
 */
export function outputAcceleration(frame: Frame): Float64Array {
  const { timeS, outputRpm, rateHz } = frame;
  const n = timeS.length;
  const reach = Math.max(1, Math.round((LEAST_BASE_S * rateHz) / 2));
  const out = new Float64Array(n).fill(Number.NaN);
  for (let i = reach; i + reach < n; i++) {
    const dt = (timeS[i + reach] as number) - (timeS[i - reach] as number);
    if (dt > 0 && dt < 4 * reach * (2 / rateHz))
      out[i] = ((outputRpm[i + reach] as number) - (outputRpm[i - reach] as number)) / dt;
  }
  return out;
}

/** Lowest and highest acceleration within a span. @returns undefined when none is known */
export function rangeWithin(
  timeS: Float64Array,
  acceleration: Float64Array,
  fromIndex: number,
  untilS: number,
): { lowest: number; highest: number } | undefined {
  let lowest = Infinity;
  let highest = -Infinity;
  for (let i = fromIndex; i < timeS.length && (timeS[i] as number) <= untilS; i++) {
    const a = acceleration[i] as number;
    if (a < lowest) lowest = a;
    if (a > highest) highest = a;
  }
  return lowest <= highest ? { lowest, highest } : undefined;
}

/** Mean of the known values of some samples. */
export function meanOf(values: Float64Array | undefined, from: number, to: number): number | undefined {
  if (!values) return undefined;
  let sum = 0;
  let n = 0;
  for (let i = from; i < to; i++) {
    const v = values[i] as number;
    if (v - v === 0) {
      sum += v;
      n++;
    }
  }
  return n > 0 ? finite(sum / n) : undefined;
}
