import type { Belief } from "../belief/belief.ts";
import { normalise, type SuspectModel } from "../belief/model.ts";
import { type Check, type Repair, repairsLeft } from "../faults/instances.ts";
import { type Act, actNow, MOST_TRIES, NEGLIGIBLE } from "./act-now.ts";
import type { Money, Opened } from "./price.ts";
import { CURES_MOSTLY, checkEffort, PlanSpace } from "./space.ts";
import { FRESH, type Standing } from "./standing.ts";

export interface Option {
  readonly repair: Repair;
  /** what the owner pays for it, from where the job stands */
  readonly cost: number;
  /** probability that it cures, given the odds */
  readonly cures: number;
  /** expected total: this repair, and when it does not cure, the comeback and the repairs tried after it */
  readonly expectedCost: number;
}

interface ThenRepair {
  readonly kind: "repair";
  readonly id: string;
  readonly title: string;
  readonly expectedCost: number;
  readonly cures: number;
}

export interface CheckBranch {
  readonly outcome: string;
  readonly label: string;
  readonly probability: number;
  readonly act:
    | ThenRepair
    | {
        readonly kind: "check";
        readonly id: string;
        readonly title: string;
        readonly minutes: number;
        readonly expectedCost: number;
        readonly branches: readonly {
          readonly label: string;
          readonly probability: number;
          readonly act: ThenRepair;
        }[];
      };
}

export interface NextCheck {
  readonly check: Check;
  readonly cost: number;
  /** with getting there */
  readonly minutes: number;
  readonly expectedCost: number;
  readonly branches: readonly CheckBranch[];
}

export interface Advice {
  readonly options: readonly Option[];
  /** those that decide which repair is done before the others, each by expected total cost, best first */
  readonly checks: readonly NextCheck[];
  /** what to do now: the best check when it lowers the expected cost, else the best repair */
  readonly act: "check" | "repair";
  /** why to stop checking; undefined while a check pays */
  readonly stop: "nothing-left" | "cannot-change" | "does-not-pay" | "gives-up" | undefined;
}

const HARDLY = 0.01;
/** Checks that are looked at two ahead, and second checks tried for each of their outcomes. */
const DEEP_FIRST = 6;
const DEEP_SECOND = 7;
/** Checks that are listed with what follows from them. */
const LISTED = 30;
/** Money that is not worth talking about; within it the less intrusive check goes first. */
const TIE = 1;
/**
 * Where one cause is nearly certain a further check lives on the odds of all others together, which are known no better than
 * to some per cent: it has to save as much as it takes to walk to the vehicle.
 */
const NEARLY_CERTAIN = 0.9;
const WALK = 10;

/** Chooses by expected total cost to a right repair. */
export class Planner {
  readonly model: SuspectModel;
  readonly money: Money;

  constructor(model: SuspectModel, money: Money) {
    this.model = model;
    this.money = money;
  }

  /** What plans are made in from a belief. */
  space(belief: Belief, standing: Standing = FRESH): PlanSpace {
    return new PlanSpace(
      this.model,
      this.money,
      belief,
      repairsLeft(this.model.repairs, standing.tried),
      this.model.checks.filter((c) => !standing.done.has(c.id) && firstTaken(c, standing.done)),
      standing.tried.size === 0,
      standing.asked,
    );
  }

  /** Repairs by expected cost. */
  options(belief: Belief, standing: Standing = FRESH): Option[] {
    return optionsOf(this.space(belief, standing), undefined, standing.opened);
  }

  /**
   * What to do next by expected total cost to a right repair, looking two checks ahead for the few that look best one
   * ahead. A check is worth it only when it lowers the expected cost.
   */
  advise(belief: Belief, standing: Standing = FRESH): Advice {
    const space = this.space(belief, standing);
    return adviseIn(space, space.start, standing.opened);
  }
}

/** Does a check only take a reading again, and was it taken a first time? One that repeats nothing can always be made. */
const firstTaken = ({ repeats, component }: Check, done: ReadonlySet<string>): boolean =>
  repeats === undefined || done.has(repeats) || done.has(`${repeats}:${component}`);

/** Repairs by expected cost. @param p - belief over the sets of the space; absent: its own */
export function optionsOf(space: PlanSpace, p: Float64Array = space.start, opened: Opened = 0): Option[] {
  const prices = space.prices(opened);
  return space.repairs
    .map((repair, r): Option => {
      const left = space.after(p, r);
      return {
        repair,
        cost: space.priceOf(repair, opened).total,
        cures: space.curesOf(p, r),
        expectedCost: (prices[r] as number) + afterFailure(space, left, prices),
      };
    })
    .sort(
      (a, b) =>
        Number(hardlyCures(a)) - Number(hardlyCures(b)) ||
        a.expectedCost - b.expectedCost ||
        a.repair.id.localeCompare(b.repair.id),
    );
}

