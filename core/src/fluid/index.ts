export { AGE_FROM_C, ageRate, equivalentHours, type HeatSpell, shareAbove } from "./age.ts";
export {
  balancedLab,
  type ColourChange,
  ColourError,
  colourChange,
  deltaE2000,
  type FluidColour,
  fluidColour,
  type Lab,
  type Patch,
  type PatchMean,
  type Pixels,
  patchMean,
} from "./colour.ts";
export { isBehind, phaseBehind } from "./fill-ask.ts";
export {
  BURST_SHARE,
  CAN_C,
  EARLY_SHARE,
  type Emptied,
  FILL_DEEDS,
  FILL_PHASES,
  FILL_SAW,
  type FillAsk,
  type FillDeed,
  type FillDone,
  type FillPhase,
  type FillState,
  MOST_AT_ONCE,
  START_SHARE,
  startsWithL,
} from "./fill-fold.ts";
export { fillProblem, fillState } from "./filling.ts";
export {
  type FollowUp,
  followUps,
  type Interval,
  type IntervalInput,
  NEVER_CHANGED_INTERVALS,
  neverChanged,
  nextInterval,
} from "./interval.ts";
export {
  EXPANSION_PER_C,
  expandedL,
  expectedDrainL,
  judgeLevel,
  type LevelJudgement,
  type LevelMistake,
  type LevelReading,
  levelMistakes,
  readRunning,
  stickMarks,
} from "./level.ts";
export type { Lost, Refill } from "./refill.ts";
export { DRAIN_OFF, panFasteners, panSealText, refillOf } from "./refill.ts";
export {
  exchangeLitresFor,
  freshnessCurve,
  leftAfterDrains,
  leftAfterExchange,
  mixingWarnings,
  type Prices,
  type RenewalOption,
  renewalOptions,
  TYPICAL_MIXING,
} from "./renewal.ts";
