import type { Recording } from "../log/index.ts";
import { type GearObservation, type GearOutcome, gearName, type ObtainedGear, type Unit } from "../unit/index.ts";
import { type AdaptationValue, readAdaptations } from "./adaptations.ts";
import { analyseConverter, type ConverterAnalysis } from "./converter.ts";
import { analyseCoolDown, type CoolDown } from "./cool-down.ts";
import { analyseCoverage, type Coverage } from "./coverage.ts";
import { type Dropout, dropoutMask, findDropouts } from "./dropouts.ts";
import { type Finding, makeFindings } from "./findings.ts";
import { fittingFrame, type RatioFit } from "./fit.ts";
import { buildFrame, type Frame } from "./frame.ts";
import { findGearHunting, type GearHunting } from "./gear-hunting.ts";
import { analyseHeat, type HeatAnalysis } from "./heat.ts";
import { analyseHeld, type HeldAnalysis, heldSlipRpm } from "./held.ts";
import { analyseIdle, type Idle } from "./idle.ts";
import { findImmobile, type Immobile } from "./immobile.ts";
import { findLapses, type Lapse } from "./lapses.ts";
import { findLaunches, type Launch } from "./launches.ts";
import { type Limit, limitsOf } from "./limits.ts";
import { findLimp, type Limp } from "./limp.ts";
import { findLoadReversals, type LoadReversal } from "./load-reversal.ts";
import { analyseNeutral, type NeutralPull } from "./neutral.ts";
import { analyseOscillation, type OscillationAnalysis, VIBRATION_RATE_HZ } from "./oscillation.ts";
import { followPressures, type PressureFollows } from "./pressures.ts";
import { analysePull, type EnginePull } from "./pull.ts";
import { type ChannelQuality, findRipples, judgeQuality, type Ripple } from "./quality.ts";
import { analyseReach, type Reach } from "./reach.ts";
import { findShifts, type Shift } from "./shifts.ts";
import {
  type CoastStop,
  type Engagement,
  findCoastStops,
  findEngagements,
  findStallTests,
  type StallTest,
} from "./standstill.ts";

/** Raised whenever the same log may give other results. */
export const ANALYSIS_VERSION = 8;

/** Noise rarely goes so many deviations. */
const NOISE_REACH = 3;
/** What goes wrong just before limp mode belongs to it. */
const BEFORE_LIMP_S = 0.3;
/** Shafts swing for so long after a shift or a launch. */
const AFTER_SHIFT_S = 0.6;
/** A clutch that lets the engine run away is the reason of limp mode: so much of it is slip. */
const AFTER_RUNAWAY_S = 6;

export interface GearSpan {
  readonly gear: number;
  readonly startS: number;
  readonly endS: number;
}

export interface Analysis {
  readonly format: "gearsense-analysis";
  readonly version: number;
  readonly unitId: string;
  readonly unitVersion: number;
  readonly durationS: number;
  readonly rateHz: number;
  readonly ratioFit: RatioFit;
  readonly loadSource: string | undefined;
  readonly derived: readonly string[];
  /** commanded gear over time, for the ribbon */
  readonly gearSpans: readonly GearSpan[];
  readonly held: HeldAnalysis;
  readonly shifts: readonly Shift[];
  readonly converter: ConverterAnalysis | undefined;
  readonly oscillation: OscillationAnalysis;
  readonly dropouts: readonly Dropout[];
  readonly limp: Limp | undefined;
  readonly engagements: readonly Engagement[];
  readonly stallTests: readonly StallTest[];
  readonly coastStops: readonly CoastStop[];
  readonly immobile: readonly Immobile[];
  readonly reach: readonly Reach[];
  /** undefined when too few solenoids were recorded */
  readonly lapses: readonly Lapse[] | undefined;
  readonly gearHunting: readonly GearHunting[];
  readonly loadReversals: readonly LoadReversal[];
  /** of a converter unit */
  readonly pull: EnginePull | undefined;
  /** of a dual clutch */
  readonly idle: Idle | undefined;
  /** of a converter unit */
  readonly neutral: NeutralPull | undefined;
  /** of a dual clutch */
  readonly launches: readonly Launch[];
  readonly heat: HeatAnalysis | undefined;
  /** of a dual clutch */
  readonly coolDown: CoolDown | undefined;
  readonly adaptations: readonly AdaptationValue[];
  /** of a dual clutch */
  readonly pressures: readonly PressureFollows[];
  readonly ripples: readonly Ripple[];
  readonly quality: readonly ChannelQuality[];
  readonly coverage: Coverage;
  readonly findings: readonly Finding[];
  /** what the log could not show, and what to record */
  readonly notes: readonly string[];
}

/**
 * From a recording and a unit to findings.
 * @param library - other units, to say which fits when this one does not
 * @throws InputError `channels-missing`, `wrong-unit`
 */
