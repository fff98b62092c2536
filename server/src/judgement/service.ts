import type { CatalogueView, ProofView, SuspectsView } from "@gearsense/contract";
import {
  compareDrives,
  feltSentence,
  gearObservations,
  gearOutcomes,
  hotDriving,
  obtainedGears,
} from "@gearsense/core/drive";
import { feltObservations, ratioObservations } from "@gearsense/core/observe";
import { feltOf } from "@gearsense/core/report";
import {
  collectEvidence,
  drivesByRepairs,
  type Evidence,
  fittedEvidence,
  generateChecks,
  generateRepairs,
  type Judgement,
  levelKnown,
  mileageEvidence,
  moneyOf,
  namedFactors,
  type OrderCosts,
  ownFactors,
  rowsFor,
  standingOf,
  stillHolding,
} from "@gearsense/core/suspect";
import {
  explainObtained,
  type GearOutcome,
  type ObtainedGear,
  readObservations,
  type StuckExplanation,
  type Unit,
} from "@gearsense/core/unit";
import { circuitFacts, readCircuit } from "@gearsense/core/wiring";
import type { ShopScope } from "../db/shop-scope.ts";
import type { createJobService } from "../jobs/service.ts";
import type { Library } from "../library/load.ts";
import { provedBy } from "../logs/proved-by.ts";
import type { LogService } from "../logs/service.ts";
import { pricedFor } from "../prices/priced.ts";
import { createPriceStore } from "../prices/store.ts";
import type { JudgeTask } from "./judge-thread.ts";

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

/** The newest entry that gave evidence, in words. */
function movedBy(evidence: readonly Evidence[], order: readonly string[]): SuspectsView["movedBy"] {
  const newest = order.findLast((id) => evidence.some((e) => e.entryId === id));
  if (!newest) return null;
  const moved = evidence.filter((e) => e.entryId === newest);
  const label = moved.find((e) => e.abnormal)?.label ?? moved[0]?.label ?? "";
  return { entryId: newest, label: moved.length > 1 ? `${label} and ${moved.length - 1} more` : label };
}

/** Judges in a thread, so that a plan never holds up other requests. */
export type Judge = (task: JudgeTask, signal?: AbortSignal) => Promise<Judgement>;

export type CompareOrders = (task: JudgeTask, signal?: AbortSignal) => Promise<OrderCosts>;

/** What of the shop itself the odds and the advice depend on. */
export interface Judging {
  readonly hourlyRate: number;
  /** whether its own proved jobs move the odds */
  readonly ownOdds: boolean;
}

