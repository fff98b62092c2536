import { gearName } from "../../unit/index.ts";
import { type Group, groupKey, loadBand, temperatureBand } from "../signal/conditions.ts";
import type { Frame } from "../signal/frame.ts";
import { type Peak, strongestPeak } from "../signal/spectrum.ts";
import { finite, median, quantile } from "../signal/stats.ts";
import { assignOrders, EDGE_HZ, type OrderMatch } from "./orders.ts";

/** Band of converter-clutch shudder, Hz. Source: handbook, events and measures. */
export const SHUDDER_BAND_HZ: readonly [number, number] = [3, 20];

/**
 * Where a swing comes from: the converter clutch, the engine (misfire, imbalance), something that turns with the output
 * shaft or the wheels, or it cannot be told.
 */
export type SwingCause = "shudder" | "engine" | "output shaft" | "wheels" | "unknown";

export interface OscillationWindow {
  readonly startS: number;
  readonly endS: number;
  readonly signal: "slip" | "engine" | "output";
  readonly peak: Peak;
  /** of the converter clutch; undefined while it changes over, or without a converter */
  readonly working: boolean | undefined;
  readonly cause: SwingCause;
  /** the rotating part whose order it follows, when it does */
  readonly order: OrderMatch | undefined;
  readonly group: Group;
  readonly torqueNm: number | undefined;
  readonly fluidC: number | undefined;
  readonly vehicleKmh: number | undefined;
}

export interface OscillationGroup extends Group {
  readonly seconds: number;
  readonly peakToPeakRpm: number;
  /** swing of each window, at most 60, evenly taken: samples for a comparison */
  readonly eachWindowRpm: readonly number[];
  /** undefined when no window of the group has a prominent peak */
  readonly frequencyHz: number | undefined;
}

export interface OscillationAnalysis {
  readonly rateHz: number;
  /** highest frequency that can be told at this rate, Hz; undefined when the band cannot be seen at all */
  readonly highestHz: number | undefined;
  /** converter slip while the converter clutch works */
  readonly clutchWorking: readonly OscillationGroup[];
  /** windows that swing, with what each comes from */
  readonly windows: readonly OscillationWindow[];
  /** swing of the slip with the clutch open: an oscillation found here too is no shudder. rpm, undefined when not driven */
  readonly openPeakToPeakRpm: number | undefined;
}

const WINDOW_S = 2.4;
/** Windows overlap by half. */
const HOP_S = 1.2;
const MIN_PROMINENCE = 4;
/** Swing of engine or output speed that is looked at, peak to peak, rpm. */
export const VIBRATION_RPM = 18;
/** The engine swings more than what it drives: it is the source. */
const ENGINE_LEADS = 1.3;
/** Slower logs show of a swing only an image, and of a vibration what the driver's foot does too: nothing is claimed of them. */
export const VIBRATION_RATE_HZ = 18;
/** Slower swings, at rates at which shudder itself cannot be seen: it folds down to there. */
const FOLDED_LOW_HZ = 0.8;
const NEAR_HZ = 0.6;
/** With so few windows of the open clutch nothing is known of it. */
const FEW_OPEN = 3;
const MOST_WINDOWS = 60;
const STRAY_SHARE = 0.25;
const ROUGH_WINDOWS = 8;
const ROUGH_SHARE = 0.08;

/** Highest frequency that is told at a rate: 0.48 of it. */
const visibleHz = (rateHz: number) => 0.48 * rateHz;

interface Found {
  readonly start: number;
  readonly end: number;
  readonly mid: number;
  readonly signal: OscillationWindow["signal"];
  readonly working: boolean | undefined;
  readonly peak: Peak;
  readonly engineRpm: number;
  readonly inputRpm: number;
}

/**
 * Swings of converter slip, engine and output speed in windows of 2.4 s outside shifts, told apart: what follows the order
 * of a rotating part, folded at the sampling rate, is no shudder; nor is what swings the engine more than the turbine, or
 * is there with the clutch open as well.
 * @param mask - 1 where a speed sensor is not to be believed
 * @param quiet - 1 within a gear shift, where slip moves for other reasons
 * @param limitRpm - of shudder, peak to peak
 */