/** A repair that hardly cures isn't an option, however cheap: it only puts off what nothing known cures. */
export const hardlyCures = ({ cures }: Pick<Option, "cures">): boolean => cures < HARDLY;

/** Rather the last resort now than after repairs that lead there; an exchange that cures is a repair like any other. */
const givesUp = (space: PlanSpace, first: Option | undefined): boolean =>
  !first ||
  hardlyCures(first) ||
  (first.cures < CURES_MOSTLY && first.expectedCost > space.model.knowledge.comebackCost + space.lastResort);

/**
 * Expected cost after a repair that did not cure. Either repairs are tried one after another, each with a comeback before
 * it; or the vehicle is looked at again, as long as it takes on average, and then cured. What costs less.
 */
export function afterFailure(space: PlanSpace, mass: Float64Array, prices: Float64Array): number {
  if (!space.looksAgain) return repairsInTurn(space, mass, prices);
  let looked = 0;
  for (let k = 0; k < mass.length; k++) looked += (mass[k] as number) * space.lookAgain(k);
  return Math.min(looked, repairsInTurn(space, mass, prices));
}

/**
 * Repairs tried one after another, each time the one with the most cure for its money.
 * @param mass - what is uncured at first, by set
 * @returns positions in the repairs of the space
 */
export function turnOrder(space: PlanSpace, mass: Float64Array, prices: Float64Array): number[] {
  const { comebackCost } = space.model.knowledge;
  const order: number[] = [];
  let left = mass;
  while (order.length < MOST_TRIES && sum(left) > NEGLIGIBLE) {
    let best = -1;
    let worth = 0;
    for (let r = 0; r < space.repairs.length; r++) {
      const value = space.curesOf(left, r) / (comebackCost + (prices[r] as number));
      if (value > worth) {
        worth = value;
        best = r;
      }
    }
    if (best < 0) break;
    order.push(best);
    left = space.after(left, best);
  }
  return order;
}

/** Cost of repairs in turn, with a comeback before each. */
function repairsInTurn(space: PlanSpace, mass: Float64Array, prices: Float64Array): number {
  const { comebackCost } = space.model.knowledge;
  let left = mass;
  let expected = 0;
  for (const r of turnOrder(space, mass, prices)) {
    expected += sum(left) * (comebackCost + (prices[r] as number));
    left = space.after(left, r);
  }
  return expected + sum(left) * (comebackCost + space.lastResort);
}

const sum = (p: Float64Array): number => {
  let s = 0;
  for (const x of p) s += x;
  return s;
};

interface Outcome {
  readonly at: number;
  readonly probability: number;
  readonly posterior: Float64Array;
}

/** What a check may show, with the belief after it. */
export function outcomesOf(space: PlanSpace, c: number, p: Float64Array): Outcome[] {
  const out: Outcome[] = [];
  space.outcomeRows(c).forEach((row, at) => {
    const joint = new Float64Array(p.length);
    let probability = 0;
    for (let k = 0; k < p.length; k++) probability += joint[k] = (p[k] as number) * (row[k] as number);
    if (probability > 0) out.push({ at, probability, posterior: normalise(joint) });
  });
  return out;
}

interface OneCheck {
  /** cost of the check and of the best repair after it */
  readonly expected: number;
  /** the repairs its outcomes lead to, by position in the repairs of the space */
  readonly leadsTo: ReadonlySet<number>;
}

/** One check and the best repair after it. */
export function oneCheck(space: PlanSpace, c: number, p: Float64Array, opened: Opened): OneCheck {
  const then = space.opens(opened, c);
  let expected = space.checkCosts(opened)[c] as number;
  const leadsTo = new Set<number>();
  for (const o of outcomesOf(space, c, p)) {
    const act = actNow(space, o.posterior, then);
    expected += o.probability * act.expected;
    leadsTo.add(act.repair);
  }
  return { expected, leadsTo };
}

/**
 * Does what a check shows decide which repair is done? One that leads to the same repair whatever it shows may still help
 * if that repair fails, and is worth its time then, not before.
 */
function decides({ branches }: NextCheck): boolean {
  const repairs = branches.flatMap(({ act }) =>
    act.kind === "repair" ? [act.id] : act.branches.map((then) => then.act.id),
  );
  return new Set(repairs).size > 1;
}

const INFORMS = 1e-3;

