import { askedFor, type Decision, decide, type Horizon, whyNotLeave } from "@gearsense/core/decide";
import type { Wish } from "@gearsense/core/job";
import { believe, type Evidence, type Knowledge, type Money, Planner, SuspectModel } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import * as Comlink from "comlink";

/** The comparison, and the parts that count only where there are some. */
export interface Compared {
  readonly decision: Decision;
  readonly asked: ReturnType<typeof askedFor>;
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
    });
    const { opened, vehicleValue, wish, horizon, seed } = task;
    const notLeft = whyNotLeave(task.evidence);
    const found = decide({ space, opened, vehicleValue, wish, horizon, notLeft, seed }, undefined, (share) => {
      onProgress(share);
      return true;
    });
    if (!found) throw new Error("cancelled");
    return { decision: found, asked: askedFor(space) };
  },
};
export type DecideWorker = typeof worker;
Comlink.expose(worker);