export function analyseOscillation(
  frame: Frame,
  mask: Uint8Array,
  quiet: Uint8Array,
  limitRpm: number,
): OscillationAnalysis {
  const { timeS, tccCommandPct, gear, load, fluidC, torqueNm, vehicleKmh } = frame;
  const inputRpm = bridged(frame.inputRpm);
  const outputRpm = bridged(frame.outputRpm);
  const engineRpm = frame.engineRpm && (frame.engineRpm === frame.inputRpm ? inputRpm : bridged(frame.engineRpm));
  const rateHz = frame.rateHz;
  const n = timeS.length;
  const visible = visibleHz(rateHz);
  const highestHz = visible > SHUDDER_BAND_HZ[0] + 0.5 ? Math.min(SHUDDER_BAND_HZ[1], visible) : undefined;
  // at low rates a shudder folds down: swings from 0.8 Hz on are looked at, their true frequency is unknown
  const lowHz = rateHz < 2 * SHUDDER_BAND_HZ[1] * 0.4 ? FOLDED_LOW_HZ : SHUDDER_BAND_HZ[0];
  const topHz = highestHz ?? visible;
  const nothing: OscillationAnalysis = {
    rateHz,
    highestHz,
    clutchWorking: [],
    windows: [],
    openPeakToPeakRpm: undefined,
  };
  const length = Math.round(WINDOW_S * rateHz);
  if (topHz - lowHz < 0.8 || length < 8) return nothing;
  const hop = Math.max(1, Math.round(HOP_S * rateHz));
  let padTo = 64;
  while (padTo < length * 2) padTo *= 2;
  const converter = engineRpm !== undefined && tccCommandPct !== undefined && engineRpm !== inputRpm;
  const slip = new Float64Array(converter ? n : 0);
  for (let i = 0; i < slip.length; i++) slip[i] = (engineRpm?.[i] as number) - (inputRpm[i] as number);
  const evenStep = 1 / rateHz;
  // counts up to each sample, so that a window is judged by look-ups
  const badBefore = new Int32Array(n + 1);
  const workingBefore = new Int32Array(n + 1);
  for (let i = 0; i < n; i++) {
    const bad =
      mask[i] === 1 || quiet[i] === 1 || Number.isNaN(inputRpm[i] as number) || Number.isNaN(outputRpm[i] as number);
    badBefore[i + 1] = (badBefore[i] as number) + (bad || Number.isNaN(slip[i] ?? 0) ? 1 : 0);
    workingBefore[i + 1] = (workingBefore[i] as number) + ((tccCommandPct?.[i] ?? 0) > 5 ? 1 : 0);
  }
  const seen: Found[] = [];
  let judged = 0;
  const openPeaks: number[] = [];
  const groups = new Map<string, { group: Group; peaks: Peak[] }>();
  const groupAt = (i: number): Group => ({
    gear: gearName(gear[i] as number),
    load: loadBand(load[i] as number),
    temperature: temperatureBand(fluidC?.[i]),
  });
  for (let start = 0; start + length <= n; start += hop) {
    const end = start + length;
    const mid = (start + end) >> 1;
    if (!((gear[mid] as number) > 0) || !((outputRpm[mid] as number) > 200)) continue;
    const lasts = (timeS[end - 1] as number) - (timeS[start] as number);
    const even = Math.abs(lasts - (length - 1) * evenStep) < 0.25 * WINDOW_S;
    if (!even || badBefore[end] !== badBefore[start]) continue;
    judged++;
    const on = (workingBefore[end] as number) - (workingBefore[start] as number);
    const working = !converter ? undefined : on >= length * 0.9 ? true : on <= length * 0.1 ? false : undefined;
    const peakOf = (signal: Float64Array, least: number, low = lowHz, high = topHz) =>
      swingOf(signal, start, end) < least
        ? undefined
        : strongestPeak(signal.subarray(start, end), rateHz, low, high, padTo);
    let strongest: { signal: OscillationWindow["signal"]; peak: Peak } | undefined;
    if (working !== undefined) {
      const peak = peakOf(slip, working ? 0 : limitRpm * 0.4);
      const prominent = peak !== undefined && peak.prominence >= MIN_PROMINENCE;
      if (!working) openPeaks.push(prominent ? peak.peakToPeak : 0);
      else if (peak) {
        const group = groupAt(mid);
        const key = groupKey(group);
        const entry = groups.get(key) ?? { group, peaks: [] };
        entry.peaks.push(peak);
        groups.set(key, entry);
      }
      if (prominent && peak.peakToPeak > (working ? limitRpm * 0.5 : VIBRATION_RPM))
        strongest = { signal: "slip", peak };
    }
    if (!strongest && rateHz >= VIBRATION_RATE_HZ) {
      for (const [signal, values] of [
        ["engine", engineRpm],
        ["output", outputRpm],
      ] as const) {
        const peak = values && peakOf(values, VIBRATION_RPM * 0.7, SHUDDER_BAND_HZ[0]);
        if (peak && peak.prominence >= MIN_PROMINENCE && peak.peakToPeak > VIBRATION_RPM)
          if (!strongest || peak.peakToPeak > strongest.peak.peakToPeak) strongest = { signal, peak };
      }
    }
    if (!strongest) continue;
    const hz = strongest.peak.frequencyHz;
    const near = (values: Float64Array | undefined) =>
      values ? (peakOf(values, 0, Math.max(0.5, hz - NEAR_HZ), Math.min(topHz, hz + NEAR_HZ))?.peakToPeak ?? 0) : 0;
    seen.push({ start, end, mid, working, ...strongest, engineRpm: near(engineRpm), inputRpm: near(inputRpm) });
  }
  const found = withoutRinging(seen, hop, (start) => {
    let i = start;
    while (i > 0 && !quiet[i - 1] && (timeS[start] as number) - (timeS[i - 1] as number) < RINGS_AFTER_S) i--;
    return i > 0 && quiet[i - 1] === 1;
  });
  // at low rates so many orders fold into the narrow band that one of them always agrees
  const orders =
    rateHz < VIBRATION_RATE_HZ
      ? []
      : assignOrders(
          found.map((w) => ({
            start: w.start,
            end: w.end,
            frequencyHz: w.peak.frequencyHz,
            engineLeads: w.engineRpm > w.inputRpm,
          })),
          frame,
          topHz,
        );
  const openPeakToPeakRpm = finite(median(openPeaks));
  const working = found.filter((w) => w.working && w.signal === "slip");
  const open =
    openPeaks.length >= FEW_OPEN && (openPeakToPeakRpm ?? 0) > 0.5 * median(working.map((w) => w.peak.peakToPeak));
  // an engine that runs rough shows it everywhere, also where the slip is calm
  const rough = found.filter((w) => w.signal === "engine" && w.engineRpm > ENGINE_LEADS * w.inputRpm).length;
  const engineRuns = rough >= Math.max(ROUGH_WINDOWS, ROUGH_SHARE * judged) && rough * 2 > found.length;
  const at = (v: Float64Array | undefined, i: number) => finite(v?.[i]);
  const windows = found.map((w, k): OscillationWindow => {
    const order = orders[k];
    let cause: SwingCause = "unknown";
    if (order) cause = order.part;
    else if (rateHz < VIBRATION_RATE_HZ) cause = "unknown";
    else if (w.engineRpm > ENGINE_LEADS * w.inputRpm && (w.signal === "slip" || open || engineRuns)) cause = "engine";
    else if (w.signal === "slip" && w.working && !open)
      cause = w.peak.frequencyHz >= SHUDDER_BAND_HZ[0] && w.peak.frequencyHz < topHz - EDGE_HZ ? "shudder" : "unknown";
    return {
      startS: timeS[w.start] as number,
      endS: timeS[w.end - 1] as number,
      signal: w.signal,
      peak: w.peak,
      working: w.working,
      cause,
      order,
      group: groupAt(w.mid),
      torqueNm: at(torqueNm, w.mid),
      fluidC: at(fluidC, w.mid),
      vehicleKmh: at(vehicleKmh, w.mid),
    };
  });
  // a few windows beside many whose source is known: there it could not be followed
  const told = windows.filter((w) => w.order || w.cause === "engine").length;
  const shudders = windows.filter((w) => w.cause === "shudder").length;
  const stray = shudders < STRAY_SHARE * told;
  return {
    rateHz,
    highestHz,
    windows: stray ? windows.map((w) => (w.cause === "shudder" ? { ...w, cause: "unknown" } : w)) : windows,
    clutchWorking: [...groups.values()].map(({ group, peaks }) => ({
      ...group,
      seconds: peaks.length * HOP_S,
      peakToPeakRpm: quantile(
        peaks.map((p) => p.peakToPeak),
        0.75,
      ),
      eachWindowRpm: peaks
        .filter((_, k) => k % Math.max(1, Math.ceil(peaks.length / MOST_WINDOWS)) === 0)
        .map((p) => Math.round(p.peakToPeak * 10) / 10),
      frequencyHz: finite(median(peaks.filter((p) => p.prominence >= MIN_PROMINENCE).map((p) => p.frequencyHz))),
    })),
    openPeakToPeakRpm,
  };
}

