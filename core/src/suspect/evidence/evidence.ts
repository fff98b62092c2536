import type { DriveEvidence } from "../../drive/index.ts";
import type { Subject } from "../faults/instances.ts";

/** One thing that was seen. `table` names a likelihood table, or is `check` or `observation` with the id of the check or rung as `checkId`. */
export interface Evidence extends DriveEvidence {
  readonly checkId?: string | undefined;
  readonly subject: Subject;
  /** 0…1: how far it can be believed; absent: wholly. What is not believed is as likely under every fault */
  readonly weight?: number | undefined;
  /** repairs that had been done, without a cure, when it was seen: it speaks of what was left then. Absent: none */
  readonly afterRepairs?: number | undefined;
  /** another drive of this vehicle that showed the contrary: fault that comes and goes, or other conditions */
  readonly butIn?: string | undefined;
}

/** Repairs that had been done when it was seen. */
export const repairsDone = (e: Pick<Evidence, "afterRepairs">): number => e.afterRepairs ?? 0;

/** What it is about: a complaint has several sides, the rest is about one thing. */
export const aboutOf = (e: Evidence): string =>
  e.table === "symptom" ? `symptom|${e.outcome}` : `${e.table}|${e.checkId ?? ""}|${JSON.stringify(e.subject)}`;

/** What still holds of what was seen: of one thing the newest, and nothing of a part that was repaired since. */
export function stillHolding(evidence: readonly Evidence[]): Evidence[] {
  const newest = new Map<string, Evidence>();
  for (const e of evidence) {
    const known = newest.get(aboutOf(e));
    if (!known || repairsDone(e) >= repairsDone(known)) newest.set(aboutOf(e), e);
  }
  const tried = evidence.filter((e) => e.table === "tried");
  return [...newest.values()].filter(
    (e) =>
      e.table === "tried" ||
      tried.every((t) => t.subject.component !== e.subject.component || repairsDone(t) < repairsDone(e)),
  );
}
