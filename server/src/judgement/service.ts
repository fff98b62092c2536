import type { ProofView, SuspectsView } from "@gearsense/contract";
import { compareDrives, gearObservations, gearOutcomes, obtainedGears } from "@gearsense/core/drive";
import {
  checksDone,
  collectEvidence,
  type Evidence,
  levelKnown,
  Planner,
  rankSuspects,
  SuspectModel,
} from "@gearsense/core/suspect";
import {
  explainObtained,
  type GearOutcome,
  type ObtainedGear,
  readObservations,
  type StuckExplanation,
  type Unit,
} from "@gearsense/core/unit";
import type { ShopScope } from "../db/shop-scope.ts";
import type { createJobService } from "../jobs/service.ts";
import type { Library } from "../library/load.ts";
import type { LogService } from "../logs/service.ts";

/** Bad wins over good, good over not exercised: what one drive shows the other may have missed. */
function mergeOutcomes(list: readonly Record<string, GearOutcome>[]): Record<string, GearOutcome> {
  const rank: Record<GearOutcome, number> = { "not-exercised": 0, good: 1, bad: 2 };
  const merged: Record<string, GearOutcome> = {};
  for (const outcomes of list) {
    for (const [gear, outcome] of Object.entries(outcomes)) {
      const known = merged[gear];
      if (!known || rank[outcome] > rank[known]) merged[gear] = outcome;
    }
  }
  return merged;
}

/** Only gears obtained against the command ask for something stuck. */
const stuckFrom = (unit: Unit, seen: readonly ObtainedGear[]): StuckExplanation[] =>
  seen.some((s) => s.commanded !== s.obtained) ? explainObtained(unit, seen) : [];

/** The odds as they stood before the newest entry that gave evidence. */
function before(
  model: SuspectModel,
  evidence: readonly Evidence[],
  order: readonly string[],
): Pick<SuspectsView, "previous" | "movedBy"> {
  const newest = order.findLast((id) => evidence.some((e) => e.entryId === id));
  if (!newest) return { previous: {}, movedBy: null };
  const p = model.posterior(evidence.filter((e) => e.entryId !== newest));
  const moved = evidence.filter((e) => e.entryId === newest);
  const label = moved.find((e) => e.abnormal)?.label ?? moved[0]?.label ?? "";
  return {
    previous: Object.fromEntries(model.faults.map((f, i) => [f.id, p[i] as number])),
    movedBy: { entryId: newest, label: moved.length > 1 ? `${label} and ${moved.length - 1} more` : label },
  };
}

/** Suspects, next checks and the proof: recomputed from the timeline each time, never stored as truth. */
export function createJudgementService(jobs: ReturnType<typeof createJobService>, logs: LogService, library: Library) {
  const models = new Map<string, SuspectModel>();
  const modelOf = (unit: Unit): SuspectModel => {
    const key = `${unit.id}@${unit.version}`;
    let model = models.get(key);
    if (!model) {
      if (models.size > 50) models.clear();
      model = new SuspectModel(unit, library.knowledge);
      models.set(key, model);
    }
    return model;
  };
  return (scope: ShopScope) => ({
    async suspects(jobId: string, hourlyRate: number): Promise<SuspectsView> {
      const { unit } = await jobs(scope).record(jobId);
      const { state, logs: analysed } = await logs(scope).analysed(jobId);
      const first = analysed.filter((l) => l.role === "before");
      const model = modelOf(unit);
      const evidence = collectEvidence(unit, state, first, library.knowledge.debris);
      const entries = await jobs(scope).entries(jobId);
      const outcomes = mergeOutcomes(first.map((l) => gearOutcomes(l.analysis)));
      return {
        ranking: rankSuspects(model, evidence),
        ...before(
          model,
          evidence,
          entries.map((e) => e.id),
        ),
        advice: new Planner(model, { hourlyRate }).advise(model.posterior(evidence), checksDone(unit, state)),
        evidence,
        chart: {
          outcomes,
          reading: readObservations(
            unit,
            first.flatMap((l) => gearObservations(l.analysis)),
          ),
          stuck: stuckFrom(
            unit,
            first.flatMap((l) => obtainedGears(l.analysis)),
          ),
        },
        levelKnown: levelKnown(unit, state),
      };
    },

    /** The newest log before the repair against the newest after it. */
    async proof(jobId: string): Promise<ProofView> {
      const { unit } = await jobs(scope).record(jobId);
      const { logs: analysed } = await logs(scope).analysed(jobId);
      const first = analysed.findLast((l) => l.role === "before");
      const second = analysed.findLast((l) => l.role === "after");
      const name = (l: typeof first) => (l ? { logId: l.logId, fileName: l.fileName } : null);
      const comparison = first && second ? compareDrives(unit, first.analysis, second.analysis) : null;
      return {
        before: name(first),
        after: name(second),
        comparison: comparison && {
          findings: [...comparison.findings],
          fresh: [...comparison.fresh] as never,
          sentence: comparison.sentence,
        },
      };
    },
  });
}

export type JudgementService = ReturnType<typeof createJudgementService>;
