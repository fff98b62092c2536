import { type Peak, strongestPeak } from "../signal/spectrum.ts";
import { median } from "../signal/stats.ts";

/** A clutch judders for a second or two: shorter windows keep its vibration. */
const SHORT_S = 1.4;
const SHORT_HOP_S = 0.5;
export const SHORT_PROMINENCE = 3;
/** A window whose readings come this unevenly has no spectrum. */
const UNEVEN_SHARE = 0.25;
const USUAL_WINDOWS = 8;

export interface ShortWindow {
  readonly start: number;
  readonly end: number;
  readonly mid: number;
  readonly working: boolean;
  readonly peak: Peak;
}

/** Vibration that is usual, rpm. Infinite where too little was driven to know what is usual. */
export const usualOf = (windows: readonly ShortWindow[]): number =>
  windows.length < USUAL_WINDOWS ? Number.POSITIVE_INFINITY : median(windows.map((w) => w.peak.peakToPeak));

const SAME_SHARE = 0.12;

/** A clutch judders at about one frequency in a gear; what vibrates now so, now so is something else. */
export function consistent(windows: readonly ShortWindow[], gear: Float64Array): ShortWindow[] {
  const byGear = new Map<number, ShortWindow[]>();
  for (const w of windows) {
    const g = gear[w.mid] as number;
    byGear.set(g, [...(byGear.get(g) ?? []), w]);
  }
  return [...byGear.values()]
    .flatMap((own) => {
      const middle = median(own.map((w) => w.peak.frequencyHz));
      const same = own.filter((w) => Math.abs(w.peak.frequencyHz / middle - 1) < SAME_SHARE);
      return same.length * 2 > own.length ? own : [];
    })
    .sort((a, b) => a.start - b.start);
}

/** What short windows are read from: signals of one length, and counts up to each of their samples. */
export interface ShortWindowInput {
  readonly timeS: Float64Array;
  readonly gear: Float64Array;
  readonly outputRpm: Float64Array;
  /** of the converter */
  readonly slipRpm: Float64Array;
  readonly rateHz: number;
  readonly bandHz: readonly [low: number, high: number];
  /** samples that cannot be used, and those with the clutch commanded, before each; one longer than the signals */
  readonly badBefore: Int32Array;
  readonly workingBefore: Int32Array;
}

/** Vibrations of the slip in windows of 1.4 s, with the clutch working throughout or let go throughout. */
export function shortWindows(input: ShortWindowInput): ShortWindow[] {
  const { timeS, gear, outputRpm, slipRpm, rateHz, bandHz, badBefore, workingBefore } = input;
  const size = Math.round(SHORT_S * rateHz);
  const step = Math.max(1, Math.round(SHORT_HOP_S * rateHz));
  const out: ShortWindow[] = [];
  let pad = 64;
  while (pad < size * 2) pad *= 2;
  if (size < 8) return out;
  for (let start = 0; start + size <= timeS.length; start += step) {
    const end = start + size;
    const mid = (start + end) >> 1;
    if (!((gear[mid] as number) > 0) || !((outputRpm[mid] as number) > 200)) continue;
    const lasts = (timeS[end - 1] as number) - (timeS[start] as number);
    if (Math.abs(lasts - (size - 1) / rateHz) >= UNEVEN_SHARE * SHORT_S || badBefore[end] !== badBefore[start])
      continue;
    const on = (workingBefore[end] as number) - (workingBefore[start] as number);
    if (on < size * 0.9 && on > size * 0.1) continue;
    const peak = strongestPeak(slipRpm.subarray(start, end), rateHz, ...bandHz, pad);
    if (peak) out.push({ start, end, mid, working: on >= size * 0.9, peak });
  }
  return out;
}
