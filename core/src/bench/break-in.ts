import type { AnalysedLog } from "../drive/index.ts";
import type { EntryOf, JobState } from "../job/index.ts";
import type { Unit } from "../unit/index.ts";
import { aftercareOf } from "./outcome.ts";

/** Fresh linings are not to get hotter, °C. */
export const BREAK_IN_HOTTEST_C = 110;
/** Longer at full pedal on one drive is no slip of the foot, s. */
export const BREAK_IN_FULL_PEDAL_S = 2;

/** One drive since the build. */
export interface BreakInDrive {
  readonly logId: string;
  readonly km: number;
  readonly fullPedalS: number | undefined;
  readonly hottestC: number | undefined;
  /** what was too much for fresh linings */
  readonly tooMuch: readonly ("pedal" | "heat")[];
}

/** How far a build is run in. */
export interface BreakIn {
  readonly wantedKm: number;
  readonly drivenKm: number;
  /** logs: all of it was recorded; odometer: what is typed is further */
  readonly from: "logs" | "odometer";
  readonly drives: readonly BreakInDrive[];
  /** in which of the gears nothing was driven yet */
  readonly gearsMissing: readonly string[];
  readonly stage: "gentle" | "inspect" | "normal" | "trouble";
  readonly inspection: EntryOf<"break-in"> | undefined;
}

const OVER_S = 1;

/**
 * Counts the break-in of the newest build. @returns undefined when no fresh linings went in
 * @param logs - of the job; those since the build count
 */
export function breakInOf(
  unit: Unit,
  state: Pick<JobState, "bench" | "logs" | "breakIns">,
  odometerKm: number,
  logs: readonly AnalysedLog[],
): BreakIn | undefined {
  const { breakInKm } = aftercareOf(unit, state);
  if (breakInKm === undefined) return undefined;
  const builtAt = Math.max(...state.bench.filter((e) => e.body.place.startsWith("pack-in:")).map((e) => e.seq));
  const since = logs.filter((l) => (state.logs.find((e) => e.body.logId === l.logId)?.seq ?? 0) > builtAt);
  const drives = since.map(({ logId, analysis: { road, heat } }): BreakInDrive => {
    const hottestC = heat?.highestC;
    return {
      logId,
      km: road.km,
      fullPedalS: road.fullPedalS,
      hottestC,
      tooMuch: [
        ...((road.fullPedalS ?? 0) > BREAK_IN_FULL_PEDAL_S ? (["pedal"] as const) : []),
        ...((hottestC ?? 0) > BREAK_IN_HOTTEST_C ? (["heat"] as const) : []),
      ],
    };
  });
  const entries = state.breakIns.filter((e) => e.seq > builtAt);
  const byLogs = drives.reduce((sum, d) => sum + d.km, 0);
  const byOdometer = Math.max(0, ...entries.map((e) => e.body.odometerKm - odometerKm));
  const drivenKm = Math.max(byLogs, byOdometer);
  const inspection = entries.findLast((e) => e.body.inspected !== null);
  const driven = new Set(
    since.flatMap((l) =>
      l.analysis.coverage.gears.filter((g) => g.seconds.reduce((a, b) => a + b, 0) >= OVER_S).map((g) => g.gear),
    ),
  );
  const seen = inspection?.body.inspected;
  const sound = seen && seen.level === "ok" && !seen.leaks && !seen.metal;
  return {
    wantedKm: breakInKm,
    drivenKm,
    from: byOdometer > byLogs ? "odometer" : "logs",
    drives,
    gearsMissing: unit.gears.filter((g) => g.ratio > 0 && !driven.has(g.name)).map((g) => g.name),
    stage: drivenKm < breakInKm ? "gentle" : !seen ? "inspect" : sound ? "normal" : "trouble",
    inspection,
  };
}
