import {
  askedFor,
  choicesOf,
  type Decision,
  decide,
  type Horizon,
  othersOf,
  whyNotLeave,
} from "@gearsense/core/decide";
import type { Wish } from "@gearsense/core/job";
import { believe, type Evidence, type Knowledge, type Money, Planner, SuspectModel } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import * as Comlink from "comlink";

/** The comparison, the parts that count only where there are some, and the repairs that can be asked for besides. */
export interface Compared {
  readonly decision: Decision;
  readonly asked: ReturnType<typeof askedFor>;
  readonly others: ReturnType<typeof othersOf>;
}

/** What the comparison needs. */
export interface DecideTask {
  readonly unit: Unit;
  readonly knowledge: Knowledge;
  readonly evidence: readonly Evidence[];
  readonly done: readonly string[];
  readonly tried: readonly string[];
  readonly opened: number;
  readonly money: Money;
  readonly horizon: Horizon;
  readonly vehicleValue: number | null;
  readonly wish: Wish | undefined;
  /** repairs to be among the options whatever the odds say */
  readonly also: readonly string[];
  readonly seed: number;
}

const worker = {
  /** Draws the vehicles. @param onProgress - 0…1 */
  compare(task: DecideTask, onProgress: (share: number) => void): Compared {
    const model = new SuspectModel(task.unit, task.knowledge);
    const belief = believe(model, task.evidence);
    const space = new Planner(model, task.money).space(belief, {
      done: new Set(task.done),
      tried: new Set(task.tried),
      opened: task.opened,
      asked: new Set(task.also),
    });
    const { opened, vehicleValue, wish, horizon, seed } = task;
    const choices = choicesOf(space, vehicleValue);
    const notLeft = whyNotLeave(task.evidence);
    const found = decide({ space, opened, vehicleValue, wish, horizon, notLeft, seed }, choices, (share) => {
      onProgress(share);
      return true;
    });
    if (!found) throw new Error("cancelled");
    return { decision: found, asked: askedFor(space), others: othersOf(space, choices) };
  },
};
export type DecideWorker = typeof worker;
Comlink.expose(worker);
