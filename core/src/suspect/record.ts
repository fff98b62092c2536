import type { EntryBodies } from "../job/index.ts";
import type { Check } from "./faults/instances.ts";
import type { Option } from "./plan/next.ts";
import type { Ranking } from "./rank.ts";

/**
 * The timeline entry for the result of a check. By convention the first outcome of a check is the healthy one.
 * @throws Error when the check has no such outcome
 */
export function checkEntry(
  check: Pick<Check, "id" | "component" | "title" | "outcomes">,
  outcome: string,
  minutes: number | null,
  note: string,
  measured?: Pick<EntryBodies["check"], "values" | "weight">,
): EntryBodies["check"] {
  const at = check.outcomes.findIndex((o) => o.id === outcome);
  const found = check.outcomes[at];
  if (!found) throw new Error(`${check.id} has no outcome "${outcome}"`);
  return {
    checkId: check.id,
    component: check.component,
    title: check.title,
    outcome,
    outcomeLabel: found.label,
    abnormal: at > 0,
    minutes,
    note,
    ...measured,
  };
}

const ODDS_KEPT = 4;

/** What was chosen, from the options or from the comparison of the options. */
export type Chosen = Pick<
  EntryBodies["decision"],
  "repairId" | "title" | "expectedCost" | "cures" | "source" | "price" | "spread" | "seed"
>;

/** An option as it is chosen. */
export const chosenOption = (option: Option): Chosen => ({
  repairId: option.repair.id,
  title: option.repair.title,
  expectedCost: Math.round(option.expectedCost),
  cures: option.cures,
});

/** The timeline entry for a decision, with the odds and the model it was taken on. */
export function decisionEntry(
  ranking: Ranking,
  chosen: Chosen,
  reason: string,
  levelKnown: boolean,
): EntryBodies["decision"] {
  return {
    ...chosen,
    reason,
    modelVersion: ranking.modelVersion,
    odds: ranking.suspects.slice(0, ODDS_KEPT).map(({ title, probability }) => ({ title, probability })),
    levelKnown,
  };
}
