import { gearName } from "../../unit/index.ts";
import type { Limit } from "../limits.ts";
import { type Group, groupKey, loadBand, temperatureBand } from "../signal/conditions.ts";
import type { Frame } from "../signal/frame.ts";
import { type Peak, strongestPeak } from "../signal/spectrum.ts";
import { finite, median, quantile } from "../signal/stats.ts";
import { assignOrders, EDGE_HZ, foldedHz, type OrderMatch } from "./orders.ts";
import { type Alone, roughWindows } from "./rough-engine.ts";
import { consistent, SHORT_PROMINENCE, shortWindows, usualOf } from "./short-windows.ts";
import { bridged, ENGINE_LEADS, EXPLAINS_HZ, VIBRATION_RPM, vibrationOf } from "./vibration.ts";

/** Band of converter-clutch shudder, Hz. */
export const SHUDDER_BAND_HZ: readonly [number, number] = [3, 20];

/**
 * Where a vibration comes from: the converter clutch, the engine (misfire, imbalance), something that turns with the output
 * shaft or the wheels, or the log can’t tell.
 */
export type VibrationCause = "shudder" | "engine" | "output shaft" | "wheels" | "unknown";

export interface OscillationWindow {
  readonly startS: number;
  readonly endS: number;
  readonly signal: "slip" | "engine" | "output";
  readonly peak: Peak;
  /** of the converter clutch; undefined while it changes over, or without a converter */
  readonly working?: boolean | undefined;
  readonly cause: VibrationCause;
  /** the rotating part whose order it follows, when it does */
  readonly order?: OrderMatch | undefined;
  readonly group: Group;
  readonly torqueNm?: number | undefined;
  readonly fluidC?: number | undefined;
  readonly vehicleKmh?: number | undefined;
}

/** How much a window vibrates, and what was driven. */
export interface VibrationSample {
  readonly gear: string;
  readonly peakToPeakRpm: number;
  readonly load?: number | undefined;
  readonly fluidC?: number | undefined;
  readonly vehicleKmh?: number | undefined;
}

export interface OscillationGroup extends Group {
  readonly seconds: number;
  readonly peakToPeakRpm: number;
  /** vibration of each window, at most 60, evenly taken: samples for a comparison */
  readonly eachWindowRpm: readonly number[];
  /** undefined when no window of the group has a prominent peak */
  readonly frequencyHz?: number | undefined;
}

export interface OscillationAnalysis {
  readonly rateHz: number;
  /** highest frequency that can be told at this rate, Hz; undefined when the band cannot be seen at all */
  readonly highestHz?: number | undefined;
  /** converter slip while the converter clutch works */
  readonly clutchWorking: readonly OscillationGroup[];
  /** short windows of the slip while the clutch works, at most 400: what shudder would show in */
  readonly slipWindows: readonly VibrationSample[];
  /** windows in which a vibration would have shown, at most 400; 0 where nothing vibrates */
  readonly judged: readonly (VibrationSample & { readonly cause?: VibrationCause | undefined })[];
  /** windows that vibrate, with what each comes from */
  readonly windows: readonly OscillationWindow[];
  /** vibration of the slip with the clutch open: an oscillation found here too isn't a shudder. rpm, undefined when not driven */
  readonly openPeakToPeakRpm?: number | undefined;
  /** windows in which the engine was on its own, at rest or against an open converter: what an engine that runs rough shows in */
  readonly engineAloneWindows: number;
  /** from which vibration on it is called shudder, and what that goes by; undefined where none can be told */
  readonly shudderLimit?: Limit | undefined;
}

