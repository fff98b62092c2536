import type { Frame } from "../signal/frame.ts";

/** How far a vehicle was driven and how hard, for what is counted over many drives. */
export interface Road {
  readonly km: number;
  /** with the pedal at eight tenths or more, s; undefined: the pedal was not recorded */
  readonly fullPedalS?: number | undefined;
}

export const FULL_PEDAL_PCT = 80;

/** Distance is the integral of the road speed; without it, of the output speed over final drive and tyre. */
export function analyseRoad(frame: Frame): Road {
  const { unit, timeS, stepS, vehicleKmh, outputRpm, pedalPct } = frame;
  const kmhPerRpm = (2 * Math.PI * unit.tyreRadiusM * 60) / (unit.finalDrive * 1000);
  let km = 0;
  let fullPedalS = 0;
  for (let i = 0; i < timeS.length; i++) {
    const told = vehicleKmh?.[i] ?? Number.NaN;
    const kmh = Number.isNaN(told) ? (outputRpm[i] as number) * kmhPerRpm : told;
    const step = stepS[i] as number;
    if (kmh > 0) km += (kmh * step) / 3600;
    if ((pedalPct?.[i] ?? 0) >= FULL_PEDAL_PCT) fullPedalS += step;
  }
  return pedalPct ? { km, fullPedalS } : { km };
}