export function analyseDrive(recording: Recording, unit: Unit, library: readonly Unit[] = []): Analysis {
  const { frame, fit: ratioFit } = fittingFrame(recording, unit, library);
  const limits = limitsOf(unit);
  const dropouts = findDropouts(recording, frame);
  const mask = dropoutMask(frame, dropouts);
  const shifts = findShifts(frame, mask);
  const quiet = within(
    frame,
    shifts.map((s) => [s.commandS - 0.1, s.endS + AFTER_SHIFT_S]),
  );
  const launches = findLaunches(frame, gearName);
  const limp = findLimp(frame, dropouts, mask);
  const heldOver = (slipLimit: Limit) =>
    analyseHeld(
      frame,
      shifts,
      mask,
      slipLimit,
      limp && (limp.byRunaway ? limp.startS + AFTER_RUNAWAY_S : limp.startS - BEFORE_LIMP_S),
      // a dual clutch drives on substitute values from then on, a converter unit with another pressure
      limp !== undefined && (limp.byPressure || (unit.kind !== "planetary" && limp.certain)),
    );
  const first = heldOver(limits.slipRpm);
  const ripples = findRipples(frame, first.steady);
  // what a loose sensor adds is no slip
  const noiseRpm = Math.max(0, ...ripples.map((r) => r.inputNoiseRpm));
  const { steady, ...held } =
    noiseRpm > 0 ? heldOver({ ...limits.slipRpm, value: limits.slipRpm.value + NOISE_REACH * noiseRpm }) : first;
  const converter =
    unit.kind === "planetary" ? analyseConverter(frame, mask, quiet, limits.residualSlipRpm.value) : undefined;
  // a launch swings by itself, and is judged by itself
  const launching = within(
    frame,
    launches.map((l) => [l.startS, l.endS + AFTER_SHIFT_S]),
  );
  const oscillation = analyseOscillation(
    frame,
    mask,
    quiet.map((q, i) => q | (launching[i] as number)),
    limits.shudderPeakToPeakRpm.value,
  );
  const parts = {
    held,
    shifts,
    converter,
    oscillation,
    dropouts,
    limp,
    engagements: findEngagements(frame),
    stallTests: findStallTests(frame),
    coastStops: findCoastStops(frame),
    immobile: findImmobile(frame),
    reach: analyseReach(frame),
    lapses: findLapses(recording, frame, limp?.startS),
    gearHunting: findGearHunting(frame),
    loadReversals: findLoadReversals(frame, quiet, mask),
    pull: analysePull(frame, mask),
    idle: analyseIdle(frame),
    neutral: analyseNeutral(frame),
    launches,
    heat: analyseHeat(frame),
    coolDown: analyseCoolDown(frame, limp?.startS),
    adaptations: readAdaptations(recording, unit),
    pressures: followPressures(recording, frame, limp?.startS),
    ripples,
  };
  const notes: string[] = [];
  if (!frame.torqueNm)
    notes.push(
      "No engine torque was recorded: load is judged by the pedal, and the torque at which slip begins is unknown.",
    );
  if (!frame.fluidC) notes.push("No fluid temperature was recorded: cold and hot driving cannot be told apart.");
  if (unit.kind === "planetary" && !converter)
    notes.push(
      "Converter clutch command or engine speed was not recorded: slip and shudder of the converter clutch cannot be judged.",
    );
  if (converter && oscillation.rateHz < VIBRATION_RATE_HZ) {
    notes.push(
      `At ${frame.rateHz.toFixed(0)} readings a second a shudder (3–20 Hz) cannot be told from other swings. Log fewer channels to get 20 or more.`,
    );
  } else if (unit.kind === "planetary" && converter && oscillation.highestHz === undefined) {
    notes.push(`At ${frame.rateHz.toFixed(0)} readings a second shudder (3–20 Hz) cannot be seen. Log fewer channels.`);
  } else if (converter && oscillation.highestHz !== undefined && oscillation.highestHz < 20) {
    notes.push(
      `At ${frame.rateHz.toFixed(0)} readings a second oscillation is judged up to ${oscillation.highestHz.toFixed(0)} Hz only.`,
    );
  }
  return {
    format: "gearsense-analysis",
    version: ANALYSIS_VERSION,
    unitId: unit.id,
    unitVersion: unit.version,
    durationS: recording.durationS,
    rateHz: frame.rateHz,
    ratioFit,
    loadSource: frame.loadSource,
    derived: frame.derived,
    gearSpans: gearSpans(frame.timeS, frame.gear),
    ...parts,
    quality: judgeQuality(recording, frame),
    coverage: analyseCoverage(unit, parts),
    findings: makeFindings(frame, parts),
    notes,
  };
}

/** 1 in any of some spans of time, which begin one after the other. */
function within({ timeS }: Frame, spans: readonly (readonly [startS: number, endS: number])[]): Uint8Array {
  const out = new Uint8Array(timeS.length);
  let from = 0;
  for (const [startS, endS] of spans) {
    while (from < out.length && (timeS[from] as number) < startS) from++;
    for (let i = from; i < out.length && (timeS[i] as number) <= endS; i++) out[i] = 1;
  }
  return out;
}