const WINDOW_S = 2.4;
/** Windows overlap by half. */
const HOP_S = 1.2;
const MIN_PROMINENCE = 4;
/** Slower logs show of a vibration only an image, and of a vibration what the driver's foot does too: nothing is claimed of them. */
export const VIBRATION_RATE_HZ = 18;
/** Slower vibrations, at rates at which shudder itself cannot be seen: it folds down to there. */
const FOLDED_LOW_HZ = 0.8;
const NEAR_HZ = 0.6;
/** With so few windows of the open clutch nothing is known of it. */
const FEW_OPEN = 3;
const MOST_WINDOWS = 60;
const STRAY_SHARE = 0.25;
const ROUGH_WINDOWS = 8;
const ROUGH_SHARE = 0.08;
const IDLES_RPM = 300;
const RESTS_RPM = 20;
/** Slip vibrates so much by itself, against what is usual on this drive; and never called shudder below. */
const OVER_USUAL = 4;
const LEAST_SHUDDER_RPM = 16;
/** Highest frequency that is told at a rate: 0.48 of it. */
const visibleHz = (rateHz: number) => 0.48 * rateHz;

interface Found {
  readonly start: number;
  readonly end: number;
  readonly mid: number;
  readonly signal: OscillationWindow["signal"];
  readonly working?: boolean | undefined;
  readonly peak: Peak;
  readonly engineRpm: number;
  readonly inputRpm: number;
}

/**
 * Vibrations of converter slip, engine and output speed in windows of 2.4 s outside shifts, told apart: what follows the order
 * of a rotating part, folded at the sampling rate, isn't a shudder; nor is what makes the engine vibrate more than the turbine, or
 * is there with the clutch open as well.
 * @param mask - 1 where a speed sensor is not to be believed
 * @param quiet - 1 within a gear shift, where slip moves for other reasons
 * Shudder is a vibration of the slip, in windows of 1.4 s while the clutch works, that no rotating part explains and that is not
 * there with the clutch open. Which side vibrates more tells nothing: that is a matter of inertias.
 * @param own - limit of shudder of the unit file, or the typical one
 */
