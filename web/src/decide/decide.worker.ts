import { type Decision, decide } from "@gearsense/core/decide";
import type { Wish } from "@gearsense/core/job";
import { believe, type Evidence, type Knowledge, Planner, SuspectModel } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import * as Comlink from "comlink";

/** What the comparison needs. */
export interface DecideTask {
  readonly unit: Unit;
  readonly knowledge: Knowledge;
  readonly evidence: readonly Evidence[];
  readonly done: readonly string[];
  readonly tried: readonly string[];
  readonly opened: number;
  readonly hourlyRate: number;
  readonly vehicleValue: number | null;
  readonly wish: Wish | undefined;
  readonly seed: number;
}

const worker = {
  /** Draws the vehicles. @param onProgress - 0…1 */
  compare(task: DecideTask, onProgress: (share: number) => void): Decision {
    const model = new SuspectModel(task.unit, task.knowledge);
    const belief = believe(model, task.evidence);
    const space = new Planner(model, { hourlyRate: task.hourlyRate }).space(belief, {
      done: new Set(task.done),
      tried: new Set(task.tried),
      opened: task.opened,
    });
    const { opened, vehicleValue, wish, seed } = task;
    const found = decide({ space, opened, vehicleValue, wish, seed }, undefined, (share) => {
      onProgress(share);
      return true;
    });
    if (!found) throw new Error("cancelled");
    return found;
  },
};
export type DecideWorker = typeof worker;
Comlink.expose(worker);
