import { gearByName, gearCode, type Unit } from "../../unit/index.ts";
import type { Dropout } from "../sensors/dropouts.ts";
import type { Frame } from "../signal/frame.ts";
import { finite } from "../signal/stats.ts";

export interface Limp {
  readonly startS: number;
  readonly endS: number;
  readonly gear: string;
  /** the pressure is at its maximum: how the gears hold says nothing of normal driving any more */
  readonly byPressure: boolean;
  /** false: nothing but the gear shows the moment, and the drive may have come into that gear on its own before */
  readonly certain: boolean;
  /** the engine ran away from the closed clutch: that slip is the reason of limp mode and comes before it */
  readonly byRunaway: boolean;
  /** what shows it, in words */
  readonly signs: readonly string[];
  /** the drop-out that ended at most 3 s before, if any */
  readonly preceded?: Dropout | undefined;
  readonly vehicleKmh?: number | undefined;
  readonly fluidC?: number | undefined;
}

const MIN_S = 8;
const PRECEDED_S = 3;
/** output speed from which the ratio can be told */
const SLOWEST_RPM = 150;
const SLOWEST_INPUT_RPM = 300;
const RATIO_TOLERANCE = 0.03;
/** share of the maximum from which the pressure counts as maximal */
const MAXIMAL = 0.95;
const LOOK_BACK_S = 3;
const PASSES_S = 0.6;
/** A pressure that falls below the maximum for longer than this was not held there by limp mode. */
const RELIEF_S = 0.5;
/** Which gear the drive is in at a sample: nobody can tell (0), the limp gear, another. */
const LIMP = 1;
const OTHER = 2;

/**
 * Limp: from some moment on the drive stays in the unit's default gear whatever the speed, with the pressure at maximum,
 * the solenoids at rest, or the command elsewhere. Needs 8 s of driving in it and another forward gear before it. Where a
 * speed sensor is out, road speed stands in for the output; else the command is believed and the pressure must agree.
 */
