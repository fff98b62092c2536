import type { FeltMark } from "@gearsense/core/job";
import type { GearObservation, GearOutcome } from "@gearsense/core/unit";

export const marksAt = (marks: readonly FeltMark[], where: string): FeltMark[] =>
  marks.filter((m) => m.where === where);

/** Taps a mark: one outcome for each place and its conditions; the same tapped again goes away. */
export function mark(marks: readonly FeltMark[], tapped: FeltMark): FeltMark[] {
  const here = (m: FeltMark) =>
    m.where === tapped.where && m.load === tapped.load && m.temperature === tapped.temperature;
  const again = marks.some((m) => here(m) && m.outcome === tapped.outcome);
  const rest = marks.filter((m) => !here(m));
  return again ? rest : [...rest, tapped];
}

/** By gear: one that failed once is bad, whatever else it did. */
export function outcomesOf(seen: readonly GearObservation[]): Record<string, GearOutcome> {
  const out: Record<string, GearOutcome> = {};
  for (const o of seen) if (out[o.gear] !== "bad") out[o.gear] = o.outcome;
  return out;
}
