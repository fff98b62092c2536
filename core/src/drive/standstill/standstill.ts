import { stallSpeedRpm } from "../../unit/index.ts";
import type { Frame } from "../signal/frame.ts";
import { JOLT_RATE_HZ, meanOf, outputAcceleration, rangeWithin } from "../signal/motion.ts";
import { finite, median, runs, where } from "../signal/stats.ts";

/** From P or N into a gear at rest. */
export interface Engagement {
  readonly range: "D" | "R";
  readonly commandS: number;
  readonly endS: number;
  /** until the turbine is pulled down to half its speed, s; undefined when it never was within the search */
  readonly delayS?: number | undefined;
  /** how abruptly it takes hold: the steepest fall of the turbine over at least 0.1 s, rpm/s; undefined at low rates */
  readonly joltRpmPerS?: number | undefined;
  readonly fluidC?: number | undefined;
}

/** Full pedal against the brake in a converter unit. */
export interface StallTest {
  readonly startS: number;
  readonly endS: number;
  readonly engineRpm: number;
  /** K·√T at the torque that was given; undefined without torque or rating */
  readonly expectedRpm?: number | undefined;
  readonly fluidC?: number | undefined;
  /** held for longer than is good for the unit */
  readonly tooLong: boolean;
}

/** Foot off, from speed to rest. */
export interface CoastStop {
  readonly startS: number;
  readonly endS: number;
  readonly fromKmh: number;
  readonly downshifts: number;
  /** greatest change of the output's acceleration within half a second, rpm/s; undefined at low rates */
  readonly worstJoltRpmPerS?: number | undefined;
  readonly worstAtS?: number | undefined;
}

const STANDSTILL_RPM = 40;
const SEARCH_S = 4;
const PULLED_DOWN = 0.5;
const LEAST_TURBINE_RPM = 350;

/**
 * Engagements of a converter unit: the gear comes up at rest and the turbine is pulled down through half its speed. A dual
 * clutch pulls nothing down at rest: its engagements are not judged.
 */
export function findEngagements(frame: Frame): Engagement[] {
  const { timeS, gear, inputRpm, outputRpm, fluidC, unit } = frame;
  const out: Engagement[] = [];
  if (unit.kind !== "planetary") return out;
  let last = Number.NaN;
  for (let i = 0; i < timeS.length; i++) {
    const g = gear[i] as number;
    if (Number.isNaN(g)) continue;
    const before = last;
    last = g;
    if (before !== 0 || g === 0 || !((outputRpm[i] as number) < STANDSTILL_RPM)) continue;
    const from = inputRpm[Math.max(0, i - 1)] as number;
    if (!(from > LEAST_TURBINE_RPM)) continue;
    const commandS = timeS[i] as number;
    let delayS: number | undefined;
    let k = i;
    for (; k < timeS.length && (timeS[k] as number) - commandS <= SEARCH_S; k++) {
      if (gear[k] !== g || (outputRpm[k] as number) > 4 * STANDSTILL_RPM) break;
      const v = inputRpm[k] as number;
      if (v < PULLED_DOWN * from && k > 0) {
        const previous = inputRpm[k - 1] as number;
        const share = previous > v ? (previous - PULLED_DOWN * from) / (previous - v) : 1;
        const t0 = timeS[k - 1] as number;
        delayS = Math.max(0, t0 + Math.min(1, Math.max(0, share)) * ((timeS[k] as number) - t0) - commandS);
        break;
      }
    }
    const endS = timeS[Math.min(k, timeS.length - 1)] as number;
    // the lever was moved on, or the vehicle driven off, before anything could be told
    if (delayS === undefined && endS - commandS < SEARCH_S * 0.9) continue;
    out.push({
      range: g > 0 ? "D" : "R",
      commandS,
      endS,
      delayS,
      joltRpmPerS: delayS === undefined ? undefined : steepestFall(frame, i, commandS + delayS + JOLT_WINDOW_S),
      fluidC: finite(fluidC?.[i]),
    });
  }
  return out;
}

