import { converterTorques, gearCode, gearName } from "../../unit/index.ts";
import type { Shift } from "../shift/shifts.ts";
import { type Group, groupCode, loadBand, temperatureBand } from "../signal/conditions.ts";
import { type Frame, ratioOf, syncRpm } from "../signal/frame.ts";
import {
  extent,
  extentAt,
  finite,
  lowestOnset,
  median,
  pick,
  quantileAt,
  runs,
  topHeld,
  where,
} from "../signal/stats.ts";
import { type DrivenGear, type ElementLoads, elementLoads } from "./element-loads.ts";

/** Slip of one gear in one group of conditions. Slip rpm = input − |ratio| · output. */
export interface HeldGroup extends Group {
  readonly seconds: number;
  readonly slipMedianRpm: number;
  readonly slipP95Rpm: number;
  readonly ratioErrorPct: number;
  /** seconds driven in the group, at most 60 of them, evenly taken: samples for a comparison */
  readonly eachSecond: readonly HeldSecond[];
  readonly torqueNm?: readonly [number, number] | undefined;
  readonly fluidC?: readonly [number, number] | undefined;
}

/** The highest |slip| of a second, and what was driven at that moment. */
export interface HeldSecond {
  readonly slipRpm: number;
  readonly load?: number | undefined;
  readonly fluidC?: number | undefined;
  readonly vehicleKmh?: number | undefined;
}

export interface SlipEpisode {
  readonly gear: string;
  readonly startS: number;
  readonly endS: number;
  /** highest slip after a median of three, rpm */
  readonly peakRpm: number;
  readonly torqueNm?: number | undefined;
  readonly fluidC?: number | undefined;
  readonly vehicleKmh?: number | undefined;
}

export interface GearSummary {
  readonly gear: string;
  readonly seconds: number;
  readonly slipping: readonly SlipEpisode[];
  /** seconds in which another gear was obtained, and which */
  readonly wrongSeconds: number;
  readonly obtained?: string | undefined;
  /** highest torque held without slip for at least half a second in all, N·m */
  readonly cleanTorqueNm?: number | undefined;
  readonly cleanSeconds: number;
  /** coldest at which it was held clean, °C */
  readonly coldestCleanC?: number | undefined;
  /** in all episodes of slip */
  readonly slipSeconds: number;
  /** torque that the converter gives to a gear that slips, median, N·m: near 0 nothing is carried; undefined where it is not rated */
  readonly slipCarriedNm?: number | undefined;
  /** torque at which slip begins, N·m, see `fitHinge`; undefined when slip does not grow with it */
  readonly onsetTorqueNm?: number | undefined;
  /** how slip grows above it; undefined with fewer than eight slipping samples */
  readonly rpmPerNm?: number | undefined;
  readonly lowestSlipFluidC?: number | undefined;
  readonly lowestSlipTorqueNm?: number | undefined;
  /** the same two against the line pressure, N·m/kPa: what an element is asked for over what it is given */
  readonly cleanNmPerKpa?: number | undefined;
  readonly lowestSlipNmPerKpa?: number | undefined;
}

export interface HeldAnalysis {
  readonly groups: readonly HeldGroup[];
  readonly gears: readonly GearSummary[];
  readonly elements: readonly ElementLoads[];
}

/** {@link HeldAnalysis} with the samples that it rests on, for other measures. */
export interface HeldResult extends HeldAnalysis {
  /** 1 where a gear is held and both speeds can be believed; length of the frame */
  readonly steady: Uint8Array;
}

const MOST_SECONDS = 60;
const MIN_OUTPUT_RPM = 150;
const MIN_INPUT_RPM = 400;
/** Below this synchronous speed a dual clutch has to slip: the engine must not stall. */
const DUAL_CLUTCH_CREEP_RPM = 1050;
const FREE_RPM = 15;
/** Engine and line must agree for so long before a launch counts as ended, s. */
const CLOSED_S = 0.3;
const LIMP_SETTLE_S = 4;
const DRIVES_NM = 15;
const SETTLE_S = 0.25;
const JOIN_S = 0.3;
const MIN_EPISODE_S = 0.3;