/** Does any outcome move any set? */
export function informs(space: PlanSpace, c: number, p: Float64Array): boolean {
  return space.outcomeRows(c).some((row) => {
    let [low, high] = [Number.POSITIVE_INFINITY, 0];
    for (let k = 0; k < p.length; k++)
      if ((p[k] as number) > INFORMS) {
        low = Math.min(low, row[k] as number);
        high = Math.max(high, row[k] as number);
      }
    return high > low * 1.05;
  });
}

/** See {@link Planner.advise}. @param deep - looks two checks ahead; else one, for following thousands of vehicles */
export function adviseIn(space: PlanSpace, p: Float64Array, opened: Opened, deep = true): Advice {
  const options = optionsOf(space, p, opened);
  // by the same reckoning as after a check: a difference of two reckonings isn't a gain
  const now = Math.min(options[0]?.expectedCost ?? space.lastResort, actNow(space, p, opened).expected);
  const costs = space.checkCosts(opened);
  const open = space.checks.map((_, c) => c).filter((c) => informs(space, c, p));
  const first = open.map((c) => ({ c, ...oneCheck(space, c, p, opened) })).sort((a, b) => a.expected - b.expected);
  const looked = deep ? first.slice(0, LISTED) : first.filter(({ leadsTo }) => leadsTo.size > 1).slice(0, 1);
  const checks = looked.map(({ c, expected }, rank): NextCheck => {
    const check = space.checks[c] as Check;
    const then = space.opens(opened, c);
    const branches: CheckBranch[] = [];
    let ahead = costs[c] as number;
    for (const o of outcomesOf(space, c, p)) {
      const act = actNow(space, o.posterior, then);
      let best: CheckBranch["act"] = thenRepair(space, o.posterior, act);
      if (deep && rank < DEEP_FIRST) {
        let second = -1;
        let least = act.expected - TIE;
        for (const { c: d } of first.slice(0, DEEP_SECOND)) {
          if (d === c) continue;
          const { expected: cost, leadsTo } = oneCheck(space, d, o.posterior, then);
          if (cost < least && leadsTo.size > 1) {
            least = cost;
            second = d;
          }
        }
        if (second >= 0) best = thenCheck(space, second, o.posterior, then, least);
      }
      ahead += o.probability * best.expectedCost;
      const { id, label } = check.outcomes[o.at] as Check["outcomes"][number];
      branches.push({ outcome: id, label, probability: o.probability, act: best });
    }
    return {
      check,
      cost: costs[c] as number,
      minutes: checkEffort(space.model.knowledge, check, opened).minutes,
      expectedCost: Math.min(expected, ahead),
      branches,
    };
  });
  checks.sort(
    (a, b) =>
      Number(decides(b)) - Number(decides(a)) ||
      Math.round(a.expectedCost / TIE) - Math.round(b.expectedCost / TIE) ||
      reach(space, a.check) - reach(space, b.check) ||
      a.expectedCost - b.expectedCost ||
      a.check.id.localeCompare(b.check.id),
  );
  const best = checks[0] && decides(checks[0]) ? checks[0] : undefined;
  let surest = 0;
  for (let k = 0; k < p.length; k++) surest = Math.max(surest, p[k] as number);
  const least = surest >= NEARLY_CERTAIN ? WALK : TIE;
  const pays = best !== undefined && best.expectedCost < now - least;
  return {
    options,
    checks,
    act: pays ? "check" : "repair",
    stop: pays
      ? undefined
      : givesUp(space, options[0])
        ? "gives-up"
        : open.length === 0
          ? "nothing-left"
          : best
            ? "does-not-pay"
            : "cannot-change",
  };
}

const reach = (space: PlanSpace, check: Check) => space.model.knowledge.access[check.intrusiveness].minutes;

function thenRepair(space: PlanSpace, p: Float64Array, act: Act): ThenRepair {
  const repair = space.repairs[act.repair];
  return {
    kind: "repair",
    id: repair?.id ?? "",
    title: repair?.title ?? "nothing known here cures it",
    expectedCost: act.expected,
    cures: repair ? space.curesOf(p, act.repair) : 0,
  };
}

function thenCheck(
  space: PlanSpace,
  c: number,
  p: Float64Array,
  opened: Opened,
  expectedCost: number,
): CheckBranch["act"] {
  const check = space.checks[c] as Check;
  const then = space.opens(opened, c);
  return {
    kind: "check",
    id: check.id,
    title: check.title,
    minutes: checkEffort(space.model.knowledge, check, opened).minutes,
    expectedCost,
    branches: outcomesOf(space, c, p).map((o) => ({
      label: check.outcomes[o.at]?.label ?? "",
      probability: o.probability,
      act: thenRepair(space, o.posterior, actNow(space, o.posterior, then)),
    })),
  };
}