export function findLimp(frame: Frame, dropouts: readonly Dropout[], mask: Uint8Array): Limp | undefined {
  const { timeS, stepS, gear, linePressureKpa, vehicleKmh, fluidC, unit } = frame;
  const limpRatio = gearByName(unit, unit.limp.gear)?.ratio;
  if (limpRatio === undefined) return undefined;
  const limpCode = gearCode(unit.limp.gear);
  const n = timeS.length;
  const maximal = (i: number) =>
    unit.limp.linePressureKpa !== undefined && (linePressureKpa?.[i] ?? 0) >= unit.limp.linePressureKpa * MAXIMAL;
  const seen = seeGears(frame, dropouts, mask, limpRatio, limpCode, maximal);

  let lastOther = -1;
  let otherRun = 0;
  let otherS = 0;
  // a slipping dual clutch, and a speed that lags or sticks for a moment, passes through the ratios of other gears
  for (let i = 0; i < n; i++) {
    if (seen[i] === OTHER) {
      otherS += stepS[i] as number;
      if (++otherRun >= 3 && otherS >= PASSES_S) lastOther = i;
    } else if (seen[i] === LIMP || unit.kind !== "planetary") {
      otherRun = 0;
      otherS = 0;
    }
  }
  if (lastOther < 0) return undefined;
  let first = -1;
  let moving = 0;
  let elsewhere = 0;
  let slowest = Infinity;
  let fastest = 0;
  for (let i = lastOther + 1; i < n; i++) {
    // creeping tells no ratio: it counts neither way
    if (seen[i] !== LIMP) continue;
    if (first < 0) first = i;
    const step = stepS[i] as number;
    moving += step;
    slowest = Math.min(slowest, speedOf(frame, i));
    fastest = Math.max(fastest, speedOf(frame, i));
    if ((gear[i] as number) > 0 && gear[i] !== limpCode) elsewhere += step;
  }
  if (first < 0 || moving < MIN_S) return undefined;
  let usual = Infinity;
  for (let i = 0; i < first; i++)
    if (gear[i] === limpCode && seen[i] === LIMP) usual = Math.min(usual, speedOf(frame, i));
  const signs: string[] = [];
  const risenAt = linePressureKpa && unit.limp.linePressureKpa ? risenForGood(frame, maximal) : undefined;
  let pressedS = 0;
  for (let i = Math.max(risenAt ?? n, first); i < n; i++) if (seen[i] === LIMP) pressedS += stepS[i] as number;
  const byPressure = risenAt !== undefined && pressedS >= MIN_S;
  // some controllers raise the pressure only while they are asked for torque: what was not obtained before it tells sooner
  const sooner = byPressure && disobeys(frame, seen, first, risenAt, limpCode);
  if (byPressure) signs.push("line pressure at its maximum");
  if (elsewhere > moving * ELSEWHERE_SHARE) signs.push("another gear was commanded and not obtained");
  if (slowest < (Number.isFinite(usual) ? usual * SLOWER_SHARE : LUGGING_INPUT_RPM / limpRatio))
    signs.push(`gear ${unit.limp.gear} held from near standstill`);
  if (
    goneAfter(dropouts, timeS[first] as number) >= Math.max(GONE_S, moving * GONE_SHARE) &&
    fastest > slowest * VARIED
  )
    signs.push(`a speed signal is gone and gear ${unit.limp.gear} stays whatever the speed`);
  if (signs.length === 0) return undefined;

  // the moment is where the pressure went up for good; without pressure, the command before the first sample in the gear
  let start = first;
  if (byPressure && !sooner) start = risenAt;
  else {
    while (
      start > 0 &&
      (timeS[first] as number) - (timeS[start - 1] as number) < LOOK_BACK_S &&
      (gear[start - 1] === limpCode || maximal(start - 1))
    )
      start--;
  }
  // in that gear already: what was lost within it, or the clutch that opened, tells the moment
  const cue = byPressure || elsewhere > 0 ? undefined : lostWithin(frame, dropouts, start);
  if (cue) start = cue.at;
  const startS = timeS[start] as number;
  const preceded = dropouts.findLast((d) => d.startS <= startS + 0.5 && startS - d.endS <= PRECEDED_S);
  return {
    startS,
    endS: timeS[n - 1] as number,
    gear: unit.limp.gear,
    byPressure,
    certain: byPressure || cue !== undefined || elsewhere > 0 || slippedBefore(frame, start),
    byRunaway: cue?.byRunaway ?? false,
    signs,
    preceded,
    vehicleKmh: finite(vehicleKmh?.[start]),
    fluidC: finite(fluidC?.[start]),
  };
}

const ELSEWHERE_SHARE = 0.3;
/** Slower than the gear was driven before, by this share, it is driven where a sound drive has changed down long since. */
const SLOWER_SHARE = 0.5;
/** Where the gear was not driven before: no sound drive holds its upper gears at such a speed of the input shaft. */
const LUGGING_INPUT_RPM = 600;

/** Was another gear commanded and not obtained, from one sample to another, for as long as limp mode takes to be told? */
function disobeys({ gear, stepS }: Frame, seen: Uint8Array, from: number, to: number, limpCode: number): boolean {
  let moving = 0;
  let elsewhere = 0;
  for (let i = from; i < to; i++) {
    if (seen[i] !== LIMP) continue;
    moving += stepS[i] as number;
    if ((gear[i] as number) > 0 && gear[i] !== limpCode) elsewhere += stepS[i] as number;
  }
  return moving >= MIN_S && elsewhere > moving * ELSEWHERE_SHARE;
}

/** A signal that does not come back, and driving at speeds that would have changed the gear. */
const GONE_S = 15;
const GONE_SHARE = 0.6;
const VARIED = 1.5;
const LIGHT_PEDAL_PCT = 40;
const LOST_BEFORE_S = [2, 0.5] as const;
const CUE_LOST_S = 1;
const CUE_WITHIN_S = 30;
const CLOSED_RPM = 60;
const RUNAWAY_RPM = 400;
const RUNAWAY_S = 1;

/**
 * In the limp gear: where a speed signal is lost for a second or more, or the engine runs away from a closed dual clutch
 * for good, within half a minute.
 * @returns the sample; undefined when neither is seen
 */
