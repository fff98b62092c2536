import { believe } from "./believe.ts";
import type { Evidence } from "./evidence.ts";
import type { SuspectModel } from "./model.ts";
import { type Advice, adviseIn, Planner } from "./next.ts";
import { sampledCost } from "./orders.ts";
import { type Ranking, rankSuspects } from "./rank.ts";
import { type EvidenceProblem, siftEvidence } from "./sift.ts";
import type { Money } from "./space.ts";
import type { Standing } from "./standing.ts";

/** What the ways of working that practitioners argue about would cost from here, in the mean. */
export interface OrderCosts {
  readonly expectedCost: number;
  readonly cheapestFirst: number;
  readonly likeliestFirst: number;
  /** vehicles that the last two were sampled with */
  readonly samples: number;
}

export interface Judgement {
  readonly ranking: Ranking;
  readonly advice: Advice;
  readonly orders: OrderCosts | undefined;
  /** that was counted */
  readonly evidence: readonly Evidence[];
  readonly problems: readonly EvidenceProblem[];
  /** odds without the newest entry that gave evidence, by fault id; empty when there is none before it */
  readonly previous: Readonly<Record<string, number>>;
}

const SAMPLES = 120;

/**
 * From all that is known to suspects, next checks and repairs: sifts the evidence, computes the posterior, plans.
 * @param newest - id of the newest entry that gave evidence
 * @param random - 0…1, for sampling the other orders; absent: they are left out
 */
export function judge(
  model: SuspectModel,
  evidence: readonly Evidence[],
  standing: Standing,
  money: Money,
  newest?: string,
  random?: () => number,
): Judgement {
  const { used, problems } = siftEvidence(model, evidence);
  const belief = believe(model, used);
  const space = new Planner(model, money).space(belief, standing);
  const advice = adviseIn(space, space.start, standing.opened);
  const [check] = advice.checks;
  const [option] = advice.options;
  const ours = advice.act === "check" && check ? check.expectedCost : (option?.expectedCost ?? space.lastResort);
  return {
    ranking: rankSuspects(model, used, belief),
    advice,
    orders: random && {
      expectedCost: ours,
      cheapestFirst: sampledCost(space, "cheapest-first", standing.opened, SAMPLES, random).mean,
      likeliestFirst: sampledCost(space, "likeliest-first", standing.opened, SAMPLES, random).mean,
      samples: SAMPLES,
    },
    evidence: used,
    problems,
    previous: newest === undefined ? {} : marginalsWithout(model, used, newest),
  };
}

function marginalsWithout(model: SuspectModel, evidence: readonly Evidence[], entryId: string): Record<string, number> {
  const marginals = believe(
    model,
    evidence.filter((e) => e.entryId !== entryId),
  ).marginals();
  return Object.fromEntries(model.faults.map((f, i) => [f.id, marginals[i] as number]));
}
