import type { Fault } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";

const FLUID = /^fluid-/;
const PRESSURE = /^(pump-worn|pressure-low|pressure-high|filter-blocked|accumulator-broken)$/;

/**
 * The place of a fault: an element with its solenoid and valve, a sensor with its own wire, the fluid, the pressure
 * supply, the converter, the controller. A drive can tell the place; which part of it, a meter, a gauge or air tells.
 */
export function placeOf(unit: Unit, fault: Pick<Fault, "id" | "classId" | "component" | "group">): string {
  if (FLUID.test(fault.classId)) return "fluid";
  if (PRESSURE.test(fault.classId)) return "pressure";
  if (fault.group === "converter" || fault.group === "controller") return fault.group;
  const net = unit.nets.find((n) => n.id === fault.component);
  if (net?.kind === "signal") return net.connects[0] ?? net.id;
  const solenoid = unit.solenoids.find((s) => s.id === fault.component);
  if (solenoid) return solenoid.feeds;
  return fault.component === "unit" ? fault.classId : fault.component;
}
