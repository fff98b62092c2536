import { draw } from "../../chance/index.ts";
import { normalise } from "../belief/model.ts";
import { adviseIn, informs, outcomesOf } from "./next.ts";
import type { Opened } from "./price.ts";
import { CURES_MOSTLY, type PlanSpace } from "./space.ts";

/** Ways of working that practitioners argue about, and the planner's. */
export const ORDERS = ["expected-cost", "cheapest-first", "likeliest-first"] as const;
export type Order = (typeof ORDERS)[number];

/** A fault that is so likely is repaired by those who do not count. */
const SURE_ENOUGH = 0.8;
/** A check that moves nothing by this factor is not thought of. */
const TELLS = 1.5;

/** How far a check parts the leading set from the rest: the largest ratio of its outcomes either way. */
function tells(space: PlanSpace, c: number, p: Float64Array, lead: number): number {
  let best = 1;
  for (const row of space.outcomeRows(c)) {
    let rest = 0;
    let mass = 0;
    for (let k = 0; k < p.length; k++)
      if (k !== lead) {
        rest += (p[k] as number) * (row[k] as number);
        mass += p[k] as number;
      }
    if (mass <= 0) return 1;
    const ratio = (row[lead] as number) / (rest / mass);
    best = Math.max(best, ratio, 1 / ratio);
  }
  return best;
}

const leadOf = (p: Float64Array) => p.reduce((best, x, k) => (x > (p[best] as number) ? k : best), 0);

/** The repair for the likeliest set: the cheapest of those that cure it. */
function repairFor(space: PlanSpace, p: Float64Array, opened: Opened): number {
  const prices = space.prices(opened);
  const order = Array.from(p.keys()).sort((a, b) => (p[b] as number) - (p[a] as number));
  for (const k of order) {
    let best = -1;
    for (let r = 0; r < space.repairs.length; r++)
      if (
        (space.cures[r]?.[k] as number) >= CURES_MOSTLY &&
        (best < 0 || (prices[r] as number) < (prices[best] as number))
      )
        best = r;
    if (best >= 0) return best;
  }
  return -1;
}

/**
 * What a way of working does next. "Cheapest first" makes the cheapest check that tells anything, "likeliest first" the
 * one that tells most of the leading suspect; both repair what is 80 % sure, or the likeliest when no check tells.
 * @param deep - by expected cost: two checks ahead, else one
 * @returns a check or a repair of the space; repair −1 when nothing cures
 */
export function nextMove(
  space: PlanSpace,
  order: Order,
  p: Float64Array,
  done: ReadonlySet<number>,
  opened: Opened,
  deep = true,
): { readonly check: number } | { readonly repair: number } {
  if (order === "expected-cost") {
    const rest = space.narrowed(
      space.checks.map((_, c) => c).filter((c) => !done.has(c)),
      space.repairs.map((_, r) => r),
    );
    const advice = adviseIn(rest, p, opened, deep);
    const [best] = advice.checks;
    if (advice.act === "check" && best) return { check: space.checks.findIndex((c) => c.id === best.check.id) };
    const gone = advice.stop === "gives-up";
    return { repair: gone ? -1 : space.repairs.findIndex((r) => r.id === advice.options[0]?.repair.id) };
  }
  const lead = leadOf(p);
  if ((p[lead] as number) < SURE_ENOUGH) {
    const costs = space.checkCosts(opened);
    let best = -1;
    let worth = Number.NEGATIVE_INFINITY;
    for (let c = 0; c < space.checks.length; c++) {
      if (done.has(c) || !informs(space, c, p)) continue;
      const ratio = tells(space, c, p, lead);
      if (ratio < TELLS) continue;
      const value = order === "cheapest-first" ? -(costs[c] as number) : ratio;
      if (value > worth) {
        worth = value;
        best = c;
      }
    }
    if (best >= 0) return { check: best };
  }
  return { repair: repairFor(space, p, opened) };
}

/** Longer than this nobody goes on looking at one vehicle. */
const MOST_MOVES = 16;

/**
 * What a way of working costs from here on average, with vehicles drawn from the belief: seeded, so that two orders meet
 * the same vehicles.
 * @param random - 0…1
 */
export function sampledCost(
  space: PlanSpace,
  order: Order,
  opened: Opened,
  samples: number,
  random: () => number,
): { readonly mean: number; readonly checks: number } {
  let total = 0;
  let checks = 0;
  // what was shown decides what is done next: the same situation is planned once
  const known = new Map<string, ReturnType<typeof nextMove>>();
  const afterwards = space.onceFailed();
  for (let n = 0; n < samples; n++) {
    const truth = draw(space.start, random);
    let now = truth;
    let p: Float64Array = space.start;
    let open = opened;
    const done = new Set<number>();
    let history = "";
    let planned = space;
    for (let step = 0; ; step++) {
      let move = step < MOST_MOVES ? known.get(history) : { repair: -1 };
      if (!move) {
        move = nextMove(planned, order, p, done, open, false);
        known.set(history, move);
      }
      if ("check" in move) {
        total += space.checkCosts(open)[move.check] as number;
        checks++;
        done.add(move.check);
        open = space.opens(open, move.check);
        const rows = space.outcomeRows(move.check);
        const shown = draw(
          Float64Array.from(rows, (row) => row[now] as number),
          random,
        );
        p = outcomesOf(space, move.check, p).find((o) => o.at === shown)?.posterior ?? p;
        history += `c${move.check}=${shown} `;
        continue;
      }
      if (move.repair < 0) {
        total += space.model.knowledge.comebackCost + space.lastResort;
        break;
      }
      total += space.prices(open)[move.repair] as number;
      const one = new Float64Array(p.length);
      one[now] = 1;
      const left = space.after(one, move.repair);
      if (random() >= left.reduce((a, b) => a + b, 0)) break;
      now = draw(normalise(left), random);
      total += space.model.knowledge.comebackCost;
      open = 0;
      planned = afterwards;
      p = normalise(space.after(p, move.repair));
      history += `r${move.repair} `;
    }
  }
  return { mean: total / samples, checks: checks / samples };
}