function lostWithin(
  frame: Frame,
  dropouts: readonly Dropout[],
  from: number,
): { readonly at: number; readonly byRunaway: boolean } | undefined {
  const { timeS, stepS, engineRpm, unit } = frame;
  const startS = timeS[from] as number;
  const until = startS + CUE_WITHIN_S;
  // nobody asks for a jump over a gear with a light foot
  const before = frame.gear[from - 1] ?? Number.NaN;
  const jump = before > 0 ? Math.abs(before - gearCode(unit.limp.gear)) : 0;
  if (jump >= 2 && (frame.pedalPct?.[from] ?? 100) < LIGHT_PEDAL_PCT) return { at: from, byRunaway: false };
  // what was lost just before brought the change of gear
  if (dropouts.some((d) => d.startS <= startS + LOST_BEFORE_S[1] && startS - d.startS < LOST_BEFORE_S[0]))
    return { at: from, byRunaway: false };
  const lost = dropouts.find((d) => d.startS > startS && d.startS < until && d.endS - d.startS >= CUE_LOST_S);
  if (lost) return { at: timeS.findIndex((t) => t >= lost.startS), byRunaway: false };
  const ratio = gearByName(unit, unit.limp.gear)?.ratio;
  if (unit.kind === "planetary" || !engineRpm || ratio === undefined) return undefined;
  let closed = false;
  let since = -1;
  let away = 0;
  for (let i = from; i < timeS.length; i++) {
    const sync = speedOf(frame, i) * ratio;
    const slip = (engineRpm[i] as number) - sync;
    if (sync > SLOWEST_INPUT_RPM * 3 && Math.abs(slip) < CLOSED_RPM) {
      // it closed again: a launch
      closed = true;
      since = -1;
      away = 0;
    } else if (slip > RUNAWAY_RPM && closed) {
      if (since < 0) since = i;
      away += stepS[i] as number;
    }
  }
  return away >= RUNAWAY_S && (timeS[since] as number) < until ? { at: since, byRunaway: true } : undefined;
}

/** Seconds that the signal which is lost the longest is lost after a moment. */
function goneAfter(dropouts: readonly Dropout[], fromS: number): number {
  const lost = new Map<string, number>();
  for (const d of dropouts)
    if (d.endS > fromS) lost.set(d.sensor, (lost.get(d.sensor) ?? 0) + d.endS - Math.max(fromS, d.startS));
  return Math.max(0, ...lost.values());
}

const SLIPPED_WITHIN_S = 3;
const SLIPPED_S = 0.8;
const SLIPPED_RPM = 100;

/** Did the gear before it slip up to the change? Then the change itself was limp mode. */
function slippedBefore(frame: Frame, from: number): boolean {
  const { timeS, stepS, gear, inputRpm, unit } = frame;
  let slipped = 0;
  for (let i = from - 1; i >= 0 && (timeS[from] as number) - (timeS[i] as number) < SLIPPED_WITHIN_S; i--) {
    const ratio = gearByName(unit, String(gear[i]))?.ratio;
    const sync = speedOf(frame, i) * (ratio ?? Number.NaN);
    if (gear[i] !== gear[from - 1]) break;
    if (sync > SLOWEST_INPUT_RPM && (inputRpm[i] as number) - sync > SLIPPED_RPM) slipped += stepS[i] as number;
  }
  return slipped >= SLIPPED_S;
}

/** The sample from which the pressure stays at its maximum to the end. @returns undefined when it is not there at the end */
function risenForGood({ stepS }: Frame, maximal: (i: number) => boolean): number | undefined {
  let relief = 0;
  let risen: number | undefined;
  for (let k = stepS.length - 1; k >= 0; k--) {
    if (maximal(k)) {
      relief = 0;
      risen = k;
    } else relief += stepS[k] as number;
    if (relief > RELIEF_S) break;
  }
  return risen;
}

const rpmPerKmh = (unit: Unit) => (unit.finalDrive * 1000) / 60 / (2 * Math.PI * unit.tyreRadiusM);

/** Speed of the output by the road speed, rpm; 0 when that was not recorded. */
const roadRpm = ({ vehicleKmh, unit }: Frame, i: number): number => Math.max(0, vehicleKmh?.[i] ?? 0) * rpmPerKmh(unit);

