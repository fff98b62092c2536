import { jointsOf, type RelearnProcedure } from "@gearsense/core/unit";
import {
  BasicSetting,
  DriveLearn,
  FillRoutine,
  ROUTINE_REFUSAL,
  type RoutineStatus,
  standingRefusal,
} from "../control/routine.ts";
import type { SimulatedVehicle } from "../vehicle.ts";

/** A routine that was begun. */
export interface RunningRoutine extends RoutineStatus {
  stop(): void;
}

/** steps of learning in a drive-cycle against usual driving */
const LEARNS_QUICKER = 4;
const ANY_TEMPERATURE_C = [-40, 150] as const;

/**
 * Begins a routine of the unit file as a scan tool would ask for it.
 * @returns how it goes; a refusal of ISO 14229-1 when it does not start
 * @throws RangeError for a procedure that has no routine
 */
export function startRoutine(vehicle: SimulatedVehicle, { id, machine }: RelearnProcedure): RunningRoutine | number {
  if (machine?.routine === undefined) throw new RangeError(`"${id}" has no routine`);
  const { unit, controller, hydraulics, build } = vehicle;
  const { packs } = hydraulics;
  const { adaptation } = controller;
  if (controller.routine?.state === "running") return ROUTINE_REFUSAL.sequence;
  const codes = controller.codes.stored.length;
  if (machine.kind === "drive-cycle") {
    if (codes > 0) return ROUTINE_REFUSAL.conditions;
    return new DriveLearn(unit, packs, adaptation, LEARNS_QUICKER);
  }
  const window = machine.preconditions.find((c) => c.channel === "fluid_c" || c.channel === "clutch_c")?.between;
  const temperatureC = window ?? ANY_TEMPERATURE_C;
  const refusal = standingRefusal(unit, vehicle.readings, codes, temperatureC);
  if (refusal !== undefined) return refusal;
  const parts = { unit, packs, adaptation, temperatureC, coldThickening: build.coldThickening };
  const forks = jointsOf(unit).flatMap((j) => (j.id.includes(":") ? [j.id] : []));
  const routine = machine.kind === "stationary" ? new FillRoutine(parts) : new BasicSetting(parts, forks);
  controller.routine = routine;
  return routine;
}

/** Writes learned values, by the ids of the unit file. @returns false when one lies outside its limits: then none is written */
export function writeLearned(vehicle: SimulatedVehicle, values: Readonly<Record<string, number>>): boolean {
  const { unit } = vehicle;
  for (const a of unit.adaptations ?? []) {
    const v = values[a.id];
    if (v !== undefined && (v < a.limits[0] || v > a.limits[1])) return false;
  }
  vehicle.controller.adaptation.adopt(unit, vehicle.hydraulics.packs, values);
  return true;
}