/** 1 where a gear is meant to be held and both speeds can be believed. */
function settledMask(
  frame: Frame,
  shifts: readonly Shift[],
  mask: Uint8Array,
  limpS = Number.POSITIVE_INFINITY,
): Uint8Array {
  const { timeS, gear, inputRpm, outputRpm, unit } = frame;
  const settled = new Uint8Array(timeS.length);
  const dct = unit.kind !== "planetary";
  const freewheels = new Set(
    unit.gears.filter((x) => unit.application[x.name]?.some((a) => a.driveOnly)).map((x) => gearCode(x.name)),
  );
  let last = Number.NaN;
  let readyS = -Infinity;
  let synced = false;
  let agreesSince = Number.NaN;
  let limping = false;
  let next = 0;
  for (let i = 0; i < timeS.length; i++) {
    const t = timeS[i] as number;
    const g = gear[i] as number;
    if (Number.isNaN(g)) continue;
    if (t >= limpS && !limping) {
      // another clutch takes over
      limping = true;
      synced = false;
      agreesSince = Number.NaN;
    }
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
      if (Math.abs(input - sync) >= 60) agreesSince = Number.NaN;
      else if (Number.isNaN(agreesSince)) agreesSince = t;
      if (!synced && t - agreesSince >= CLOSED_S) synced = true;
      if (!synced) continue;
    }
    // on the over-run a one-way clutch lets its gear go: that says nothing of slip
    if (freewheels.has(g) && input < syncRpm(frame, g, i) - FREE_RPM) continue;
    settled[i] = 1;
  }
  return settled;
}

function push(lists: Map<number, number[]>, key: number, value: number): void {
  const list = lists.get(key);
  if (list) list.push(value);
  else lists.set(key, [value]);
}

function medianOfThree(a: number, b: number, c: number): number {
  return Math.max(Math.min(a, b), Math.min(Math.max(a, b), c));
}

/**
 * How well each gear is held. A gear whose ratio is steadily another gear's is "wrong", not slipping.
 * @param mask - 1 where a speed sensor is not to be believed
 * @param slipLimitRpm - by the ratio of the gear
 * @param limpS - limp mode begins: how the gears take over then says nothing of how they hold
 * @param limpForGood - with another pressure: nothing that follows says anything of it
 */
