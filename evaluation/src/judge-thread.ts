import { judgeCase } from "./judge.ts";
import { judgeJob } from "./judge-job.ts";
import type { ThreadTask } from "./run.ts";

/** Entry of the threads; piscina calls the default export. */
export default (task: ThreadTask) =>
  "job" in task
    ? judgeJob(task.job, task.unit, task.library, task.knowledge)
    : judgeCase(task.spec, task.unit, task.library);
