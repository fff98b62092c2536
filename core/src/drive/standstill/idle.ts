import type { Frame } from "../signal/frame.ts";
import { median, quantile, runs, where } from "../signal/stats.ts";

/** Idle at rest of a dual clutch: a clutch that does not open draws it down. */
export interface Idle {
  readonly usualRpm: number;
  /** in gear, how far the lowest tenth of a stop lies under its own course: median over the stops */
  readonly dipRpm: number;
  /** the same in P and N, where nothing can draw it down; undefined where it hardly stood so */
  readonly neutralDipRpm?: number | undefined;
  readonly stops: number;
  readonly seconds: number;
}

/** Where the drive has no rest in P or N to go by. Engines hunt by 10 rpm and more. */
const TYPICAL_DIP_RPM = 30;
/** What a sound idle in gear has beyond that in P and N. */
const OF_NEUTRAL = 2.2;
const BEYOND_RPM = 5;

/** From where on the idle counts as drawn down, and what that goes by. */
export const idleLimit = ({
  neutralDipRpm,
}: Idle): { readonly value: number; readonly source: "this drive" | "typical" } =>
  neutralDipRpm === undefined
    ? { value: TYPICAL_DIP_RPM, source: "typical" }
    : { value: OF_NEUTRAL * neutralDipRpm + BEYOND_RPM, source: "this drive" };

const OFF_PCT = 1;
const STANDS_RPM = 5;
/** The engine has come down to its idle by then. */
const AFTER_S = 2;
const LEAST_S = 8;
const LEAST_STOPS = 3;
const LEAST_STOP_S = 2;
const RATE_HZ = 9;
const JOIN_S = 0.2;

/** @returns undefined for a converter unit, at low rates, without pedal, or with hardly any rest in gear */
export function analyseIdle({
  timeS,
  unit,
  rateHz,
  engineRpm,
  outputRpm,
  pedalPct,
  vehicleKmh,
  gear,
}: Frame): Idle | undefined {
  if (unit.kind === "planetary" || rateHz < RATE_HZ || !pedalPct || !engineRpm) return undefined;
  const stands = (i: number) =>
    (pedalPct[i] as number) < OFF_PCT &&
    (outputRpm[i] as number) < STANDS_RPM &&
    !((vehicleKmh?.[i] ?? 0) > 1) &&
    (engineRpm[i] as number) > 300;
  const dips: { readonly inGear: boolean; readonly rpm: number; readonly readings: number; readonly middle: number }[] =
    [];
  for (const inGear of [true, false])
    for (const { start, end } of runs(
      timeS,
      where(timeS.length, (i) => stands(i) && (gear[i] !== 0) === inGear),
      JOIN_S,
      AFTER_S + LEAST_STOP_S,
      1,
    )) {
      const stop = where(end - start, (k) => (timeS[start + k] as number) - (timeS[start] as number) > AFTER_S);
      const rpm = Float64Array.from(stop, (k) => engineRpm[start + k] as number);
      dips.push({ inGear, rpm: dipOf(rpm), readings: rpm.length, middle: median(rpm) });
    }
  const own = dips.filter((d) => d.inGear);
  const neutral = dips.filter((d) => !d.inGear);
  const seconds = own.reduce((sum, d) => sum + d.readings, 0) / rateHz;
  if (seconds < LEAST_S || own.length < LEAST_STOPS) return undefined;
  return {
    usualRpm: median(own.map((d) => d.middle)),
    dipRpm: median(own.map((d) => d.rpm)),
    neutralDipRpm: neutral.length > 0 ? median(neutral.map((d) => d.rpm)) : undefined,
    stops: own.length,
    seconds,
  };
}

/** Lowest tenth under the middle, about a straight line: a cold engine comes down by itself. */
function dipOf(rpm: Float64Array): number {
  const n = rpm.length;
  const centre = (n - 1) / 2;
  let [sum, sxx, sxy] = [0, 0, 0];
  rpm.forEach((v, i) => {
    sum += v;
    sxx += (i - centre) ** 2;
    sxy += (i - centre) * v;
  });
  const rest = rpm.map((v, i) => v - sum / n - (sxx > 0 ? sxy / sxx : 0) * (i - centre));
  return quantile(rest, 0.5) - quantile(rest, 0.1);
}