/** With the vehicle held by its brake the output cannot show a jolt: the turbine does. */
function steepestFall({ timeS, inputRpm, rateHz }: Frame, from: number, untilS: number): number | undefined {
  if (rateHz < JOLT_RATE_HZ) return undefined;
  const reach = Math.max(1, Math.round(0.1 * rateHz));
  let steepest = 0;
  for (let i = from; i + reach < timeS.length && (timeS[i + reach] as number) <= untilS; i++) {
    const fall = (inputRpm[i] as number) - (inputRpm[i + reach] as number);
    steepest = Math.max(steepest, fall / ((timeS[i + reach] as number) - (timeS[i] as number)) || 0);
  }
  return steepest;
}

const STALL_PEDAL_PCT = 85;
const STALL_LEAST_S = 0.8;
const STALL_MOST_S = 5;
const STALL_LAST_S = 0.6;

/** Stall tests: brake on, pedal down, output at rest, in gear, for at least 0.8 s. The speed is that of the last 0.6 s. */
export function findStallTests(frame: Frame): StallTest[] {
  const { timeS, gear, outputRpm, engineRpm, torqueNm, pedalPct, brakeOn, fluidC, unit } = frame;
  const { converter } = unit;
  if (!converter || !engineRpm || !pedalPct || !brakeOn) return [];
  const hits = where(
    timeS.length,
    (i) =>
      (pedalPct[i] as number) >= STALL_PEDAL_PCT &&
      brakeOn[i] === 1 &&
      (outputRpm[i] as number) < STANDSTILL_RPM &&
      gear[i] !== 0,
  );
  return runs(timeS, hits, 0.3, STALL_LEAST_S, 4).map((s): StallTest => {
    const endS = timeS[s.end - 1] as number;
    let from = s.end - 1;
    while (from > s.start && endS - (timeS[from - 1] as number) <= STALL_LAST_S) from--;
    const nm = meanOf(torqueNm, from, s.end);
    const startS = timeS[s.start] as number;
    return {
      startS,
      endS,
      engineRpm: median(engineRpm.subarray(from, s.end)),
      expectedRpm: nm !== undefined && converter.stallTorqueNm ? stallSpeedRpm(converter, nm) : undefined,
      fluidC: finite(fluidC?.[s.start]),
      tooLong: endS - startS > STALL_MOST_S,
    };
  });
}

const COAST_FROM_KMH = 25;
const REST_KMH = 1.5;
const JOLT_WINDOW_S = 0.5;

/** Stops with the pedal up: what the downshifts on the way down jolt. */
export function findCoastStops(frame: Frame): CoastStop[] {
  const { timeS, vehicleKmh, pedalPct, gear, rateHz, derived } = frame;
  if (!vehicleKmh || !pedalPct) return [];
  const acceleration = rateHz >= JOLT_RATE_HZ && derived.length === 0 ? outputAcceleration(frame) : undefined;
  const out: CoastStop[] = [];
  let start = -1;
  for (let i = 0; i < timeS.length; i++) {
    if (!((pedalPct[i] as number) < 1.5)) {
      start = -1;
      continue;
    }
    const v = vehicleKmh[i] as number;
    if (start < 0 && v > COAST_FROM_KMH) start = i;
    if (start < 0 || !(v < REST_KMH)) continue;
    let downshifts = 0;
    for (let k = start + 1; k <= i; k++) if ((gear[k] as number) < (gear[k - 1] as number)) downshifts++;
    let worst: { jolt: number; atS: number } | undefined;
    // the last metres belong to the brake
    for (let k = start; acceleration && k < i && (vehicleKmh[k] as number) > 4; k++) {
      const range = rangeWithin(timeS, acceleration, k, (timeS[k] as number) + JOLT_WINDOW_S);
      const jolt = range && range.highest - range.lowest;
      if (jolt !== undefined && (!worst || jolt > worst.jolt)) worst = { jolt, atS: timeS[k] as number };
    }
    out.push({
      startS: timeS[start] as number,
      endS: timeS[i] as number,
      fromKmh: vehicleKmh[start] as number,
      downshifts,
      worstJoltRpmPerS: worst?.jolt,
      worstAtS: worst?.atS,
    });
    start = -1;
  }
  return out;
}
