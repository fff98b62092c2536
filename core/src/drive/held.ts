import { gearName } from "../unit/index.ts";
import { type Group, groupKey, loadBand, temperatureBand } from "./conditions.ts";
import { type Frame, ratioOf, syncRpm } from "./frame.ts";
import type { Limit } from "./limits.ts";
import type { Shift } from "./shifts.ts";
import { extent, finite, median, quantile, runs } from "./stats.ts";

/** Slip of one gear in one group of conditions. Slip rpm = input − |ratio| · output. */
export interface HeldGroup extends Group {
  readonly seconds: number;
  readonly slipMedianRpm: number;
  readonly slipP95Rpm: number;
  readonly ratioErrorPct: number;
  readonly torqueNm: readonly [number, number] | undefined;
  readonly fluidC: readonly [number, number] | undefined;
}

export interface SlipEpisode {
  readonly gear: string;
  readonly startS: number;
  readonly endS: number;
  /** highest slip after a median of three, rpm */
  readonly peakRpm: number;
  readonly torqueNm: number | undefined;
  readonly fluidC: number | undefined;
  readonly vehicleKmh: number | undefined;
}

export interface GearSummary {
  readonly gear: string;
  readonly seconds: number;
  readonly slipping: readonly SlipEpisode[];
  /** seconds in which another gear was obtained, and which */
  readonly wrongSeconds: number;
  readonly obtained: string | undefined;
  /** highest torque held without slip for at least half a second in all, N·m */
  readonly cleanTorqueNm: number | undefined;
  readonly cleanSeconds: number;
  /** torque at which slip begins, N·m, see `fitHinge`; undefined when slip does not grow with it */
  readonly onsetTorqueNm: number | undefined;
  /** how slip grows above it; undefined with fewer than eight slipping samples */
  readonly rpmPerNm: number | undefined;
  readonly lowestSlipFluidC: number | undefined;
  readonly lowestSlipTorqueNm: number | undefined;
}

export interface HeldAnalysis {
  readonly groups: readonly HeldGroup[];
  readonly gears: readonly GearSummary[];
}

const MIN_OUTPUT_RPM = 150;
const MIN_INPUT_RPM = 400;
/** Below this synchronous speed a dual clutch has to slip: the engine must not stall. */
const DUAL_CLUTCH_CREEP_RPM = 1050;
const SETTLE_S = 0.25;
const JOIN_S = 0.3;
const MIN_EPISODE_S = 0.3;

/** 1 where a gear is meant to be held and both speeds can be believed. */
function settledMask(frame: Frame, shifts: readonly Shift[], mask: Uint8Array): Uint8Array {
  const { timeS, gear, inputRpm, outputRpm, unit } = frame;
  const settled = new Uint8Array(timeS.length);
  const dct = unit.kind !== "planetary";
  let last = Number.NaN;
  let readyS = -Infinity;
  let synced = false;
  let next = 0;
  for (let i = 0; i < timeS.length; i++) {
    const t = timeS[i] as number;
    const g = gear[i] as number;
    if (Number.isNaN(g)) continue;
    if (g !== last) {
      if (!Number.isNaN(last)) {
        while (next < shifts.length && (shifts[next] as Shift).commandS < t) next++;
        const shift = shifts[next]?.commandS === t ? shifts[next] : undefined;
        readyS = shift?.measured ? shift.endS + SETTLE_S : t + 1.2;
        synced = Boolean(shift?.measured);
      }
      last = g;
    }
    if (g === 0 || t < readyS || mask[i]) continue;
    const out = outputRpm[i] as number;
    const input = inputRpm[i] as number;
    if (!(out > MIN_OUTPUT_RPM && input > MIN_INPUT_RPM)) {
      if (out <= MIN_OUTPUT_RPM) synced = false;
      continue;
    }
    if (dct) {
      const sync = syncRpm(frame, g, i);
      if (sync < DUAL_CLUTCH_CREEP_RPM) {
        synced = false;
        continue;
      }
      // a launch ends when the clutch has once closed
      if (!synced && Math.abs(input - sync) < 60) synced = true;
      if (!synced) continue;
    }
    settled[i] = 1;
  }
  return settled;
}

function medianOfThree(a: number, b: number, c: number): number {
  return Math.max(Math.min(a, b), Math.min(Math.max(a, b), c));
}

/**
 * How well each gear is held. A gear whose ratio is steadily another gear's is "wrong", not slipping.
 * @param mask - 1 where a speed sensor is not to be believed
 */
