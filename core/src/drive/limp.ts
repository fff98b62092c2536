import { gearByName, gearCode } from "../unit/index.ts";
import type { Dropout } from "./dropouts.ts";
import type { Frame } from "./frame.ts";
import { finite } from "./stats.ts";

export interface Limp {
  readonly startS: number;
  readonly endS: number;
  readonly gear: string;
  /** what shows it, in words */
  readonly signs: readonly string[];
  /** the drop-out that ended at most 3 s before, if any */
  readonly preceded: Dropout | undefined;
  readonly vehicleKmh: number | undefined;
  readonly fluidC: number | undefined;
}

const MIN_S = 8;
const PRECEDED_S = 3;
/** output speed from which the ratio can be told */
const SLOWEST_RPM = 150;

/**
 * Limp: from some moment on the drive stays in the unit's default gear whatever the speed, with the pressure at maximum
 * or the command elsewhere. Needs 8 s of driving in it and another forward gear before it.
 */
export function findLimp(frame: Frame, dropouts: readonly Dropout[], mask: Uint8Array): Limp | undefined {
  const { timeS, stepS, inputRpm, outputRpm, gear, linePressureKpa, vehicleKmh, fluidC, unit } = frame;
  const limpRatio = gearByName(unit, unit.limp.gear)?.ratio;
  if (limpRatio === undefined) return undefined;
  const limpCode = gearCode(unit.limp.gear);
  const n = timeS.length;
  let lastOther = -1;
  let sawOther = false;
  let otherRun = 0;
  for (let i = 0; i < n; i++) {
    if (mask[i]) continue;
    const out = outputRpm[i] as number;
    const input = inputRpm[i] as number;
    if (!(out > SLOWEST_RPM && input > 300)) continue;
    const g = gear[i] as number;
    const fits = unit.kind === "planetary" ? Math.abs(input / out / limpRatio - 1) < 0.03 : g === limpCode;
    if (fits) otherRun = 0;
    else if (++otherRun >= 3) {
      lastOther = i;
      sawOther = true;
    }
  }
  if (!sawOther || lastOther < 0) return undefined;
  let first = -1;
  let moving = 0;
  let pressed = 0;
  let pressureSeen = 0;
  let elsewhere = 0;
  let slowest = Infinity;
  for (let i = lastOther + 1; i < n; i++) {
    const out = outputRpm[i] as number;
    // creeping tells no ratio: it counts neither way
    if (!(out > SLOWEST_RPM && (inputRpm[i] as number) > 300) || mask[i]) continue;
    if (first < 0) first = i;
    const step = stepS[i] as number;
    moving += step;
    slowest = Math.min(slowest, out);
    if (linePressureKpa && unit.limp.linePressureKpa) {
      pressureSeen++;
      if ((linePressureKpa[i] as number) >= unit.limp.linePressureKpa * 0.95) pressed++;
    }
    if ((gear[i] as number) > 0 && gear[i] !== limpCode) elsewhere += step;
  }
  if (first < 0 || moving < MIN_S) return undefined;
  let usual = Infinity;
  for (let i = 0; i < first; i++) if (gear[i] === limpCode && !mask[i]) usual = Math.min(usual, outputRpm[i] as number);
  const signs: string[] = [];
  if (pressureSeen > 0 && pressed / pressureSeen > 0.8) signs.push("line pressure at its maximum");
  if (elsewhere > moving * 0.3) signs.push("another gear was commanded and not obtained");
  if (slowest < usual * 0.5) signs.push(`gear ${unit.limp.gear} held from near standstill`);
  if (signs.length === 0) return undefined;
  // the moment is the command or pressure change nearest before the first sample in the limp gear
  let start = first;
  const maximal = (i: number) =>
    unit.limp.linePressureKpa ? (linePressureKpa?.[i] ?? 0) >= unit.limp.linePressureKpa * 0.95 : false;
  while (
    start > 0 &&
    (timeS[first] as number) - (timeS[start - 1] as number) < 3 &&
    (gear[start - 1] === limpCode || maximal(start - 1))
  )
    start--;
  const startS = timeS[start] as number;
  const preceded = dropouts.findLast((d) => d.startS <= startS + 0.5 && startS - d.endS <= PRECEDED_S);
  return {
    startS,
    endS: timeS[n - 1] as number,
    gear: unit.limp.gear,
    signs,
    preceded,
    vehicleKmh: finite(vehicleKmh?.[start]),
    fluidC: finite(fluidC?.[start]),
  };
}
