export type { DebrisClass, DebrisKnowledge, Rung, RungForm } from "../knowledge/index.ts";
export { type CodeReport, CodeTextError, type ReadCode, readCodes } from "./codes.ts";
export { type Contradiction, DRAIN_BAND, drainedAs, findContradictions, photoAgainstWord } from "./contradictions.ts";
export { debrisSources, pasteWithin } from "./debris.ts";
export {
  FELT_WORDS,
  type FeltPlace,
  feltObservations,
  feltPlaces,
  feltText,
  isGood,
  otherConditions,
  placeWords,
} from "./felt.ts";
export { type GenericMeaning, genericMeaning, partsOfFrame, ratioObservations } from "./generic-codes.ts";
export {
  BATTERY_V,
  judgeBattery,
  judgeLeaks,
  judgeMisfire,
  judgePositions,
  LEAK_PLACES,
  LEVER_POSITIONS,
  type LeakPlace,
  type LeverPosition,
  leakSource,
  type PositionSeen,
  type Wetness,
} from "./judge.ts";
export { type MarkedSign, type MarkerSign, markedSigns, markerSigns } from "./marked.ts";
export { checkAgainstUnit } from "./plausible.ts";
export { firstLookSoFar, type QuickCheckStep, quickChecksFor } from "./quick-checks.ts";
export { suggestTriage, type Triage } from "./triage.ts";
