import type { Unit } from "@gearsense/core/unit";
import { type Build, firstRatio } from "./build.ts";
import { type VehicleData, WORKING_VAN } from "./physics/powertrain.ts";

/** of a vehicle with its tyres' grip that stands on the driven wheels */
const DRIVEN_SHARE = 0.6;
const GRAVITY = 9.81;

/** The working vehicle that carries a unit: heavier with what the unit bears, and as it was built. */
export function vehicleFor(unit: Unit, build: Build): VehicleData {
  const massKg = Math.round((1100 + 2.9 * unit.maxInputTorqueNm) * build.massShare);
  const windUpRad = (build.windUpDeg * Math.PI) / 180;
  return {
    massKg,
    dragNs2PerM2: WORKING_VAN.dragNs2PerM2 * build.dragShare,
    rolling: build.rolling,
    // torque at the gearbox output over the turn of the wheel, seen through the final drive
    shaftStiffnessNmPerRad:
      (build.engineShare * unit.maxInputTorqueNm * firstRatio(unit)) / (windUpRad * unit.finalDrive),
    shaftDampingNmsPerRad: build.shaftDampingNmsPerRad,
    rubberShare: build.rubberShare,
    engineInertiaKgM2: engineInertiaKgM2(unit) * build.engineInertiaShare,
    idleRpm: build.idleRpm,
    neutralIdleRpm: build.neutralIdleRpm,
    idleWanderRpm: build.idleWanderRpm,
    engineShare: build.engineShare,
    converterShare: build.converterShare,
    tyreRadiusM: unit.tyreRadiusM * build.tyreShare,
    tyreGripN: build.tyreGripPerWeight * DRIVEN_SHARE * massKg * GRAVITY,
  };
}

/** What goes with a unit, and what its controller was set up with. */
export const engineInertiaKgM2 = (unit: Unit): number => 0.12 + 0.00028 * unit.maxInputTorqueNm;
