import { type Analysis, analyseDrive } from "@gearsense/core/drive";
import { buildRecording, openLog, proposeMapping } from "@gearsense/core/log";
import { fromLogs, generateFaults, type Knowledge } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import {
  exportLog,
  learnedChannels,
  PLAIN_STYLE,
  simulateDrive,
  type Truth,
  usualChannels,
} from "@gearsense/simulator";
import type { JobCase } from "./jobs.ts";
import { type DriveRecord, recordOf } from "./likelihoods.ts";
import { codesRead } from "./workshop.ts";

const BEFORE_S = 300;
/** A drive of a few minutes stands for the weeks in which the controller learned with the fault. */
const LEARNING = 8;

/** What the controller has learned by the time the vehicle comes in; a fault of the learning itself has just begun. */
export function learnedBefore(spec: JobCase, unit: Unit): Record<string, number> | undefined {
  if (spec.faults.some((f) => f.kind === "adaptation-off")) return undefined;
  return simulateDrive({
    unit,
    seed: spec.seed + 7,
    vehicleSeed: spec.vehicleSeed,
    world: spec.world,
    durationS: BEFORE_S,
    profile: "mixed",
    rateHz: 1,
    faults: spec.faults.map(({ onsetS: _, ...f }) => f),
    learning: LEARNING,
  }).adaptations.after;
}

/** Cold and where the complaint is sought: the least that is driven. */
const LEAST_DRIVES = 2;

/** Makes the drives of a vehicle until something shows, and analyses each log from its file. */
export function driveVehicle(
  spec: JobCase,
  unit: Unit,
  library: readonly Unit[],
): { readonly truths: Truth[]; readonly analyses: Analysis[] } {
  const truths: Truth[] = [];
  const analyses: Analysis[] = [];
  const adaptations = learnedBefore(spec, unit);
  const channels = [...usualChannels(unit), ...learnedChannels(unit)];
  const shows = () =>
    truths.some((t) => t.codes.length > 0) || analyses.some((a) => a.findings.some((f) => f.severity === "fault"));
  for (const [i, drive] of spec.drives.entries()) {
    if (i >= LEAST_DRIVES && shows()) break;
    const { columns, truth } = simulateDrive({
      unit,
      seed: spec.seed + i,
      vehicleSeed: spec.vehicleSeed,
      world: spec.world,
      profile: drive.phases,
      startFluidC: drive.startFluidC,
      durationS: drive.durationS,
      rateHz: spec.rateHz,
      faults: spec.faults,
      channels,
      adaptations,
    });
    const { table } = openLog(exportLog(columns, PLAIN_STYLE), {});
    truths.push(truth);
    analyses.push(analyseDrive(buildRecording(table, proposeMapping(table, unit)), unit, library));
  }
  return { truths, analyses };
}

/** Codes set on any of the drives. */
export const codesOf = (truths: readonly Truth[]): string[] => [
  ...new Set(truths.flatMap((t) => t.codes.map((c) => c.code))),
];

/** Codes that are read when the vehicle comes in: nobody has cleared what some other day left. */
export const codesFound = (truths: readonly Truth[]): string[] => [
  ...new Set([...codesOf(truths), ...truths.flatMap((t) => t.strayCodes)]),
];

/** What the drives of a vehicle with one fault, or none, show of it. */
export function recordVehicle(spec: JobCase, unit: Unit, library: readonly Unit[], knowledge: Knowledge): DriveRecord {
  const { truths, analyses } = driveVehicle(spec, unit, library);
  const logs = analyses.map((analysis, i) => ({ logId: `log-${i}`, entryId: `log-${i}`, analysis }));
  const fault = generateFaults(unit, knowledge).find((f) => f.id === spec.faultIds[0]);
  return recordOf(unit, fault, [...fromLogs(unit, logs), ...codesRead(unit, codesFound(truths))]);
}
