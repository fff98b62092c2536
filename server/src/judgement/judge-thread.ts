import {
  compareOrders,
  type Evidence,
  type Judgement,
  judge,
  type Money,
  type OrderCosts,
  SuspectModel,
} from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import { loadLibrary } from "../library/load.ts";

/** What a thread is asked. */
export interface JudgeTask {
  readonly unit: Unit;
  readonly evidence: readonly Evidence[];
  readonly done: readonly string[];
  readonly tried: readonly string[];
  readonly opened: number;
  readonly money: Money;
  readonly newest: string | undefined;
  /** how the shop's own jobs move the odds, by class of fault; undefined: as the library has them */
  readonly factors?: readonly (readonly [string, number])[] | undefined;
}

const { knowledge } = loadLibrary();
const models = new Map<string, SuspectModel>();
const MOST_MODELS = 20;

function modelOf({ unit, factors }: JudgeTask): SuspectModel {
  const model = libraryModel(unit);
  return factors ? model.weighing(new Map(factors)) : model;
}

function libraryModel(unit: Unit): SuspectModel {
  const key = JSON.stringify(unit);
  let model = models.get(key);
  if (!model) {
    if (models.size >= MOST_MODELS) models.clear();
    model = new SuspectModel(unit, knowledge);
    models.set(key, model);
  }
  return model;
}

const standingOf = (task: JudgeTask) => ({
  done: new Set(task.done),
  tried: new Set(task.tried),
  opened: task.opened,
});

/** Entry of the worker threads; piscina calls the default export. */
export default function run(task: JudgeTask): Judgement {
  return judge(modelOf(task), task.evidence, standingOf(task), task.money, task.newest);
}

/** The other entry: what the ways of working would cost. */
export function orders(task: JudgeTask): OrderCosts {
  return compareOrders(modelOf(task), task.evidence, standingOf(task), task.money);
}
