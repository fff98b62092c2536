import type { Recording } from "../log/index.ts";
import { gearByName, type Unit } from "../unit/index.ts";
import { recordingOf, timesOf } from "./recordings.ts";

export const ratioOfGear = (unit: Unit, gear: string | number): number =>
  gearByName(unit, String(gear))?.ratio ?? Number.NaN;

export type Channels = Record<string, Float64Array>;

/**
 * Steady driving of a planetary unit, 20 s in each of the gears 1…6, with torque that moves between 10 and 230 N·m and
 * slip as asked for.
 * @param slipRpm - slip of a gear at a torque
 * @param patch - changes or adds channels
 */
export function steadyDrive(
  unit: Unit,
  slipRpm: (gear: number, torqueNm: number) => number = () => 0,
  patch: (channels: Channels, timeS: Float64Array) => Channels = (c) => c,
): Recording {
  const t = timesOf(120, 20);
  const gear = t.map((s) => 1 + Math.min(5, Math.floor(s / 20)));
  const output = t.map((s, i) => 700 + 250 * (gear[i] as number) + 5 * Math.sin(s));
  const torque = t.map((s) => 120 + 110 * Math.sin((2 * Math.PI * s) / 10));
  const turbine = output.map(
    (o, i) => o * ratioOfGear(unit, gear[i] as number) + slipRpm(gear[i] as number, torque[i] as number),
  );
  const channels = {
    engine_rpm: turbine.map((v) => v + 20),
    turbine_rpm: turbine,
    output_rpm: output,
    vehicle_kmh: output.map((o) => (o / unit.finalDrive) * 2 * Math.PI * unit.tyreRadiusM * 0.06),
    gear_commanded: gear,
    engine_torque_nm: torque,
    fluid_c: t.map(() => 80),
    // held by its clutch
    tcc_command: t.map(() => 85),
  };
  return recordingOf(t, patch(channels, t));
}
