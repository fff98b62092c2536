export type { Analysis, GearSpan } from "./analyse.ts";
export {
  ANALYSIS_VERSION,
  analyseDrive,
  gearObservations,
  gearOutcomes,
  obtainedGears,
  slipChannel,
} from "./analyse.ts";
export type { Change } from "./bootstrap.ts";
export { changeOf, cliffsDelta } from "./bootstrap.ts";
export type { Comparison, FindingComparison, GroupComparison, Verdict } from "./compare.ts";
export { compareDrives } from "./compare.ts";
export type { Group, LoadBand, TemperatureBand } from "./conditions.ts";
export type { ConverterAnalysis, ConverterEpisode, HuntingSpan } from "./converter.ts";
export { neverTakesHold } from "./converter.ts";
export type { Coverage } from "./coverage.ts";
export { ENOUGH_S } from "./coverage.ts";
export type { Dropout } from "./dropouts.ts";
export { type ElementLoads, FLUID_STEP_C } from "./element-loads.ts";
export type { Conditions, Finding, FindingKind, Measure, Occurrence } from "./findings.ts";
export type { RatioFit } from "./fit.ts";
export type { HeatAnalysis } from "./heat.ts";
export type { GearSummary, HeldAnalysis, HeldGroup, SlipEpisode } from "./held.ts";
export type { Launch } from "./launches.ts";
export { limitsOf } from "./limits.ts";
export type { Limp } from "./limp.ts";
export { KNOCKS_RPM, SWINGS_RPM, usualSwingRpm } from "./load-reversal.ts";
export { foldedHz } from "./orders.ts";
export type { OscillationAnalysis, OscillationWindow, SwingCause } from "./oscillation.ts";
export { VIBRATION_RATE_HZ } from "./oscillation.ts";
export type { PressureFollows } from "./pressures.ts";
export { OVER_SHARE, SHORT_SHARE } from "./pressures.ts";
export type { ChannelQuality } from "./quality.ts";
export type { Shift } from "./shifts.ts";
export type { Spectrum } from "./spectrum.ts";
export { orderSpectrum, spectrumOf } from "./spectrum.ts";
export type { CoastStop, Engagement, StallTest } from "./standstill.ts";
export { median } from "./stats.ts";
export type { AgainstUsual, FluidBand } from "./usual.ts";
export { againstUsual, bandTimeS, fluidBand } from "./usual.ts";
