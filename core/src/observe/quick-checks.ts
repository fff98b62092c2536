import type { JobState, Symptom } from "../job/index.ts";
import type { Rung } from "../knowledge/index.ts";
import type { Unit } from "../unit/index.ts";

export interface QuickCheckStep {
  readonly rung: Rung;
  /** belongs to the complaint, or to every one */
  readonly relevant: boolean;
  readonly reason: string;
}

const WORDS: Readonly<Record<Symptom["kind"], string>> = {
  slip: "slip",
  harsh: "a harsh shift",
  shudder: "shudder",
  limp: "limp mode",
  "no-drive": "no drive",
  late: "late engagement",
  noise: "noise",
  leak: "a leak",
  "warning-light": "a warning light",
};

/** The rungs for a unit: those of the complaint first, quickest first; the others after them. */
export function quickChecksFor(unit: Unit, symptoms: readonly Symptom[], rungs: readonly Rung[]): QuickCheckStep[] {
  const kinds = new Set(symptoms.map((s) => s.kind));
  return rungs
    .filter((r) => !r.kinds || r.kinds.includes(unit.kind))
    .map((rung): QuickCheckStep => {
      const hit = rung.symptoms?.find((s) => kinds.has(s));
      if (!rung.symptoms) return { rung, relevant: true, reason: "in every job" };
      return hit
        ? { rung, relevant: true, reason: `the complaint is ${WORDS[hit]}` }
        : { rung, relevant: false, reason: "not of this complaint" };
    })
    .sort((a, b) => Number(b.relevant) - Number(a.relevant) || a.rung.minutes - b.rung.minutes);
}

/** Minutes that were spent at the first look, and what was left out with what it leaves open. */
export function firstLookSoFar(
  state: JobState,
  steps: readonly QuickCheckStep[],
): { minutes: number; done: number; open: { title: string; reason: string; leavesOpen: string }[] } {
  const known = new Map(state.observations.map((o) => [o.body.rung, o.body]));
  let minutes = state.level?.body.minutes ?? 0;
  for (const o of state.observations) minutes += o.body.minutes ?? 0;
  const open = steps.flatMap(({ rung }) => {
    const seen = known.get(rung.id);
    return seen?.skipped ? [{ title: rung.title, reason: seen.skipped, leavesOpen: rung.leavesOpen }] : [];
  });
  return { minutes, done: steps.filter((s) => known.has(s.rung.id)).length, open };
}
