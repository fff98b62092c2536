import { gearCode, type Unit, type UsualTimes, WARM_C } from "../../unit/index.ts";
import type { Shift } from "./shifts.ts";

export type FluidBand = "cold" | "warm";
export const fluidBand = (fluidC: number): FluidBand => (fluidC < WARM_C ? "cold" : "warm");
export const bandTimeS = (t: UsualTimes | undefined, band: FluidBand): number | undefined =>
  band === "cold" ? t?.coldS : t?.warmS;

/** A time beside that of sound units, s. */
export interface AgainstUsual {
  readonly usualS: number;
  /** more than usual; negative: less */
  readonly excessS: number;
}

/**
 * A power upshift against what is usual for the unit at its temperature.
 * @returns only what was measured and the unit file states; nothing for other shifts
 */
export function againstUsual(
  unit: Unit,
  s: Shift,
): { readonly delay?: AgainstUsual | undefined; readonly inertia?: AgainstUsual | undefined } {
  const usual = unit.usual?.shifts?.[s.name];
  if (!usual || !s.underPower || !s.measured || s.fluidC === undefined || gearCode(s.to) < gearCode(s.from)) return {};
  const band = fluidBand(s.fluidC);
  const beside = (isS: number | undefined, usualS: number | undefined) =>
    isS === undefined || usualS === undefined ? undefined : { usualS, excessS: isS - usualS };
  return {
    delay: beside(s.delayS, bandTimeS(usual.delay, band)),
    inertia: beside(s.inertiaS, bandTimeS(usual.inertia, band)),
  };
}
