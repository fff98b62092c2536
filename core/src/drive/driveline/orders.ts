import type { Frame } from "../signal/frame.ts";
import { extent, quantile } from "../signal/stats.ts";

/** The order of a rotating part that a vibration follows. */
export interface OrderMatch {
  readonly part: "engine" | "output shaft" | "wheels";
  /** times a revolution */
  readonly order: number;
  /** the true frequency lies over half the sampling rate: what is seen is its image */
  readonly folded: boolean;
}

export interface VibrationWindow {
  /** first sample of the frame, and the one after the last */
  readonly start: number;
  readonly end: number;
  readonly frequencyHz: number;
  /** the engine vibrates more than what it drives: it is the source, whatever else agrees */
  readonly engineLeads: boolean;
}

/**
 * Orders that are known: half an engine order is one cylinder that misfires, the first and second are imbalance; once and
 * twice a turn of a shaft or wheel are imbalance, a damaged tooth, a joint.
 */
const ORDERS: readonly (readonly [OrderMatch["part"], number])[] = [
  ["engine", 0.5],
  ["engine", 1],
  ["engine", 1.5],
  ["engine", 2],
  ["output shaft", 1],
  ["output shaft", 2],
  ["wheels", 1],
  ["wheels", 2],
];
const TOLERANCE_HZ = 0.3;
const MIN_WINDOWS = 4;
const MIN_SHARE = 0.6;
/** Beside another source fewer windows do, when those that agree cover this range: a vibration that stays where it is cannot. */
const BESIDE_SHARE = 0.4;
const BESIDE_SPREAD_HZ = 1.6;
/** The predicted frequency must have moved this far, else a match says nothing. */
const MIN_SPREAD_HZ = 0.8;
const MOST_ROUNDS = 2;
/** Nearer to the highest frequency than this a vibration may be the flank of one beyond it. */
export const EDGE_HZ = 0.12;

/** Where a frequency is seen after sampling. Source: sampling theorem; images lie about multiples of the rate. */
export const foldedHz = (frequencyHz: number, rateHz: number): number =>
  Math.abs(frequencyHz - Math.round(frequencyHz / rateHz) * rateHz);

const spreadOf = (hz: readonly number[]) => quantile(hz, 0.9) - quantile(hz, 0.1);

/**
 * Which windows follow the order of a rotating part: the frequency that the part's speed predicts, folded at the sampling
 * rate, agrees in most windows while it moved, or in many over a wide range. Several parts may be found one after the other.
 * @param topHz - highest frequency that was looked for: a vibration at this edge may lie beyond it and is not told
 * @returns length of `windows`
 */
export function assignOrders(
  windows: readonly VibrationWindow[],
  frame: Frame,
  topHz: number,
): (OrderMatch | undefined)[] {
  const { rateHz, unit } = frame;
  const speeds: Record<OrderMatch["part"], Float64Array | undefined> = {
    engine: frame.engineRpm,
    "output shaft": frame.outputRpm,
    wheels: frame.outputRpm,
  };
  const out: (OrderMatch | undefined)[] = windows.map(() => undefined);
  let left = windows.map((_, i) => i).filter((i) => (windows[i] as VibrationWindow).frequencyHz < topHz - EDGE_HZ);
  for (let round = 0; round < MOST_ROUNDS && left.length >= MIN_WINDOWS; round++) {
    let best: { hits: number[]; share: number; match: (k: number) => OrderMatch } | undefined;
    for (const [part, order] of ORDERS) {
      const rpm = speeds[part];
      if (!rpm) continue;
      const perSecond = (order * (part === "wheels" ? 1 / unit.finalDrive : 1)) / 60;
      const predicted: number[] = [];
      const hits: number[] = [];
      const trueHz = new Map<number, number>();
      for (const k of left) {
        const w = windows[k] as VibrationWindow;
        const range = extent(rpm.subarray(w.start, w.end));
        if (!range) continue;
        const hz = ((range[0] + range[1]) / 2) * perSecond;
        trueHz.set(k, hz);
        const seen = foldedHz(hz, rateHz);
        predicted.push(seen);
        const smear = ((range[1] - range[0]) / 2) * perSecond;
        if (Math.abs(seen - w.frequencyHz) < TOLERANCE_HZ + Math.min(0.5, smear)) hits.push(k);
      }
      // in one gear alone orders of engine and wheels may agree: the side that vibrates more decides
      const led = hits.filter((k) => windows[k]?.engineLeads).length;
      if (part === "engine" ? led * 2 < hits.length : led * 2 > hits.length) continue;
      const share = hits.length / left.length;
      const spread = spreadOf(predicted);
      const beside =
        share >= BESIDE_SHARE &&
        spreadOf(hits.map((k) => foldedHz(trueHz.get(k) as number, rateHz))) >= BESIDE_SPREAD_HZ;
      if (hits.length < MIN_WINDOWS || spread < MIN_SPREAD_HZ || !(share >= MIN_SHARE || beside)) continue;
      if (!best || share > best.share)
        best = { hits, share, match: (k) => ({ part, order, folded: (trueHz.get(k) ?? 0) > rateHz / 2 }) };
    }
    if (!best) break;
    for (const k of best.hits) out[k] = best.match(k);
    const taken = new Set(best.hits);
    left = left.filter((k) => !taken.has(k));
  }
  return out;
}
