export type { ChartReading, GearOutcome } from "./chart.ts";
export { readChart } from "./chart.ts";
export type { UnitProblem } from "./check.ts";
export { checkUnit } from "./check.ts";
export type {
  Applied,
  Element,
  ElementKind,
  Gear,
  Net,
  Sensor,
  ShiftLimit,
  Solenoid,
  TroubleCode,
  Unit,
  UnitKind,
  UnitLimits,
} from "./unit.ts";
export {
  componentName,
  elementsIn,
  gearByName,
  gearCode,
  gearName,
  gearsUsing,
  ratioTable,
  sensorValidIn,
  siblingsOnNets,
} from "./unit.ts";
