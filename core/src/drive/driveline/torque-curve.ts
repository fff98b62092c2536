import type { Frame } from "../signal/frame.ts";
import { quantile } from "../signal/stats.ts";

/** Highest torque that was reported in bands of engine speed, [rpm, N·m], speeds rising: full load only where it was driven so. */
export type TorqueCurve = readonly (readonly [number, number])[];

const BAND_RPM = 250;
const SLOWEST_RPM = 700;
/** Readings that a band has to have under load; of them the upper twentieth is left to noise. */
const LEAST_READINGS = 6;
const UPPER = 0.95;
const LEAST_BANDS = 3;

/** @returns undefined without torque or engine speed, or with fewer than three bands driven under load */
export function analyseTorqueCurve({ engineRpm, torqueNm, timeS }: Frame): TorqueCurve | undefined {
  if (!engineRpm || !torqueNm) return undefined;
  const bands = new Map<number, number[]>();
  for (let i = 0; i < timeS.length; i++) {
    const rpm = engineRpm[i] as number;
    const nm = torqueNm[i] as number;
    if (!(rpm >= SLOWEST_RPM) || !(nm > 0)) continue;
    const band = Math.round(rpm / BAND_RPM) * BAND_RPM;
    const list = bands.get(band);
    if (list) list.push(nm);
    else bands.set(band, [nm]);
  }
  const curve = [...bands]
    .filter(([, list]) => list.length >= LEAST_READINGS)
    .sort(([a], [b]) => a - b)
    .map(([rpm, list]) => [rpm, Math.round(quantile(list, UPPER))] as const);
  return curve.length < LEAST_BANDS ? undefined : curve;
}