/** Speed of the output, from the road where its sensor is out. */
function speedOf(frame: Frame, i: number): number {
  const out = frame.outputRpm[i] as number;
  return out > SLOWEST_RPM ? out : roadRpm(frame, i);
}

const DISOBEYED_S = 4;

/** From when on another gear was commanded for seconds while the limp gear held. @returns a test of samples */
function commandDisobeyed(frame: Frame, limpRatio: number, limpCode: number): (i: number) => boolean {
  const { gear, inputRpm, outputRpm, stepS, unit } = frame;
  if (unit.kind === "planetary") return () => false;
  let disobeyed = 0;
  let from = Number.POSITIVE_INFINITY;
  for (let i = 0; i < gear.length && from === Number.POSITIVE_INFINITY; i++) {
    const g = gear[i] as number;
    const out = outputRpm[i] as number;
    const inLimp = out > SLOWEST_RPM && Math.abs((inputRpm[i] as number) / out / limpRatio - 1) < RATIO_TOLERANCE / 2;
    disobeyed = inLimp && g > 0 && g !== limpCode ? disobeyed + (stepS[i] as number) : 0;
    if (disobeyed > DISOBEYED_S) from = i;
  }
  return (i) => i >= from;
}

/** The ratio of the forward gear that fits. @returns undefined when none does: the clutch slips or is open */
const closestRatio = (unit: Unit, ratio: number): number | undefined =>
  unit.gears.find((x) => x.ratio > 0 && Math.abs(ratio / x.ratio - 1) < RATIO_TOLERANCE / 2)?.ratio;

function seeGears(
  frame: Frame,
  dropouts: readonly Dropout[],
  mask: Uint8Array,
  limpRatio: number,
  limpCode: number,
  maximal: (i: number) => boolean,
): Uint8Array {
  const { timeS, inputRpm, outputRpm, gear, unit } = frame;
  const seen = new Uint8Array(timeS.length);
  const planetary = unit.kind === "planetary";
  const inputId = planetary ? "turbine_rpm" : "engine_rpm";
  const out = (channel: string) => dropouts.filter((d) => d.channel === channel);
  const inputOut = out(inputId);
  const outputOut = out("output_rpm");
  /** Was the limp gear obtained for another command in the seconds around a sample? */
  const everElsewhere = commandDisobeyed(frame, limpRatio, limpCode);
  const within = (list: readonly Dropout[], t: number) => list.some((d) => t >= d.startS - 0.1 && t <= d.endS + 0.1);
  for (let i = 0; i < seen.length; i++) {
    const g = gear[i] as number;
    if (g === limpCode && maximal(i) && speedOf(frame, i) > SLOWEST_RPM) {
      // the limp gear itself may slip
      seen[i] = LIMP;
      continue;
    }
    let output = outputRpm[i] as number;
    let input = inputRpm[i] as number;
    if (mask[i]) {
      const t = timeS[i] as number;
      // one that stands still at a speed tells nothing either
      output = within(outputOut, t) ? roadRpm(frame, i) : speedOf(frame, i);
      if (within(inputOut, t)) input = Number.NaN;
      // the edges of a drop-out are not to be believed
      else if (!(output > SLOWEST_RPM)) continue;
    }
    if (!(output > SLOWEST_RPM)) continue;
    if (!planetary || Number.isNaN(input) || input <= SLOWEST_INPUT_RPM) {
      // a closed dual clutch shows its gear by its ratio, whatever is commanded
      const ratio = planetary ? undefined : closestRatio(unit, input / output);
      if (ratio === limpRatio || (ratio !== undefined && ratio === gearByName(unit, String(g))?.ratio)) {
        seen[i] = ratio === limpRatio ? LIMP : OTHER;
        continue;
      }
      // it launches in its limp gear with another one commanded: while it slips nobody can tell
      if (!planetary && !mask[i] && g !== limpCode && everElsewhere(i)) continue;
      if (Number.isNaN(g) || g === 0) continue;
      if (planetary && !Number.isNaN(input)) continue;
      seen[i] = g === limpCode ? LIMP : OTHER;
    } else seen[i] = Math.abs(input / output / limpRatio - 1) < RATIO_TOLERANCE ? LIMP : OTHER;
  }
  return seen;
}
