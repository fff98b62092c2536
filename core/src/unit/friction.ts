import { sharesByGear } from "./gears.ts";
import type { ApplyPiston, Unit } from "./unit.ts";

/** Of a paper lining in its fluid, for what is compared: it cancels there. */
export const PAPER_FRICTION = 0.13;

/** Heat made in a slipping clutch, W: P = T·Δω. */
export const slipPowerW = (torqueNm: number, slipRpm: number): number =>
  (Math.abs(torqueNm * slipRpm) * 2 * Math.PI) / 60;

/** Mean radius of a friction ring: R_m = ⅔·(Ro³ − Ri³)/(Ro² − Ri²), even pressure. @throws RangeError when outer is not larger */
export function meanRadiusMm(innerMm: number, outerMm: number): number {
  if (!(innerMm >= 0 && outerMm > innerMm)) throw new RangeError("the outer radius is larger than the inner one");
  return ((2 / 3) * (outerMm ** 3 - innerMm ** 3)) / (outerMm ** 2 - innerMm ** 2);
}

/**
 * Torque that a pack can hold, N·m: T = z·μ·F·r, z friction faces (two a plate), F piston force less the return spring.
 * @returns 0 below the pressure that overcomes the spring
 */
export function packCapacityNm(apply: ApplyPiston, plates: number, pressureKpa: number, friction: number): number {
  // kPa·cm² = 0.1 N
  const forceN = Math.max(0, pressureKpa * apply.areaCm2 * 0.1 - apply.returnSpringN);
  return 2 * plates * friction * forceN * (apply.meanRadiusMm / 1000);
}

/** Pressure at which a pack holds a torque, kPa; inverse of {@link packCapacityNm}. */
export function packPressureKpa(apply: ApplyPiston, plates: number, torqueNm: number, friction: number): number {
  const forceN = Math.abs(torqueNm) / (2 * plates * friction * (apply.meanRadiusMm / 1000));
  return (forceN + apply.returnSpringN) / (apply.areaCm2 * 0.1);
}

/** Pressure that each element of a gear needs at an input torque, kPa, by element; those the unit file tells nothing of are left out. */
export function elementPressuresKpa(
  unit: Unit,
  gear: string,
  inputTorqueNm: number,
  friction: number,
): ReadonlyMap<string, number> {
  const needs = new Map<string, number>();
  for (const [id, share] of sharesByGear(unit).get(gear) ?? []) {
    const element = unit.elements.find((e) => e.id === id);
    if (element?.apply && element.plates)
      needs.set(id, packPressureKpa(element.apply, element.plates, share * inputTorqueNm, friction));
  }
  return needs;
}

/**
 * Line pressure that every element of a gear needs at an input torque, kPa.
 * @returns undefined when the unit file tells neither train nor pistons
 */
export function gearPressureKpa(unit: Unit, gear: string, inputTorqueNm: number, friction: number): number | undefined {
  const needs = elementPressuresKpa(unit, gear, inputTorqueNm, friction);
  return needs.size > 0 ? Math.max(...needs.values()) : undefined;
}
