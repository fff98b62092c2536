export type { Analysis, GearSpan } from "./analyse.ts";
export {
  ANALYSIS_VERSION,
  analyseDrive,
  gearObservations,
  gearOutcomes,
  obtainedGears,
  slipChannel,
} from "./analyse.ts";
export type { Comparison, FindingComparison, GroupComparison, Verdict } from "./compare.ts";
export { compareDrives } from "./compare.ts";
export type { Group, LoadBand, TemperatureBand } from "./conditions.ts";
export type { ConverterAnalysis, ConverterEpisode } from "./converter.ts";
export type { Dropout } from "./dropouts.ts";
export type { Conditions, Finding, FindingKind, Measure, Occurrence } from "./findings.ts";
export type { RatioFit } from "./fit.ts";
export type { GearSummary, HeldAnalysis, HeldGroup, SlipEpisode } from "./held.ts";
export type { Limp } from "./limp.ts";
export type { OscillationAnalysis } from "./oscillation.ts";
export type { Shift } from "./shifts.ts";
