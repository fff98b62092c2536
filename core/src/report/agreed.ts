import type { EntryBodies, JobState } from "../job/index.ts";
import { sumsOf } from "../suspect/index.ts";

/** The option that a decision chose, as estimates name it. */
export const decidedOption = ({ repairId, source }: Pick<EntryBodies["decision"], "repairId" | "source">): string =>
  source ? `${repairId}@${source}` : repairId;

export interface Agreed {
  /** without tax, money */
  readonly net: number;
  readonly withTax: number | undefined;
  /** from the lines of an estimate, or as it was computed when it was decided */
  readonly from: "estimate" | "decision";
}

/** What the decided option costs: the lines of its estimate, or the price that it was decided at. @returns undefined while nothing is decided, or at no price */
export function agreedPrice(state: Pick<JobState, "decision" | "estimates">): Agreed | undefined {
  const decision = state.decision?.body;
  if (!decision) return undefined;
  const estimate = state.estimates.find((e) => e.body.optionId === decidedOption(decision))?.body;
  if (estimate) {
    const { labourCost, partsCost } = sumsOf(estimate.lines);
    const net = labourCost + partsCost;
    return { net, withTax: net * (1 + estimate.taxPercent / 100), from: "estimate" };
  }
  return decision.price && { net: decision.price[0], withTax: undefined, from: "decision" };
}