export function analyseHeld(
  frame: Frame,
  shifts: readonly Shift[],
  mask: Uint8Array,
  slipLimitRpm: (ratio: number) => number,
  limpS = Number.POSITIVE_INFINITY,
  limpForGood = false,
): HeldResult {
  const {
    timeS,
    stepS,
    gear,
    inputRpm,
    outputRpm,
    engineRpm,
    inputTorqueNm: torqueNm,
    load,
    fluidC,
    vehicleKmh,
    unit,
  } = frame;
  const n = timeS.length;
  const settled = settledMask(frame, shifts, mask, limpS);
  const limpCode = gearCode(unit.limp.gear);
  for (let i = n - 1; i >= 0 && (timeS[i] as number) >= limpS; i--)
    // another gear that is commanded in limp mode is never obtained: nothing of it is meant to hold
    if (limpForGood || (timeS[i] as number) < limpS + LIMP_SETTLE_S || gear[i] !== limpCode) settled[i] = 0;
  const { linePressureKpa } = frame;
  const { converter } = unit;
  const carried =
    converter?.stallTorqueNm && engineRpm && engineRpm !== inputRpm
      ? (i: number) => converterTorques(converter, engineRpm[i] as number, inputRpm[i] as number).turbineNm
      : undefined;
  const perPressure =
    torqueNm && linePressureKpa && unit.kind === "planetary"
      ? torqueNm.map((nm, i) => nm / (linePressureKpa[i] as number))
      : undefined;
  const limits = new Map(unit.gears.map((g) => [gearCode(g.name), slipLimitRpm(g.ratio)]));
  const limitRpm = (code: number) => limits.get(code) ?? slipLimitRpm(1);
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
  for (const g of wrong.some((w) => w > 0) ? forward : []) {
    const at = forward.indexOf(g) + 1;
    for (const span of runs(
      timeS,
      where(n, (i) => wrong[i] === at),
      JOIN_S,
      1.2,
      4,
    ))
      steadyWrong.fill(at, span.start, span.end);
  }
  const smooth = Float64Array.from(slip);
  const absolute = new Float64Array(n).fill(Number.NaN);
  const slipping = new Float64Array(n).fill(Number.NaN);
  const errorPct = new Float64Array(n).fill(Number.NaN);
  const slipAt = new Map<number, number[]>();
  const byGroup = new Map<number, { group: Group; index: number[]; seconds: number }>();
  const byGear = new Map<number, number[]>();
  for (let i = 0; i < n; i++) {
    if (!settled[i] || Number.isNaN(slip[i] as number)) continue;
    const code = gear[i] as number;
    push(byGear, code, i);
    if (i > 0 && i < n - 1) {
      const m = medianOfThree(slip[i - 1] as number, slip[i] as number, slip[i + 1] as number);
      if (m - m === 0) smooth[i] = m;
    }
    absolute[i] = Math.abs(smooth[i] as number);
    errorPct[i] = ((slip[i] as number) / syncRpm(frame, code, i)) * 100;
    if (steadyWrong[i]) continue;
    // an engine that drives is not slower than the gear for want of grip
    const driven = (smooth[i] as number) < 0 && (torqueNm?.[i] ?? 0) > DRIVES_NM;
    slipping[i] = driven ? 0 : (absolute[i] as number);
    if ((slipping[i] as number) > limitRpm(code)) push(slipAt, code, i);
    const key = groupCode(code, load[i] as number, fluidC?.[i]);
    let g = byGroup.get(key);
    if (!g) {
      g = {
        group: { gear: gearName(code), load: loadBand(load[i] as number), temperature: temperatureBand(fluidC?.[i]) },
        index: [],
        seconds: 0,
      };
      byGroup.set(key, g);
    }
    g.index.push(i);
    g.seconds += stepS[i] as number;
  }
  const groups: HeldGroup[] = [...byGroup.values()]
    .filter((g) => g.index.length >= 5)
    .map(({ group, index, seconds }) => ({
      ...group,
      seconds,
      slipMedianRpm: quantileAt(slip, index, 0.5),
      slipP95Rpm: quantileAt(absolute, index, 0.95),
      ratioErrorPct: quantileAt(errorPct, index, 0.5),
      eachSecond: eachSecond(frame, slipping, index),
      torqueNm: torqueNm && extentAt(torqueNm, index),
      fluidC: fluidC && extentAt(fluidC, index),
    }));

  const driven: DrivenGear[] = [];
  const gears = [...byGear].map(([code, index]): GearSummary => {
    const name = gearName(code);
    const spans = runs(timeS, slipAt.get(code) ?? [], JOIN_S, MIN_EPISODE_S, 3);
    const inSpan = new Uint8Array(n);
    const slipping = spans.map((s): SlipEpisode => {
      inSpan.fill(1, s.start, s.end);
      let peak = s.start;
      for (let i = s.start; i < s.end; i++)
        if (Math.abs(smooth[i] as number) > Math.abs(smooth[peak] as number)) peak = i;
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
    const clean: number[] = [];
    const slipIndex: number[] = [];
    const right: number[] = [];
    let seconds = 0;
    let wrongSeconds = 0;
    let cleanSeconds = 0;
    let slipSeconds = 0;
    let obtained: string | undefined;
    for (const i of index) {
      const step = stepS[i] as number;
      seconds += step;
      if (steadyWrong[i]) {
        wrongSeconds += step;
        obtained ??= forward[(steadyWrong[i] as number) - 1]?.name;
        continue;
      }
      right.push(i);
      if (inSpan[i]) {
        slipIndex.push(i);
        slipSeconds += step;
      } else if ((absolute[i] as number) <= limitRpm(code) && (load[i] as number) > 0.05) {
        clean.push(i);
        cleanSeconds += step;
      }
    }
    driven.push({ gear: name, clean, slips: spans });
    const fit = torqueNm && slipIndex.length >= 8 ? fitHinge(pick(torqueNm, right), pick(smooth, right)) : undefined;
    const cleanTorque = torqueNm && topHeld(torqueNm, clean, frame.rateHz);
    return {
      gear: name,
      seconds,
      slipping,
      wrongSeconds,
      obtained,
      cleanTorqueNm: cleanTorque,
      cleanSeconds,
      coldestCleanC: fluidC && finite(quantileAt(fluidC, clean, 0.05)),
      slipSeconds,
      slipCarriedNm: carried && finite(median(slipIndex.map(carried))),
      onsetTorqueNm: fit && fit.rpmPerNm > 0 ? fit.onsetTorqueNm : undefined,
      rpmPerNm: fit?.rpmPerNm,
      lowestSlipFluidC: fluidC && finite(quantileAt(fluidC, slipIndex, 0.05)),
      lowestSlipTorqueNm: torqueNm && lowestOnset(timeS, torqueNm, spans),
      cleanNmPerKpa: perPressure && topHeld(perPressure, clean, frame.rateHz),
      lowestSlipNmPerKpa: perPressure && lowestOnset(timeS, perPressure, spans),
    };
  });
  gears.sort((a, b) => Number(a.gear) - Number(b.gear) || a.gear.localeCompare(b.gear));
  return { groups, gears, elements: elementLoads(frame, driven), steady: settled };
}

/** The highest slip of each second among some samples; at most {@link MOST_SECONDS}. */
function eachSecond(
  { timeS, load, fluidC, vehicleKmh }: Frame,
  slip: Float64Array,
  index: readonly number[],
): HeldSecond[] {
  const highest: number[] = [];
  let second = Number.NaN;
  for (const i of index) {
    const s = Math.floor(timeS[i] as number);
    const v = slip[i] as number;
    if (Number.isNaN(v)) continue;
    if (s !== second) highest.push(i);
    else if (v > (slip[highest.at(-1) as number] as number)) highest[highest.length - 1] = i;
    second = s;
  }
  const stride = Math.max(1, Math.ceil(highest.length / MOST_SECONDS));
  const rounded = (v: number | undefined, by: number) => {
    const known = finite(v);
    return known === undefined ? undefined : Math.round(known / by) * by;
  };
  return highest
    .filter((_, k) => k % stride === 0)
    .map((i) => ({
      slipRpm: Math.round((slip[i] as number) * 10) / 10,
      load: rounded(load[i], 0.01),
      fluidC: rounded(fluidC?.[i], 1),
      vehicleKmh: rounded(vehicleKmh?.[i], 1),
    }));
}

const HINGE_BINS = 240;

/**
 * Fits slip = k · max(0, torque − onset) to all samples in which a gear should hold: least squares, k in closed form for
 * each onset of a grid over the torques seen. Clean samples belong to the fit: slipping ones alone would be chosen by
 * what is fitted and flatten the slope.
 * @param torqueNm - length n
 * @param slipRpm - length n; pairs with a missing value are left out
 * @returns undefined when torque hardly varies or fewer than 20 pairs remain
 * Cost: O(n): sums by torque bin, then suffix sums over the bins.
 */
export function fitHinge(
  torqueNm: Float64Array,
  slipRpm: Float64Array,
): { onsetTorqueNm: number; rpmPerNm: number } | undefined {
  const range = extent(torqueNm);
  if (!range || range[1] - range[0] < 5) return undefined;
  const [low, high] = range;
  const size = (high - low) / HINGE_BINS;
  const sums = Array.from({ length: HINGE_BINS }, () => ({ n: 0, t: 0, tt: 0, s: 0, ts: 0 }));
  let known = 0;
  for (let i = 0; i < torqueNm.length; i++) {
    const t = torqueNm[i] as number;
    const s = slipRpm[i] as number;
    if (Number.isNaN(t) || Number.isNaN(s)) continue;
    known++;
    const bin = sums[Math.min(HINGE_BINS - 1, Math.floor((t - low) / size))] as (typeof sums)[number];
    bin.n++;
    bin.t += t;
    bin.tt += t * t;
    bin.s += s;
    bin.ts += t * s;
  }
  if (known < 20) return undefined;
  let best: { onsetTorqueNm: number; rpmPerNm: number; gain: number } | undefined;
  const above = { n: 0, t: 0, tt: 0, s: 0, ts: 0 };
  for (let b = HINGE_BINS - 1; b >= 0; b--) {
    const bin = sums[b] as (typeof sums)[number];
    for (const key of ["n", "t", "tt", "s", "ts"] as const) above[key] += bin[key];
    const onset = low + b * size;
    const sh = above.ts - onset * above.s;
    const hh = above.tt - 2 * onset * above.t + onset * onset * above.n;
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
  return frame.inputRpm.map((input, i) =>
    settled[i] ? input - syncRpm(frame, frame.gear[i] as number, i) : Number.NaN,
  );
}
