import { seededRandom } from "@gearsense/core/chance";
import { type Evidence, type Judgement, judge, SuspectModel } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import { loadLibrary } from "../library/load.ts";

/** What a thread is asked. */
export interface JudgeTask {
  readonly unit: Unit;
  readonly evidence: readonly Evidence[];
  readonly done: readonly string[];
  readonly tried: readonly string[];
  readonly opened: number;
  readonly hourlyRate: number;
  readonly newest: string | undefined;
}

const { knowledge } = loadLibrary();
const models = new Map<string, SuspectModel>();
const MOST_MODELS = 20;

function modelOf(unit: Unit): SuspectModel {
  const key = JSON.stringify(unit);
  let model = models.get(key);
  if (!model) {
    if (models.size >= MOST_MODELS) models.clear();
    model = new SuspectModel(unit, knowledge);
    models.set(key, model);
  }
  return model;
}

/** The other orders are sampled with the same vehicles each time, so that figures stand still. */
const SEED = 20261;

/** Entry of the worker threads; piscina calls the default export. */
export default function run(task: JudgeTask): Judgement {
  return judge(
    modelOf(task.unit),
    task.evidence,
    { done: new Set(task.done), tried: new Set(task.tried), opened: task.opened },
    { hourlyRate: task.hourlyRate },
    task.newest,
    seededRandom(SEED),
  );
}
