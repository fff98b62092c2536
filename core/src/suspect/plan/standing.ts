import type { JobState } from "../../job/index.ts";
import type { Intrusiveness, Knowledge } from "../../knowledge/index.ts";
import type { Unit } from "../../unit/index.ts";
import { levelKnown } from "../evidence/collect.ts";
import { type Opened, openedBy } from "./price.ts";

/** Where the job stands: checks that were made, repairs that were done, what is open. */
export interface Standing {
  readonly done: ReadonlySet<string>;
  readonly tried: ReadonlySet<string>;
  readonly opened: Opened;
  /** repairs that are compared whatever the odds say */
  readonly asked?: ReadonlySet<string> | undefined;
}
export const FRESH: Standing = { done: new Set(), tried: new Set(), opened: 0 };

/** Quick checks of the first look that are a check by another name. */
const SAME_AS: Readonly<Record<string, string>> = {
  battery: "battery-rest",
  misfire: "misfire-count",
  mounts: "mount-pry",
  engagement: "engagement-watch",
};

/** Checks that need not be made again: recorded ones, and what the first look has shown for sure. */
export function checksDone(unit: Unit, state: JobState): Set<string> {
  const done = new Set(state.checks.map((c) => c.body.checkId));
  if (levelKnown(unit, state)) done.add("level");
  if (state.pan) done.add("pan");
  for (const { body } of state.observations) {
    const check = SAME_AS[body.rung];
    if (check && !body.skipped && body.sure !== "doubtful") done.add(check);
  }
  return done;
}

/** Where a job stands for the planner. What was opened for a check stays open until work is recorded. */
export function standingOf(unit: Unit, knowledge: Knowledge, state: JobState): Standing {
  const levels: Intrusiveness[] = state.pan ? ["pan down"] : [];
  for (const c of state.checks) {
    const kind = knowledge.checks.find((k) => k.id === c.body.checkId.split(":")[0]);
    if (kind) levels.push(kind.intrusiveness);
  }
  return {
    done: checksDone(unit, state),
    tried: new Set(state.tried.map((t) => t.body.repairId)),
    opened: state.work.length > 0 ? 0 : openedBy(knowledge, levels),
  };
}
