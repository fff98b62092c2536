import {
  compareOrders,
  type Evidence,
  type Judgement,
  judge,
  type Money,
  type OrderCosts,
  type OwnPriceRow,
  SuspectModel,
  withOwnPrices,
} from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import { loadLibrary } from "../library/load.ts";

/** What a thread is asked. */
export interface JudgeTask {
  readonly unit: Unit;
  /** that the shop has set for it over the library's */
  readonly prices: readonly OwnPriceRow[];
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

function modelOf({ unit, prices, factors }: JudgeTask): SuspectModel {
  const model = pricedModel(unit, prices);
  return factors ? model.weighing(new Map(factors)) : model;
}

function pricedModel(unit: Unit, prices: readonly OwnPriceRow[]): SuspectModel {
  const key = JSON.stringify([unit, prices]);
  let model = models.get(key);
  if (!model) {
    if (models.size >= MOST_MODELS) models.clear();
    model = new SuspectModel(unit, withOwnPrices(knowledge, prices, unit.id));
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
