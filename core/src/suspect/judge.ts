import { seededRandom } from "../chance/index.ts";
import { believe } from "./belief/believe.ts";
import type { SuspectModel } from "./belief/model.ts";
import type { Evidence } from "./evidence/evidence.ts";
import { type EvidenceProblem, siftEvidence } from "./evidence/sift.ts";
import { type ProposedChannel, proposeChannels } from "./plan/channels.ts";
import { type Advice, adviseIn, Planner } from "./plan/next.ts";
import { type Order, sampledCost } from "./plan/orders.ts";
import type { Money } from "./plan/price.ts";
import type { Standing } from "./plan/standing.ts";
import { type Ranking, rankSuspects } from "./rank.ts";

/** What the ways of working that practitioners argue about cost from here on average, on the same drawn vehicles. */
export interface OrderCosts {
  readonly expectedCost: number;
  readonly cheapestFirst: number;
  readonly likeliestFirst: number;
  readonly samples: number;
}

export interface Judgement {
  readonly ranking: Ranking;
  readonly advice: Advice;
  /** that was counted */
  readonly evidence: readonly Evidence[];
  readonly problems: readonly EvidenceProblem[];
  /** odds without the newest entry that gave evidence, by fault id; empty when there is none before it */
  readonly previous: Readonly<Record<string, number>>;
  /** what is best recorded on the next drive */
  readonly channels: readonly ProposedChannel[];
}

const SAMPLES = 40;
/** The same vehicles each time, so that figures stand still. */
const SEED = 20261;

/**
 * From all that is known to suspects, next checks and repairs: sifts the evidence, computes the posterior, plans.
 * @param newest - id of the newest entry that gave evidence
 */
export function judge(
  model: SuspectModel,
  evidence: readonly Evidence[],
  standing: Standing,
  money: Money,
  newest?: string,
): Judgement {
  const { used, problems } = siftEvidence(model, evidence);
  const belief = believe(model, used);
  const space = new Planner(model, money).space(belief, standing);
  const advice = adviseIn(space, space.start, standing.opened);
  return {
    ranking: rankSuspects(model, used, belief),
    advice,
    evidence: used,
    problems,
    channels: proposeChannels(model, belief.marginals()),
    previous: newest === undefined ? {} : marginalsWithout(model, used, newest),
  };
}

/** Compares the ways of working by following each with the same vehicles, drawn from the odds. */
export function compareOrders(
  model: SuspectModel,
  evidence: readonly Evidence[],
  standing: Standing,
  money: Money,
): OrderCosts {
  const belief = believe(model, siftEvidence(model, evidence).used);
  const space = new Planner(model, money).space(belief, standing);
  const cost = (order: Order) => sampledCost(space, order, standing.opened, SAMPLES, seededRandom(SEED)).mean;
  return {
    expectedCost: cost("expected-cost"),
    cheapestFirst: cost("cheapest-first"),
    likeliestFirst: cost("likeliest-first"),
    samples: SAMPLES,
  };
}

function marginalsWithout(model: SuspectModel, evidence: readonly Evidence[], entryId: string): Record<string, number> {
  const marginals = believe(
    model,
    evidence.filter((e) => e.entryId !== entryId),
  ).marginals();
  return Object.fromEntries(model.faults.map((f, i) => [f.id, marginals[i] as number]));
}