export function analyseOscillation(frame: Frame, mask: Uint8Array, quiet: Uint8Array, own: Limit): OscillationAnalysis {
  const limitRpm = own.value;
  const { timeS, tccCommandPct, gear, load, fluidC, torqueNm, vehicleKmh } = frame;
  const inputRpm = bridged(frame.inputRpm);
  const outputRpm = bridged(frame.outputRpm);
  const engineRpm = frame.engineRpm && (frame.engineRpm === frame.inputRpm ? inputRpm : bridged(frame.engineRpm));
  const rateHz = frame.rateHz;
  const n = timeS.length;
  const visible = visibleHz(rateHz);
  const highestHz = visible > SHUDDER_BAND_HZ[0] + 0.5 ? Math.min(SHUDDER_BAND_HZ[1], visible) : undefined;
  // at low rates a shudder folds down: vibrations from 0.8 Hz on are looked at, their true frequency is unknown
  const lowHz = rateHz < 2 * SHUDDER_BAND_HZ[1] * 0.4 ? FOLDED_LOW_HZ : SHUDDER_BAND_HZ[0];
  const topHz = highestHz ?? visible;
  const nothing: OscillationAnalysis = {
    rateHz,
    highestHz,
    clutchWorking: [],
    slipWindows: [],
    judged: [],
    windows: [],
    openPeakToPeakRpm: undefined,
    engineAloneWindows: 0,
    shudderLimit: undefined,
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
  const alone: Alone[] = [];
  const middles: { readonly start: number; readonly mid: number }[] = [];
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
    const rests = (outputRpm[mid] as number) < RESTS_RPM && (engineRpm?.[mid] ?? 0) > IDLES_RPM;
    if (!rests && (!((gear[mid] as number) > 0) || !((outputRpm[mid] as number) > 200))) continue;
    const lasts = (timeS[end - 1] as number) - (timeS[start] as number);
    const even = Math.abs(lasts - (length - 1) * evenStep) < 0.25 * WINDOW_S;
    if (!even || badBefore[end] !== badBefore[start]) continue;
    if (rests) {
      alone.push({ start, end, mid, rests });
      continue;
    }
    judged++;
    middles.push({ start, mid });
    const on = (workingBefore[end] as number) - (workingBefore[start] as number);
    const working = !converter ? undefined : on >= length * 0.9 ? true : on <= length * 0.1 ? false : undefined;
    const peakOf = (signal: Float64Array, least: number, low = lowHz, high = topHz) =>
      vibrationOf(signal, start, end) < least
        ? undefined
        : strongestPeak(signal.subarray(start, end), rateHz, low, high, padTo);
    let strongest: { signal: OscillationWindow["signal"]; peak: Peak } | undefined;
    if (working === false || !converter) alone.push({ start, end, mid, rests });
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
            // the input of a dual clutch is its engine
            engineLeads: !converter || w.engineRpm > w.inputRpm,
          })),
          frame,
          topHz,
        );
  const openPeakToPeakRpm = finite(median(openPeaks));
  const working = found.filter((w) => w.working && w.signal === "slip");
  const open =
    openPeaks.length >= FEW_OPEN && (openPeakToPeakRpm ?? 0) > 0.5 * median(working.map((w) => w.peak.peakToPeak));
  const roughAlone =
    rateHz >= VIBRATION_RATE_HZ && engineRpm
      ? roughWindows(engineRpm, inputRpm, alone, rateHz, lowHz, topHz, padTo)
      : [];
  // an engine that runs rough shows it everywhere, also where the slip is calm
  const leads = (w: Found) => w.engineRpm > ENGINE_LEADS * w.inputRpm;
  const rough = found.filter((w) => w.signal === "engine" && leads(w)).length;
  const engineRuns =
    roughAlone.length > 0 ||
    (rough >= Math.max(ROUGH_WINDOWS, ROUGH_SHARE * judged) && rough * 2 > found.length && open);
  const at = (v: Float64Array | undefined, i: number) => finite(v?.[i]);
  const windows = found.map((w, k): OscillationWindow => {
    const order = orders[k];
    let cause: VibrationCause = "unknown";
    if (order) cause = order.part;
    else if (rateHz < VIBRATION_RATE_HZ) cause = "unknown";
    else if ((engineRuns && (leads(w) || w.signal === "engine")) || (open && leads(w))) cause = "engine";
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
  const engineAlone = roughAlone.map(
    (w): OscillationWindow => ({
      startS: timeS[w.start] as number,
      endS: timeS[w.end - 1] as number,
      signal: "engine",
      peak: w.peak,
      working: converter ? false : undefined,
      cause: "engine",
      order: w.order,
      group: groupAt(w.mid),
      torqueNm: at(torqueNm, w.mid),
      fluidC: at(fluidC, w.mid),
      vehicleKmh: at(vehicleKmh, w.mid),
    }),
  );
  const explained = explains(
    frame,
    [...windows, ...engineAlone].flatMap((w) => w.order ?? []),
  );
  const bandHz = [lowHz, topHz] as const;
  const short = converter
    ? shortWindows({ timeS, gear, outputRpm, slipRpm: slip, rateHz, bandHz, badBefore, workingBefore })
    : [];
  const usualRpm = Math.min(usualOf(short.filter((w) => w.working)), usualOf(short.filter((w) => !w.working)));
  const shudderLimit: Limit =
    own.source === "unit file" || !Number.isFinite(usualRpm)
      ? own
      : least(own, { value: Math.max(LEAST_SHUDDER_RPM, OVER_USUAL * usualRpm), source: "this drive" });
  const shudders =
    open || rateHz < VIBRATION_RATE_HZ
      ? []
      : short.filter(
          (w) =>
            w.working &&
            w.peak.peakToPeak > shudderLimit.value &&
            w.peak.prominence >= SHORT_PROMINENCE &&
            w.peak.frequencyHz >= SHUDDER_BAND_HZ[0] &&
            w.peak.frequencyHz < topHz - EDGE_HZ &&
            !explained(w.start, w.end, w.peak.frequencyHz),
        );
  const told = windows.filter((w) => w.order || w.cause === "engine").length;
  // a few windows beside many whose source is known: there it could not be followed
  const shuddering = shudders.length < STRAY_SHARE * told ? [] : consistent(shudders, gear);
  const shudderWindows = shuddering.map(
    (w): OscillationWindow => ({
      startS: timeS[w.start] as number,
      endS: timeS[w.end - 1] as number,
      signal: "slip",
      peak: w.peak,
      working: true,
      cause: "shudder",
      order: undefined,
      group: groupAt(w.mid),
      torqueNm: at(torqueNm, w.mid),
      fluidC: at(fluidC, w.mid),
      vehicleKmh: at(vehicleKmh, w.mid),
    }),
  );
  const causeAt = new Map(found.map((w, k) => [w.start, windows[k] as OscillationWindow]));
  const sampleOf = (i: number, rpm: number): VibrationSample => ({
    gear: gearName(gear[i] as number),
    peakToPeakRpm: Math.round(rpm * 10) / 10,
    load: at(load, i),
    fluidC: at(fluidC, i),
    vehicleKmh: at(vehicleKmh, i),
  });
  // the long window over a shudder says nothing more of it
  const covered = (w: OscillationWindow) =>
    w.cause === "unknown" && shudderWindows.some((s) => s.startS < w.endS && w.startS < s.endS);
  return {
    rateHz,
    highestHz,
    windows: [...windows.filter((w) => !covered(w)), ...engineAlone, ...shudderWindows].sort(
      (a, b) => a.startS - b.startS,
    ),
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
    slipWindows: thinned(
      short.filter((w) => w.working),
      (w) => w.peak.peakToPeak > shudderLimit.value,
    ).map((w) => sampleOf(w.mid, w.peak.peakToPeak)),
    judged: thinned(middles, ({ start }) => causeAt.has(start)).map(({ start, mid }) => {
      const w = causeAt.get(start);
      return { ...sampleOf(mid, w?.peak.peakToPeak ?? 0), cause: w?.cause };
    }),
    openPeakToPeakRpm,
    engineAloneWindows: alone.length,
    shudderLimit: converter && highestHz !== undefined ? shudderLimit : undefined,
  };
}

const least = (a: Limit, b: Limit): Limit => (b.value < a.value ? b : a);

const MOST_SAMPLES = 400;

/** Evenly taken, those that matter all kept. */
function thinned<T>(list: readonly T[], keep: (x: T) => boolean): T[] {
  const stride = Math.max(1, Math.ceil(list.length / MOST_SAMPLES));
  return list.filter((x, k) => k % stride === 0 || keep(x));
}

/** Is a vibration of a span what the known orders of rotating parts predict, folded at the rate? */
function explains({ rateHz, unit, engineRpm, outputRpm }: Frame, orders: readonly OrderMatch[]) {
  const known = [...new Map(orders.map((o) => [`${o.part}|${o.order}`, o])).values()];
  return (start: number, end: number, frequencyHz: number): boolean =>
    known.some(({ part, order }) => {
      const rpm = part === "engine" ? engineRpm : outputRpm;
      if (!rpm) return false;
      const turns = median(rpm.subarray(start, end)) / 60 / (part === "wheels" ? unit.finalDrive : 1);
      return Math.abs(foldedHz(order * turns, rateHz) - frequencyHz) < EXPLAINS_HZ;
    });
}

/** A shift leaves the driveline vibrating: such a vibration begins so soon after it, */
const RINGS_AFTER_S = 2;
/** keeps its frequency, */
const SAME_HZ = 0.3;
/** and is smaller by this from window to window, until it is gone. */
const DIES_BY = 0.8;

/**
 * Leaves out vibrations of engine and output that die away after a shift: a part that turns unevenly goes on as long as it turns.
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
