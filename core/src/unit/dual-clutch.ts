import { jointsIn } from "./gears.ts";
import { solveTrain } from "./solve.ts";
import type { Unit } from "./unit.ts";

/** Which dual clutch carries a gear. @returns undefined for an unknown gear or a unit without dual clutches */
export function clutchOf(unit: Unit, gear: string): string | undefined {
  return unit.application[gear]?.find((a) => unit.elements.find((e) => e.id === a.element)?.kind === "dual-clutch")
    ?.element;
}

/**
 * Speeds of both input shafts over the output speed: that of the gear driven, and of the gear preselected on the other
 * shaft. Clutch slip is engine speed less that of its shaft.
 * @param preselected - undefined: the other shaft coasts
 * @returns by clutch; a shaft that no fork holds is left out
 * Shaft speed = gear ratio · output.
 */
export function shaftRatios(unit: Unit, gear: string, preselected?: string): ReadonlyMap<string, number> {
  const found = new Map<string, number>();
  for (const name of [preselected, gear]) {
    const clutch = name && clutchOf(unit, name);
    const ratio = unit.gears.find((g) => g.name === name)?.ratio;
    if (clutch && ratio !== undefined) found.set(clutch, Math.abs(ratio));
  }
  return found;
}

/** Can two gears be in at once, one driven, one preselected? Forks and shafts must not fight. */
export function canPreselect(unit: Unit, gear: string, preselected: string): boolean {
  if (clutchOf(unit, gear) === clutchOf(unit, preselected)) return false;
  const forks = (g: string) => (unit.application[g] ?? []).filter((a) => a.towards !== undefined);
  const clash = forks(gear).some((a) => forks(preselected).some((b) => a.element === b.element));
  if (clash) return false;
  if (!unit.gearTrain) return true;
  const isClutch = (id: string) => unit.elements.find((e) => e.id === id)?.kind === "dual-clutch";
  const joints = [...jointsIn(unit, gear), ...jointsIn(unit, preselected).filter((j) => !isClutch(j.id))];
  return solveTrain(unit.gearTrain, joints).kind === "gear";
}

/** Torque a dual clutch carries, N·m: slope · (pressure − touch point), never below zero. */
export const clutchTorqueNm = (pressureKpa: number, touchPointKpa: number, slopeNmPerKpa: number): number =>
  Math.max(0, pressureKpa - touchPointKpa) * slopeNmPerKpa;