export function analyseHeld(frame: Frame, shifts: readonly Shift[], mask: Uint8Array, slipLimit: Limit): HeldAnalysis {
  const { timeS, gear, inputRpm, outputRpm, torqueNm, load, fluidC, vehicleKmh, unit } = frame;
  const n = timeS.length;
  const settled = settledMask(frame, shifts, mask);
  const slip = new Float64Array(n).fill(Number.NaN);
  const wrong = new Uint8Array(n);
  const forward = unit.gears.filter((g) => g.ratio > 0);
  for (let i = 0; i < n; i++) {
    if (!settled[i]) continue;
    const code = gear[i] as number;
    const ratio = Math.abs(ratioOf(frame, code));
    slip[i] = (inputRpm[i] as number) - ratio * (outputRpm[i] as number);
    const real = (inputRpm[i] as number) / (outputRpm[i] as number);
    if (code > 0 && Math.abs(real / ratio - 1) > 0.06) {
      const hit = forward.findIndex((g) => Math.abs(real / g.ratio - 1) < 0.02);
      if (hit >= 0) wrong[i] = hit + 1;
    }
  }
  // a wrong gear is steady: shorter passages are slip on its way
  const steadyWrong = new Uint8Array(n);
  for (const g of forward) {
    const at = forward.indexOf(g) + 1;
    for (const span of runs(timeS, 0, n, (i) => wrong[i] === at, JOIN_S, 1.2, 4)) steadyWrong.fill(at, span.start, span.end);
  }
  const smooth = slip.map((v, i) => {
    const a = slip[i - 1] ?? Number.NaN;
    const c = slip[i + 1] ?? Number.NaN;
    return Number.isNaN(a) || Number.isNaN(c) ? v : medianOfThree(a, v, c);
  });

  const stepOf = (i: number) => Math.min(((timeS[i + 1] ?? timeS[i]) as number) - (timeS[i] as number), 1);
  const byGroup = new Map<string, { group: Group; index: number[]; seconds: number }>();
  const byGear = new Map<string, number[]>();
  for (let i = 0; i < n; i++) {
    if (!settled[i] || Number.isNaN(slip[i] as number)) continue;
    const name = gearName(gear[i] as number);
    const list = byGear.get(name);
    if (list) list.push(i);
    else byGear.set(name, [i]);
    if (steadyWrong[i]) continue;
    const group: Group = { gear: name, load: loadBand(load[i] as number), temperature: temperatureBand(fluidC?.[i]) };
    const key = groupKey(group);
    let g = byGroup.get(key);
    if (!g) byGroup.set(key, (g = { group, index: [], seconds: 0 }));
    g.index.push(i);
    g.seconds += stepOf(i);
  }
  const groups: HeldGroup[] = [...byGroup.values()]
    .filter((g) => g.index.length >= 5)
    .map(({ group, index, seconds }) => ({
      ...group,
      seconds,
      slipMedianRpm: median(index.map((i) => slip[i] as number)),
      slipP95Rpm: quantile(index.map((i) => Math.abs(smooth[i] as number)), 0.95),
      ratioErrorPct: median(index.map((i) => ((slip[i] as number) / syncRpm(frame, gear[i] as number, i)) * 100)),
      torqueNm: torqueNm && extent(index.map((i) => torqueNm[i] as number)),
      fluidC: fluidC && extent(index.map((i) => fluidC[i] as number)),
    }));

  const gears = [...byGear].map(([name, index]): GearSummary => {
    const code = gear[index[0] as number] as number;
    const over = (i: number) => settled[i] === 1 && gear[i] === code && !steadyWrong[i] && Math.abs(smooth[i] as number) > slipLimit.value;
    const spans = runs(timeS, index[0] as number, (index.at(-1) as number) + 1, over, JOIN_S, MIN_EPISODE_S, 3);
    const inSpan = new Uint8Array(n);
    const slipping = spans.map((s): SlipEpisode => {
      inSpan.fill(1, s.start, s.end);
      let peak = s.start;
      for (let i = s.start; i < s.end; i++) if (Math.abs(smooth[i] as number) > Math.abs(smooth[peak] as number)) peak = i;
      return {
        gear: name,
        startS: timeS[s.start] as number,
        endS: timeS[s.end - 1] as number,
        peakRpm: smooth[peak] as number,
        torqueNm: finite(torqueNm?.[peak]),
        fluidC: finite(fluidC?.[peak]),
        vehicleKmh: finite(vehicleKmh?.[peak]),
      };
    });
    const clean = index.filter((i) => !inSpan[i] && !steadyWrong[i] && Math.abs(smooth[i] as number) <= slipLimit.value && (load[i] as number) > 0.05);
    const wrongIndex = index.filter((i) => steadyWrong[i]);
    const slipIndex = index.filter((i) => inSpan[i]);
    const fit = torqueNm && slipIndex.length >= 8 ? fitHinge(index.filter((i) => !steadyWrong[i]).map((i) => [torqueNm[i] as number, smooth[i] as number] as const)) : undefined;
    const seconds = index.reduce((sum, i) => sum + stepOf(i), 0);
    const cleanTorque = torqueNm && clean.length > 0 ? topHeld(clean.map((i) => torqueNm[i] as number), frame.rateHz) : undefined;
    return {
      gear: name,
      seconds,
      slipping,
      wrongSeconds: wrongIndex.reduce((sum, i) => sum + stepOf(i), 0),
      obtained: wrongIndex.length > 0 ? forward[(steadyWrong[wrongIndex[0] as number] as number) - 1]?.name : undefined,
      cleanTorqueNm: cleanTorque,
      cleanSeconds: clean.reduce((sum, i) => sum + stepOf(i), 0),
      onsetTorqueNm: fit && fit.rpmPerNm > 0 ? fit.onsetTorqueNm : undefined,
      rpmPerNm: fit?.rpmPerNm,
      lowestSlipFluidC: fluidC && finite(quantile(slipIndex.map((i) => fluidC[i] as number), 0.05)),
      lowestSlipTorqueNm: torqueNm && finite(quantile(slipIndex.map((i) => torqueNm[i] as number), 0.05)),
    };
  });
  gears.sort((a, b) => Number(a.gear) - Number(b.gear) || a.gear.localeCompare(b.gear));
  return { groups, gears };
}

