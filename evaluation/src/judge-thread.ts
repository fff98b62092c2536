import { recordVehicle } from "./drive-vehicle.ts";
import { judgeCase } from "./judge.ts";
import { judgeJob } from "./judge-job.ts";
import { scoreLabelled } from "./labelled.ts";
import { scoreProofs } from "./proofs.ts";
import type { ThreadTask } from "./run.ts";

/** Entry of the threads; piscina calls the default export. */
export default (task: ThreadTask) => {
  const { unit, library } = task;
  if ("job" in task) return judgeJob(task.job, unit, library, task.knowledge);
  if ("labelled" in task) return scoreLabelled(task.labelled, library, task.knowledge);
  if ("proof" in task) return scoreProofs(task.proof);
  if ("specimen" in task) return recordVehicle(task.specimen, unit, library, task.knowledge);
  return judgeCase(task.spec, unit, library);
};
