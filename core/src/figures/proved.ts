import type { Knowledge } from "../knowledge/index.ts";
import { expectedIn, foundBy, type ProvedJob } from "../suspect/index.ts";
import type { Unit } from "../unit/index.ts";
import { type JobOfShop, visitsOf } from "./visits.ts";

/**
 * What a job has shown to be wrong with its unit: of each stay that ended with a repair that was proved and has not come back. What was only
 * handed back, not proved, or came back says nothing.
 */
export function provedBy(unit: Unit, knowledge: Knowledge, job: JobOfShop): ProvedJob[] {
  return visitsOf(job).flatMap(({ decision, state, cameBack }) => {
    if (!decision || !state.proof || state.work.length === 0 || cameBack) return [];
    const { repairId, odds } = decision.body;
    const found = foundBy(unit, knowledge, repairId, odds);
    return Object.keys(found).length === 0 ? [] : [{ found, expected: expectedIn(unit, knowledge) }];
  });
}