/** Suspects, next checks and the proof: recomputed from the timeline, never stored as truth. */
export function createJudgementService(
  jobs: ReturnType<typeof createJobService>,
  logs: LogService,
  library: Library,
  judge: Judge,
  compare: CompareOrders,
) {
  /** What a job is judged by, and what stands beside it. */
  const taskOf = async (scope: ShopScope, jobId: string, { hourlyRate, ownOdds }: Judging, signal?: AbortSignal) => {
    const record = await jobs(scope).record(jobId);
    const { unit, odometerKm } = record;
    const { state, logs: analysed } = await logs(scope).analysed(jobId, signal);
    const collected = [
      ...collectEvidence(unit, state, analysed, library.knowledge.debris),
      ...(state.intake ? mileageEvidence(odometerKm, state.intake.id) : []),
      ...(state.intake ? fittedEvidence(await jobs(scope).earlier(record), state.intake.id) : []),
    ];
    const order = (await jobs(scope).entries(jobId)).map((e) => e.id);
    const moved = movedBy(collected, order);
    const standing = standingOf(unit, library.knowledge, state);
    const own = ownOdds ? await jobs(scope).ownJobs(jobId) : undefined;
    const factors = own && own.jobs > 0 ? ownFactors(own) : undefined;
    const task: JudgeTask = {
      unit,
      prices: rowsFor((await createPriceStore(scope).prices()).prices, unit.id),
      evidence: collected,
      done: [...standing.done],
      tried: [...standing.tried],
      opened: standing.opened,
      money: moneyOf(state, hourlyRate),
      newest: moved?.entryId,
      factors: factors?.map((f) => [f.classId, f.factor] as const),
    };
    // what the vehicle shows now: of drives before a repair nobody knows what that has changed
    const drives = drivesByRepairs(state, analysed).findLast((of) => of.length > 0) ?? [];
    // what was felt before a repair nobody has felt since
    const since = Math.max(0, ...state.triedSince);
    const byHand = [
      ...feltObservations(
        unit,
        state.felt.filter((e) => e.seq > since).map((e) => e.body),
      ),
      ...ratioObservations(
        unit,
        state.codes.filter((e) => e.seq > since && e.body.triage !== "earlier-work").map((e) => e.body),
      ),
    ];
    const ownOddsView = own && factors ? { jobs: own.jobs, factors: namedFactors(library.knowledge, factors) } : null;
    return { task, unit, state, drives, byHand, moved, own: ownOddsView };
  };
  return (scope: ShopScope) => ({
    /** What this and two other ways of working would cost from here. */
    async orders(jobId: string, by: Judging, signal?: AbortSignal): Promise<OrderCosts> {
      return compare((await taskOf(scope, jobId, by, signal)).task, signal);
    },

    async suspects(jobId: string, by: Judging, signal?: AbortSignal): Promise<SuspectsView> {
      const { task, unit, state, drives, byHand, moved, own } = await taskOf(scope, jobId, by, signal);
      const { ranking, advice, evidence, problems, previous, channels } = await judge(task, signal);
      const { known, measured } = circuitFacts(unit, stillHolding(evidence));
      return {
        ranking,
        previous,
        own,
        channels,
        movedBy: moved,
        advice,
        evidence: [...evidence],
        problems: [...problems],
        circuit: readCircuit(unit, known, measured) ?? null,
        chart: {
          outcomes: mergeOutcomes([
            ...drives.map((l) => gearOutcomes(l.analysis)),
            ...byHand.map((o) => ({ [o.gear]: o.outcome })),
          ]),
          reading: readObservations(unit, [...drives.flatMap((l) => gearObservations(l.analysis)), ...byHand]),
          stuck: stuckFrom(
            unit,
            drives.flatMap((l) => obtainedGears(l.analysis)),
          ),
        },
        levelKnown: levelKnown(unit, state),
      };
    },

    /** Every check and repair that the job's unit can have. */
    async catalogue(jobId: string): Promise<CatalogueView> {
      const { unit } = await jobs(scope).record(jobId);
      return {
        checks: generateChecks(unit, library.knowledge),
        repairs: generateRepairs(unit, await pricedFor(scope, library.knowledge, unit.id)),
      };
    },

    /** All drives before the repair against all since, and whether the complaint's own conditions were driven. */
    async proof(jobId: string, signal?: AbortSignal): Promise<ProofView> {
      // of a job that this shop does not have there is no proof, not an empty one
      const { unit } = await jobs(scope).record(jobId);
      const { state, logs: analysed } = await logs(scope).analysed(jobId, signal);
      const { before, after } = provedBy(state, analysed);
      const parts = (state.decision?.body.repairId ?? "").split("+");
      const fluid = generateRepairs(unit, library.knowledge).some(
        (r) => parts.includes(r.id) && r.option === "fluid service",
      );
      const names = (list: typeof before) => list.map((l) => ({ logId: l.logId, fileName: l.fileName }));
      const felt = feltOf(state);
      const comparison =
        before.length > 0 && after.length > 0
          ? compareDrives(
              before.map((l) => l.analysis),
              after.map((l) => l.analysis),
              state.intake?.body.symptoms ?? [],
            )
          : null;
      return {
        before: names(before),
        after: names(after),
        comparison: comparison && {
          findings: [...comparison.findings],
          fresh: [...comparison.fresh] as never,
          complaintNotDriven: [...comparison.complaintNotDriven],
          sentence: comparison.sentence,
        },
        hotDriving: fluid
          ? hotDriving(
              unit,
              after.map((l) => l.analysis),
            )
          : null,
        felt,
        feltSentence: feltSentence(felt),
      };
    },
  });
}

export type JudgementService = ReturnType<typeof createJudgementService>;
