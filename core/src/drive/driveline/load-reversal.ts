import { gearName } from "../../unit/index.ts";
import { withoutParabola } from "../dual-clutch/launches.ts";
import { type Frame, ratioOf, syncRpm } from "../signal/frame.ts";
import { finite, median } from "../signal/stats.ts";

/** The foot goes on or off in gear: play in the driveline closes with a knock, a soft mount rocks. */
export interface LoadReversal {
  readonly gear: string;
  readonly startS: number;
  /** peak to peak of the output about its curve, at the wheels, rpm */
  readonly vibrationRpm: number;
  readonly torqueStepNm?: number | undefined;
}

/** Sound drivelines vibrate by 1 to 3 rpm. */
export const VIBRATES_RPM = 4;
/** Play, more than softness. */
export const KNOCKS_RPM = 12;
/** A single one may be a brisk foot. */
const LEAST_REVERSALS = 3;

/** Median vibration; NaN with fewer than three. */
export const usualVibrationRpm = (reversals: readonly LoadReversal[]): number =>
  reversals.length < LEAST_REVERSALS ? Number.NaN : median(reversals.map((r) => r.vibrationRpm));

const OFF_PCT = 2;
const ON_PCT = 6;
const STAYED_S = 0.3;
const LASTS_S = 0.9;
const LEAST_RPM = 150;
const RATE_HZ = 18;
const CLOSED_RPM = 1300;
/** In lower gears, and backwards, the torque at the wheels winds up sound shafts so far that play makes no difference. */
const MOST_RATIO = 2;

const TAKES_SHARE = 0.03;

/** A dual clutch lays the next gear ready on its idle shaft: the synchroniser pulls at the driveline. */
function shaftsTake({ shaftsRpm, outputRpm }: Frame, from: number, to: number): boolean {
  return shaftsRpm.some((shaft) => {
    if (!shaft) return false;
    const before = (shaft[from] as number) / (outputRpm[from] as number);
    const after = (shaft[to] as number) / (outputRpm[to] as number);
    return Math.abs(after - before) > TAKES_SHARE * Math.max(before, after);
  });
}

/** Load reversals in a gear that is held throughout. @returns empty at low rates or without pedal */
export function findLoadReversals(frame: Frame, quiet: Uint8Array, mask: Uint8Array): LoadReversal[] {
  const { timeS, gear, pedalPct, outputRpm, torqueNm, unit, rateHz, derived } = frame;
  if (!pedalPct || rateHz < RATE_HZ || derived.includes("output_rpm")) return [];
  const out: LoadReversal[] = [];
  const n = timeS.length;
  const after = Math.round(LASTS_S * rateHz);
  let off: boolean | undefined;
  let sinceS = Number.NaN;
  for (let i = 1; i + after < n; i++) {
    const pedal = pedalPct[i] as number;
    const now = pedal < OFF_PCT ? true : pedal > ON_PCT ? false : undefined;
    if (now === undefined || now === off) continue;
    const stayedS = (timeS[i] as number) - sinceS;
    const reversed = off !== undefined;
    off = now;
    sinceS = timeS[i] as number;
    if (!reversed || !(stayedS > STAYED_S) || !((outputRpm[i] as number) > LEAST_RPM)) continue;
    if (!(Math.abs(ratioOf(frame, gear[i] as number)) < MOST_RATIO)) continue;
    // lower than this a dual clutch opens
    let clean = unit.kind === "planetary" || syncRpm(frame, gear[i] as number, i) > CLOSED_RPM;
    for (let k = i; k < i + after; k++)
      if (quiet[k] || mask[k] || gear[k] !== gear[i] || Number.isNaN(outputRpm[k] as number)) clean = false;
    if (!clean || shaftsTake(frame, i, i + after)) continue;
    const rest = withoutParabola(outputRpm.subarray(i, i + after));
    let [least, most] = [0, 0];
    for (const v of rest) {
      least = Math.min(least, v);
      most = Math.max(most, v);
    }
    const step =
      torqueNm && (torqueNm[Math.min(n - 1, i + Math.round(after / 2))] as number) - (torqueNm[i - 1] as number);
    out.push({
      gear: gearName(gear[i] as number),
      startS: timeS[i] as number,
      vibrationRpm: (most - least) / unit.finalDrive,
      torqueStepNm: finite(step),
    });
  }
  return out;
}