/** The highest torque that was held for half a second in all. */
function topHeld(torques: number[], rateHz: number): number | undefined {
  const sorted = Float64Array.from(torques).filter((t) => !Number.isNaN(t)).sort();
  const back = Math.max(1, Math.round(0.5 * rateHz));
  return sorted.length >= back ? sorted[sorted.length - back] : undefined;
}

const HINGE_STEPS = 60;

/**
 * Fits slip = k · max(0, torque − onset) to all samples in which a gear should hold: least squares, k in closed form for
 * each onset of a grid over the torques seen. Clean samples belong to the fit: slipping ones alone would be chosen by
 * what is fitted and flatten the slope.
 * @param points - torque N·m and slip rpm; pairs with a missing value are left out
 * @returns undefined when torque hardly varies or fewer than 20 pairs remain
 */
export function fitHinge(points: readonly (readonly [number, number])[]): { onsetTorqueNm: number; rpmPerNm: number } | undefined {
  const known = points.filter(([t, s]) => Number.isFinite(t) && Number.isFinite(s));
  const range = extent(known.map(([t]) => t));
  if (known.length < 20 || !range || range[1] - range[0] < 5) return undefined;
  const [low, high] = range;
  let best: { onsetTorqueNm: number; rpmPerNm: number; gain: number } | undefined;
  for (let step = 0; step < HINGE_STEPS; step++) {
    const onset = low + ((high - low) * step) / HINGE_STEPS;
    let sh = 0;
    let hh = 0;
    for (const [t, s] of known) {
      if (t <= onset) continue;
      sh += s * (t - onset);
      hh += (t - onset) ** 2;
    }
    // the sum of squares falls by sh² / hh: the best onset is where it falls most
    const gain = hh > 0 ? (sh * sh) / hh : 0;
    if (!best || gain > best.gain) best = { onsetTorqueNm: onset, rpmPerNm: hh > 0 ? sh / hh : 0, gain };
  }
  return best && { onsetTorqueNm: best.onsetTorqueNm, rpmPerNm: best.rpmPerNm };
}

/**
 * Slip of the commanded gear over time, NaN where a gear is not meant to be held or a speed cannot be believed. Made
 * from what the analysis itself judges.
 */
export function heldSlipRpm(frame: Frame, shifts: readonly Shift[], mask: Uint8Array): Float64Array {
  const settled = settledMask(frame, shifts, mask);
  return frame.inputRpm.map((input, i) => (settled[i] ? input - syncRpm(frame, frame.gear[i] as number, i) : Number.NaN));
}