/** A shift leaves the driveline swinging: such a swing begins so soon after it, */
const RINGS_AFTER_S = 2;
/** keeps its frequency, */
const SAME_HZ = 0.3;
/** and is smaller by this from window to window, until it is gone. */
const DIES_BY = 0.8;

/**
 * Leaves out swings of engine and output that die away after a shift: a part that turns unevenly goes on as long as it turns.
 * @param afterShift - does a window begin just after a shift?
 */
function withoutRinging(seen: readonly Found[], hop: number, afterShift: (start: number) => boolean): Found[] {
  return seen.filter((w, k) => {
    if (w.signal === "slip") return true;
    const next = seen[k + 1];
    const before = seen[k - 1];
    const same = (a: Found, b: Found | undefined): b is Found =>
      b !== undefined &&
      b.signal === a.signal &&
      Math.abs(b.start - a.start) <= hop &&
      Math.abs(b.peak.frequencyHz - a.peak.frequencyHz) < SAME_HZ;
    const dying = !same(w, next) || next.peak.peakToPeak < DIES_BY * w.peak.peakToPeak;
    const died = same(w, before) && w.peak.peakToPeak < DIES_BY * before.peak.peakToPeak;
    return !(dying && (died || afterShift(w.start)));
  });
}

/** A single missing reading between two is bridged by their mean: a spectrum needs even samples. */
function bridged(values: Float64Array): Float64Array {
  let out: Float64Array | undefined;
  for (let i = 1; i + 1 < values.length; i++) {
    if (!Number.isNaN(values[i] as number)) continue;
    const mean = ((values[i - 1] as number) + (values[i + 1] as number)) / 2;
    if (Number.isNaN(mean)) continue;
    out ??= Float64Array.from(values);
    out[i] = mean;
  }
  return out ?? values;
}

/** Peak to peak of a sinusoid with the variance that is left of a signal beside its straight line. */
function swingOf(signal: Float64Array, start: number, end: number): number {
  const n = end - start;
  let [st, sv, svv, stv] = [0, 0, 0, 0];
  const stt = (n * (n * n - 1)) / 12;
  for (let i = 0; i < n; i++) {
    const v = signal[start + i] as number;
    sv += v;
    svv += v * v;
    stv += (i - (n - 1) / 2) * v;
  }
  st = stv / stt;
  const variance = (svv - (sv * sv) / n - st * stv) / n;
  return 2 * Math.SQRT2 * Math.sqrt(Math.max(0, variance));
}
