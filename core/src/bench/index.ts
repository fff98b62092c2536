export type { BreakIn, BreakInDrive } from "./break-in.ts";
export { BREAK_IN_FULL_PEDAL_S, BREAK_IN_HOTTEST_C, breakInOf } from "./break-in.ts";
export type { Gain, GearMargin, GivesUp, PackBuilt } from "./capacity.ts";
export {
  fillTimeMs,
  gainsOf,
  givesUpFirst,
  heldNm,
  inputTorqueNm,
  launchGears,
  marginsOf,
  packBuilt,
} from "./capacity.ts";
export type { CauseOdds, CauseSign, SignWeight } from "./causes.ts";
export { causeOdds, causeSigns, failedPack, ratedPressureKpa, UNKNOWN_CAUSE } from "./causes.ts";
export type { ConverterFitted, FitLine, FitMeasured, FitPart, FitState, Sum } from "./converter-fit.ts";
export { fitConverter, stackUp } from "./converter-fit.ts";
export type { DrawnPart, StackDrawing } from "./drawing.ts";
export { fitDrawing, inARow, packDrawing } from "./drawing.ts";
export { chooseWasher } from "./end-play.ts";
export type { BenchBody } from "./judged.ts";
export { authorsOf, benchValue, judgedValue, meanValue, placeState } from "./judged.ts";
export type { BuildAftercare, ChosenPart } from "./outcome.ts";
export { aftercareOf, causeMissing, chosenParts } from "./outcome.ts";
export type { PackSummary, PlateRead } from "./pack-summary.ts";
export { packSummary, selectionText } from "./pack-summary.ts";
export type { Compared, PlateFault, PlateState, Selection, SelectiveChoice } from "./packs.ts";
export {
  chooseSelective,
  clearanceOf,
  comparePlates,
  mayPair,
  plateState,
  stackOf,
  taperMm,
  wearShare,
} from "./packs.ts";
export type { BenchMeasure, BenchPlace } from "./place.ts";
export { placeOf } from "./place.ts";
export { benchPlaces } from "./places.ts";
export type { Call, OtherUnit, Verdict } from "./reading.ts";
export { measureAgainWith, otherUnit, readValue, verdictOf } from "./reading.ts";
export type { BenchContradiction, DualClutchState } from "./says.ts";
export {
  benchContradictions,
  coilsSay,
  converterSays,
  dualClutchSays,
  dualClutchStates,
  pressureSays,
  verdictText,
} from "./says.ts";
export type { Ramp, ScopeFile, ToothSignal } from "./scope.ts";
export { channelOf, currentRamp, readScope, ScopeError, toothSignal } from "./scope.ts";
export type { ConverterBehind, ConverterChange, FactorSays, LoggedFactor, TorqueCurve } from "./stall.ts";
export {
  CRUISE,
  compareConverters,
  converterBehind,
  curveProblem,
  curveTorqueNm,
  FACTOR_BAND,
  factorSays,
  loggedFactor,
  stallOnCurve,
} from "./stall.ts";
