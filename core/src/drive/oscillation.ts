import { gearName } from "../unit/index.ts";
import { type Group, groupKey, loadBand, temperatureBand } from "./conditions.ts";
import type { Frame } from "./frame.ts";
import { type Peak, strongestPeak } from "./spectrum.ts";
import { finite, median, quantile } from "./stats.ts";

/** Band of converter-clutch shudder, Hz. Source: handbook, events and measures. */
export const SHUDDER_BAND_HZ: readonly [number, number] = [3, 20];

export interface OscillationWindow {
  readonly startS: number;
  readonly endS: number;
  readonly peak: Peak;
  readonly group: Group;
  readonly torqueNm: number | undefined;
  readonly fluidC: number | undefined;
  readonly vehicleKmh: number | undefined;
}

export interface OscillationGroup extends Group {
  readonly seconds: number;
  readonly peakToPeakRpm: number;
  /** undefined when no window of the group has a prominent peak */
  readonly frequencyHz: number | undefined;
}

export interface OscillationAnalysis {
  readonly rateHz: number;
  /** highest frequency that can be told at this rate, Hz; undefined when the band cannot be seen at all */
  readonly highestHz: number | undefined;
  /** windows with the converter clutch working */
  readonly clutchWorking: readonly OscillationGroup[];
  readonly windows: readonly OscillationWindow[];
  /** the same measure with the clutch open: an oscillation found here too is no shudder. rpm, undefined when not driven */
  readonly openPeakToPeakRpm: number | undefined;
}

const WINDOW_S = 2.4;
/** Windows overlap by half. */
const HOP_S = 1.2;
const MIN_PROMINENCE = 4;

/** Highest frequency that is told at a rate: 0.45 of it, so that the peak's skirt stays below Nyquist. */
const visibleHz = (rateHz: number) => 0.45 * rateHz;

/**
 * Slip oscillation (engine − turbine) in windows of 2.4 s while the converter clutch works, and with it open.
 * Judged up to 0.45 of the sampling rate; the caller must say what a slow log cannot show.
 * @param mask - 1 where a speed sensor is not to be believed
 * @param quiet - 1 within a gear shift, where slip moves for other reasons
 */
export function analyseOscillation(frame: Frame, mask: Uint8Array, quiet: Uint8Array): OscillationAnalysis {
  const { timeS, engineRpm, inputRpm, tccCommandPct, gear, load, fluidC, torqueNm, vehicleKmh, outputRpm } = frame;
  const rateHz = frame.rateHz;
  const highestHz =
    visibleHz(rateHz) > SHUDDER_BAND_HZ[0] + 0.5 ? Math.min(SHUDDER_BAND_HZ[1], visibleHz(rateHz)) : undefined;
  const none: OscillationAnalysis = { rateHz, highestHz, clutchWorking: [], windows: [], openPeakToPeakRpm: undefined };
  if (!engineRpm || !tccCommandPct || highestHz === undefined || engineRpm === inputRpm) return none;
  const length = Math.round(WINDOW_S * rateHz);
  const hop = Math.max(1, Math.round(HOP_S * rateHz));
  let padTo = 64;
  while (padTo < length * 2) padTo *= 2;
  const slip = new Float64Array(timeS.length);
  for (let i = 0; i < slip.length; i++) slip[i] = (engineRpm[i] as number) - (inputRpm[i] as number);
  const evenStep = 1 / rateHz;
  // counts up to each sample, so that a window is judged by two look-ups
  const badBefore = new Int32Array(timeS.length + 1);
  const workingBefore = new Int32Array(timeS.length + 1);
  for (let i = 0; i < timeS.length; i++) {
    const bad = mask[i] === 1 || quiet[i] === 1 || Number.isNaN(slip[i] as number);
    badBefore[i + 1] = (badBefore[i] as number) + (bad ? 1 : 0);
    workingBefore[i + 1] = (workingBefore[i] as number) + ((tccCommandPct[i] as number) > 5 ? 1 : 0);
  }
  const windows: OscillationWindow[] = [];
  const openPeaks: number[] = [];
  const groups = new Map<string, { group: Group; peaks: Peak[] }>();
  const at = (v: Float64Array | undefined, i: number) => finite(v?.[i]);
  for (let start = 0; start + length <= timeS.length; start += hop) {
    const end = start + length;
    const mid = (start + end) >> 1;
    const code = gear[mid] as number;
    if (!(code > 0) || !((outputRpm[mid] as number) > 200)) continue;
    const even =
      Math.abs((timeS[end - 1] as number) - (timeS[start] as number) - (length - 1) * evenStep) < 0.25 * WINDOW_S;
    const usable = even && badBefore[end] === badBefore[start];
    const working = (workingBefore[end] as number) - (workingBefore[start] as number);
    if (!usable || (working > length * 0.1 && working < length * 0.9)) continue;
    const peak = strongestPeak(slip.subarray(start, end), rateHz, SHUDDER_BAND_HZ[0], highestHz, padTo);
    if (!peak) continue;
    const prominent = peak.prominence >= MIN_PROMINENCE;
    if (working <= length * 0.1) {
      openPeaks.push(prominent ? peak.peakToPeak : 0);
      continue;
    }
    const group: Group = {
      gear: gearName(code),
      load: loadBand(load[mid] as number),
      temperature: temperatureBand(fluidC?.[mid]),
    };
    const key = groupKey(group);
    const entry = groups.get(key) ?? { group, peaks: [] };
    entry.peaks.push(peak);
    groups.set(key, entry);
    if (prominent) {
      windows.push({
        startS: timeS[start] as number,
        endS: timeS[end - 1] as number,
        peak,
        group,
        torqueNm: at(torqueNm, mid),
        fluidC: at(fluidC, mid),
        vehicleKmh: at(vehicleKmh, mid),
      });
    }
  }
  return {
    rateHz,
    highestHz,
    windows,
    clutchWorking: [...groups.values()].map(({ group, peaks }) => ({
      ...group,
      seconds: peaks.length * HOP_S,
      peakToPeakRpm: quantile(
        peaks.map((p) => p.peakToPeak),
        0.75,
      ),
      frequencyHz: finite(median(peaks.filter((p) => p.prominence >= MIN_PROMINENCE).map((p) => p.frequencyHz))),
    })),
    openPeakToPeakRpm: finite(quantile(openPeaks, 0.9)),
  };
}
