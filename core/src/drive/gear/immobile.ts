import { gearName } from "../../unit/index.ts";
import type { Frame } from "../signal/frame.ts";
import { finite, median, runs, where } from "../signal/stats.ts";

/** In gear, the engine pulls, nothing holds the vehicle, and it stands. */
export interface Immobile {
  readonly gear: string;
  readonly startS: number;
  readonly endS: number;
  /**
   * where it ends: input "held", the train is tied up or something holds the output; input "free", nothing takes its torque;
   * "output", that shaft turns and the vehicle stands; undefined where the log can’t tell
   */
  readonly input?: "held" | "free" | "output" | undefined;
  readonly torqueNm?: number | undefined;
}

const STANDS_RPM = 25;
const PULLS_PCT = 22;
const LEAST_S = 2.5;
/** the turbine of a converter under full slip turns this little of the engine's speed */
const HELD_SHARE = 0.15;
const FREE_SHARE = 0.9;
/** a stop in the middle is the driver's foot */
const JOIN_S = 0.5;

/**
 * Spans in which the vehicle ought to move off and does not. A converter unit tells a train that is tied up (the turbine
 * stands under the engine's pull) from one that carries nothing (the turbine runs with the engine).
 * @returns empty when no pedal was recorded
 */
export function findImmobile(frame: Frame): Immobile[] {
  const { timeS, gear, outputRpm, inputRpm, engineRpm, pedalPct, brakeOn, torqueNm, vehicleKmh, unit, derived } = frame;
  if (!pedalPct || derived.includes("output_rpm")) return [];
  const out: Immobile[] = [];
  let start = -1;
  let last = -1;
  const close = () => {
    if (start >= 0 && (timeS[last] as number) - (timeS[start] as number) >= LEAST_S) {
      const share: number[] = [];
      const pull: number[] = [];
      for (let i = start; i <= last; i++) {
        // the first second is the converter's
        if ((timeS[i] as number) - (timeS[start] as number) > 1 && engineRpm)
          share.push((inputRpm[i] as number) / (engineRpm[i] as number));
        if (torqueNm) pull.push(torqueNm[i] as number);
      }
      const turns = unit.kind === "planetary" ? median(share) : Number.NaN;
      out.push({
        gear: gearName(gear[start] as number),
        startS: timeS[start] as number,
        endS: timeS[last] as number,
        input: turns < HELD_SHARE ? "held" : turns > FREE_SHARE ? "free" : undefined,
        torqueNm: finite(median(pull)),
      });
    }
    start = -1;
  };
  for (let i = 0; i < timeS.length; i++) {
    const g = gear[i] as number;
    const stands =
      g - g === 0 &&
      g !== 0 &&
      (outputRpm[i] as number) < STANDS_RPM &&
      // a sensor that is lost reads zero too
      (vehicleKmh === undefined || (vehicleKmh[i] as number) < 1) &&
      !((brakeOn?.[i] ?? 0) > 0) &&
      (pedalPct[i] as number) > PULLS_PCT;
    if (stands && start >= 0 && gear[start] === g) last = i;
    else if (stands) {
      close();
      start = i;
      last = i;
    } else if (start >= 0 && ((timeS[i] as number) - (timeS[last] as number) > JOIN_S || gear[start] !== g)) close();
  }
  close();
  return [...out, ...turningInVain(frame)];
}

const TURNS_RPM = 300;

/** Spans in which the output shaft turns in gear and the road speed stays at nothing. */
function turningInVain({ timeS, gear, outputRpm, vehicleKmh, torqueNm, derived }: Frame): Immobile[] {
  if (!vehicleKmh || derived.includes("vehicle_kmh")) return [];
  const vain = where(
    timeS.length,
    (i) => Math.abs(gear[i] as number) > 0 && (outputRpm[i] as number) > TURNS_RPM && (vehicleKmh[i] as number) < 1,
  );
  return runs(timeS, vain, JOIN_S, LEAST_S, 1).map(({ start, end }) => ({
    gear: gearName(gear[end - 1] as number),
    startS: timeS[start] as number,
    endS: timeS[end - 1] as number,
    input: "output",
    torqueNm: torqueNm && finite(median(torqueNm.subarray(start, end))),
  }));
}
