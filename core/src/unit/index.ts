export type { ChartReading, Circuit, GearObservation, GearOutcome } from "./chart.ts";
export { circuitsOf, readChart, readObservations } from "./chart.ts";
export type { UnitProblem } from "./check.ts";
export { checkUnit } from "./check.ts";
export type { ConverterTorques, Stator } from "./converter.ts";
export {
  converterEfficiency,
  converterTorques,
  openSlipRpm,
  stallFactor,
  stallSpeedRpm,
  torqueRatio,
} from "./converter.ts";
export { canPreselect, clutchOf, clutchTorqueNm, shaftRatios } from "./dual-clutch.ts";
export {
  elementPressuresKpa,
  gearPressureKpa,
  meanRadiusMm,
  PAPER_FRICTION,
  packCapacityNm,
  packPressureKpa,
  slipPowerW,
} from "./friction.ts";
export type { GearState, ShiftPlan } from "./gears.ts";
export { closesNeutral, gearStates, jointsIn, jointsOf, sharesByGear, shiftPlan } from "./gears.ts";
export type { LeverPoint } from "./lever.ts";
export { leverOf } from "./lever.ts";
export { reduceRows } from "./reduce.ts";
export type {
  DrivenProcedure,
  DriveWindow,
  LiveCondition,
  RelearnGuard,
  RelearnMachine,
  RelearnProcedure,
  RelearnResult,
  RelearnStage,
} from "./relearn.ts";
export { RELEARN_KINDS, RELEARN_POLICIES } from "./relearn.ts";
export { shaftPerInput } from "./shaft.ts";
export type { Combination, TorqueShares, TrainState } from "./solve.ts";
export { classifyCombinations, elementSlip, solveTrain, torqueShares } from "./solve.ts";
export type { GearPair, GearTrain, Joint, PlanetarySet } from "./train.ts";
export { equationsOf, MEMBERS, nodesOf, Shafts } from "./train.ts";
export type {
  Adaptation,
  Applied,
  ApplyPiston,
  BenchLimits,
  Converter,
  ConverterFit,
  Element,
  ElementKind,
  Fastener,
  Gear,
  Net,
  SelectivePart,
  Sensor,
  ShiftLimit,
  Solenoid,
  TroubleCode,
  Unit,
  UnitBench,
  UnitKind,
  UnitLimits,
  Usual,
  UsualTimes,
} from "./unit.ts";
export {
  componentName,
  elementsIn,
  gearByName,
  gearCode,
  gearName,
  gearsUsing,
  inSentence,
  launchingClutches,
  PAN_SEALS,
  ratioTable,
  SHIFT_VALVES,
  sensorValidIn,
  siblingsOnNets,
  TRAY_KINDS,
  type TrayCell,
  WARM_C,
} from "./unit.ts";
export type { Obtained, ObtainedGear, Stuck, StuckExplanation, WhatIfRow } from "./what-if.ts";
export { explainObtained, stuckCandidates, whatIf } from "./what-if.ts";
