import type { GearObservation, GearOutcome, ObtainedGear } from "../unit/index.ts";
import type { Analysis } from "./analysis.ts";

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
