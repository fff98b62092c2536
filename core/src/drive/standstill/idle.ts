import type { Frame } from "../signal/frame.ts";
import { quantile, settled } from "../signal/stats.ts";

/** Idle at rest of a dual clutch: a clutch that does not open draws it down. */
export interface Idle {
  readonly usualRpm: number;
  /** how far the lowest tenth of the readings lies under the middle */
  readonly dipRpm: number;
  readonly seconds: number;
}

/** Sound engines stay within 5 rpm. */
export const IDLE_DIP_RPM = 7;

const OFF_PCT = 1;
const STANDS_RPM = 5;
/** The engine has come down to its idle by then. */
const AFTER_S = 2;
const LEAST_S = 8;
const RATE_HZ = 9;
const JOIN_S = 0.2;

/** @returns undefined for a converter unit, at low rates, without pedal, or with hardly any rest */
export function analyseIdle({
  timeS,
  unit,
  rateHz,
  engineRpm,
  outputRpm,
  pedalPct,
  vehicleKmh,
}: Frame): Idle | undefined {
  if (unit.kind === "planetary" || rateHz < RATE_HZ || !pedalPct || !engineRpm) return undefined;
  const rest = settled(
    timeS,
    (i) =>
      (pedalPct[i] as number) < OFF_PCT &&
      (outputRpm[i] as number) < STANDS_RPM &&
      !((vehicleKmh?.[i] ?? 0) > 1) &&
      (engineRpm[i] as number) > 300,
    JOIN_S,
    AFTER_S,
  );
  const seconds = rest.length / rateHz;
  if (seconds < LEAST_S) return undefined;
  const idle = rest.map((i) => engineRpm[i] as number);
  const usualRpm = quantile(idle, 0.5);
  return { usualRpm, dipRpm: usualRpm - quantile(idle, 0.1), seconds };
}
