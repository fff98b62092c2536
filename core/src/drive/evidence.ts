import type { Unit } from "../unit/index.ts";
import type { AnalysedLog } from "./analysis.ts";
import type { DriveEvidence } from "./measure.ts";
import { MEASURES } from "./measures.ts";

/**
 * What one log says, absence included where it could have shown it: a gear held under the torque at which others slip, a
 * sensor steady in the gears where it reads.
 */
export function driveEvidence(unit: Unit, { logId, entryId, analysis }: AnalysedLog): DriveEvidence[] {
  const list: DriveEvidence[] = [];
  for (const m of MEASURES)
    m.evidence?.(unit, analysis, (table, key, subject, outcome, label, abnormal) =>
      list.push({ id: `${logId}:${table}:${key}`, table, subject, outcome, label, entryId, abnormal }),
    );
  return list;
}

/** What only all logs of a vehicle together say. */
export const evidenceTogether = (unit: Unit, logs: readonly AnalysedLog[]): DriveEvidence[] =>
  MEASURES.flatMap((m) => m.together?.(unit, logs) ?? []);