/** Slip of the commanded gear as a channel, for the trace. @throws InputError as `analyseDrive` */
export function slipChannel(
  recording: Recording,
  unit: Unit,
): { timeS: Float64Array; slipRpm: Float64Array; rateHz: number } {
  const frame = buildFrame(recording, unit);
  const mask = dropoutMask(frame, findDropouts(recording, frame));
  return { timeS: frame.timeS, slipRpm: heldSlipRpm(frame, findShifts(frame, mask), mask), rateHz: frame.rateHz };
}

function gearSpans(timeS: Float64Array, gear: Float64Array): GearSpan[] {
  const spans: { gear: number; startS: number; endS: number }[] = [];
  for (let i = 0; i < gear.length; i++) {
    const g = gear[i] as number;
    if (Number.isNaN(g)) continue;
    const last = spans.at(-1);
    if (last?.gear === g) last.endS = timeS[i] as number;
    else {
      if (last) last.endS = timeS[i] as number;
      spans.push({ gear: g, startS: timeS[i] as number, endS: timeS[i] as number });
    }
  }
  return spans;
}

const MIN_GOOD_S = 2;

/**
 * Which gears are good, bad or not exercised: a gear is good only when it held at the torque and temperature at which
 * the bad ones fail.
 */
export function gearOutcomes(analysis: Analysis): Record<string, GearOutcome> {
  const bad = new Set(
    analysis.findings.flatMap((f) =>
      f.kind === "slip" || f.kind === "wrong-gear"
        ? [f.subject.gear as string]
        : f.kind === "failed-shift"
          ? f.conditions.gears
          : [],
    ),
  );
  const slipping = analysis.held.gears.filter((g) => bad.has(g.gear));
  const onset = Math.min(...slipping.map((g) => g.lowestSlipTorqueNm ?? Number.POSITIVE_INFINITY));
  const outcomes: Record<string, GearOutcome> = {};
  for (const g of analysis.held.gears) {
    if (bad.has(g.gear)) outcomes[g.gear] = "bad";
    else {
      const hardEnough = !Number.isFinite(onset) || (g.cleanTorqueNm ?? 0) >= onset;
      outcomes[g.gear] = g.cleanSeconds >= MIN_GOOD_S && hardEnough && g.wrongSeconds < 1 ? "good" : "not-exercised";
    }
  }
  for (const gear of bad) outcomes[gear] = "bad";
  return outcomes;
}

const MIN_WRONG_S = 1;
/**
 * Each gear as it was driven, for reading the application chart: how hard a good gear was held, at which torque and
 * how hot a bad one failed. What a good gear clears is the chart's judgement, by the share that each element carries.
 */
export function gearObservations(analysis: Analysis): GearObservation[] {
  const outcomes = gearOutcomes(analysis);
  // a gear that a shift never reached was not held at all
  const never = Object.keys(outcomes)
    .filter((gear) => outcomes[gear] === "bad" && !analysis.held.gears.some((g) => g.gear === gear))
    .map((gear): GearObservation => {
      const failed = analysis.shifts.filter((s) => s.to === gear && !s.completed);
      const torques = failed.flatMap((s) => s.torqueNm ?? []).sort((a, b) => a - b);
      return { gear, outcome: "bad", torqueNm: torques[0], fluidC: failed.find((s) => s.fluidC !== undefined)?.fluidC };
    });
  const driven = analysis.held.gears.flatMap((g): GearObservation[] => {
    if (outcomes[g.gear] === "bad")
      return [
        {
          gear: g.gear,
          outcome: "bad",
          torqueNm: g.lowestSlipTorqueNm,
          nmPerKpa: g.lowestSlipNmPerKpa,
          fluidC: g.lowestSlipFluidC,
          slips: g.slipping.length > 0 && g.wrongSeconds < MIN_WRONG_S,
          comesAndGoes: (g.cleanTorqueNm ?? 0) > COMES_AND_GOES * (g.lowestSlipTorqueNm ?? Infinity),
        },
      ];
    const held = g.cleanSeconds >= MIN_GOOD_S && g.wrongSeconds < 1;
    return held ? [{ gear: g.gear, outcome: "good", torqueNm: g.cleanTorqueNm, nmPerKpa: g.cleanNmPerKpa }] : [];
  });
  return [...driven, ...never];
}

/** A gear that also held as much as it slipped at does not slip by torque alone. */
const COMES_AND_GOES = 1;

/** Gears that were commanded, with the gear that was obtained: another where that was steady, the same where it held. */
export function obtainedGears(analysis: Analysis): ObtainedGear[] {
  return analysis.held.gears.flatMap((g): ObtainedGear[] => {
    if (g.obtained !== undefined && g.wrongSeconds >= MIN_WRONG_S) return [{ commanded: g.gear, obtained: g.obtained }];
    return g.cleanSeconds >= MIN_GOOD_S ? [{ commanded: g.gear, obtained: g.gear }] : [];
  });
}
