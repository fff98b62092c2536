import { normalise } from "../belief/model.ts";
import { adviseIn, outcomesOf } from "./next.ts";
import type { Opened } from "./price.ts";
import type { PlanSpace } from "./space.ts";

/** What a way of working does next: one of the checks or repairs of the space. */
export type Move = { readonly check: number } | { readonly repair: number };

/** What a way of working knows when it chooses. */
export interface Situation {
  readonly p: Float64Array;
  readonly opened: Opened;
  readonly checksLeft: readonly number[];
  readonly repairsLeft: readonly number[];
}

const SURE = 1e-9;

/** Expected cost of a move and what follows. @param value - of the situation after it */
function costOf(space: PlanSpace, s: Situation, move: Move, value: (s: Situation) => number): number {
  const { comebackCost } = space.model.knowledge;
  if ("check" in move) {
    const opened = space.opens(s.opened, move.check);
    const checksLeft = s.checksLeft.filter((c) => c !== move.check);
    let cost = space.checkCosts(s.opened)[move.check] as number;
    for (const o of outcomesOf(space, move.check, s.p))
      cost += o.probability * value({ ...s, p: o.posterior, opened, checksLeft });
    return cost;
  }
  const price = space.prices(s.opened)[move.repair] as number;
  const left = space.after(s.p, move.repair);
  const fails = left.reduce((a, b) => a + b, 0);
  if (fails < SURE) return price;
  // the vehicle came back closed up
  const next = {
    p: normalise(left),
    opened: 0,
    checksLeft: s.checksLeft,
    repairsLeft: s.repairsLeft.filter((r) => r !== move.repair),
  };
  return price + fails * (comebackCost + value(next));
}

const startOf = (space: PlanSpace, opened: Opened): Situation => ({
  p: space.start,
  opened,
  checksLeft: space.checks.map((_, c) => c),
  repairsLeft: space.repairs.map((_, r) => r),
});

/**
 * The least expected cost that any way of working can reach: full expectimax over every order of checks and repairs, the
 * yardstick for the planner. Grows as 3^checks · 2^repairs: for small models only.
 * @throws Error with more than 7 checks or 7 repairs
 */
export function optimalCost(space: PlanSpace, opened: Opened = 0): number {
  if (space.checks.length > 7 || space.repairs.length > 7)
    throw new Error(
      `the exact optimum is for small models: ${space.checks.length} checks, ${space.repairs.length} repairs`,
    );
  const known = new Map<string, number>();
  const value = (s: Situation): number => {
    const key = `${s.opened}|${s.checksLeft.join()}|${s.repairsLeft.join()}|${Array.from(s.p, (x) => x.toPrecision(9)).join()}`;
    let best = known.get(key);
    if (best === undefined) {
      best = s.repairsLeft.length === 0 ? space.lastResort : Number.POSITIVE_INFINITY;
      for (const repair of s.repairsLeft) best = Math.min(best, costOf(space, s, { repair }, value));
      for (const check of s.checksLeft) best = Math.min(best, costOf(space, s, { check }, value));
      known.set(key, best);
    }
    return best;
  };
  return value(startOf(space, opened));
}

/** Expected cost of a way of working, over everything that may come. */
export function policyCost(space: PlanSpace, choose: (s: Situation) => Move, opened: Opened = 0): number {
  const value = (s: Situation): number =>
    s.repairsLeft.length === 0 ? space.lastResort : costOf(space, s, choose(s), value);
  return value(startOf(space, opened));
}

/** What the planner does in a situation. */
export function plannedMove(space: PlanSpace, s: Situation): Move {
  const rest = space.narrowed(s.checksLeft, s.repairsLeft);
  const advice = adviseIn(rest, s.p, s.opened);
  const [check] = advice.checks;
  if (advice.act === "check" && check) return { check: space.checks.findIndex((c) => c.id === check.check.id) };
  const [option] = advice.options;
  return { repair: option ? space.repairs.findIndex((r) => r.id === option.repair.id) : (s.repairsLeft[0] as number) };
}
