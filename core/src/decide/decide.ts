import { draw, seededRandom, type ThreePoint, triangular, triangularMean } from "../chance/index.ts";
import type { Wish } from "../job/index.ts";
import {
  type Chosen,
  NOTHING_ID,
  optionId,
  type PlanSpace,
  type Price,
  type Repair,
  turnOrder,
} from "../suspect/index.ts";
import { type Choice, choicesOf, LEAVE_ID, SELL_ID } from "./choices.ts";
import type { Decision, Figures, Origin } from "./figures.ts";
import { breakEven, flipsOf } from "./flips.ts";
import { failsAYear, type Horizon, LEAVING } from "./leaving.ts";

export interface DecideInput {
  readonly space: PlanSpace;
  /** what is open at the vehicle */
  readonly opened: number;
  readonly vehicleValue: number | null;
  readonly wish: Wish | undefined;
  /** how long it has to last and what a day costs; absent: neither counts */
  readonly horizon?: Horizon | undefined;
  /** why it is not to be left as it is */
  readonly notLeft?: readonly string[] | undefined;
  readonly seed: number;
  readonly draws?: number | undefined;
}

const DRAWS = 4000;
const BINS = 40;
const HOURS_A_DAY = 6;
/** A vehicle that came back stands until it is looked at again. */
const COMEBACK_DAYS = 2;
const NEXT_DAY: ThreePoint = [0, 1, 3];
const LEAST_SHOWN = 0.01;
/** Of what a vehicle is worth so much is paid for it as it stands. */
export const SELL_SHARE = 0.4;
const MONTHS = 12;
/** On work where no part has a warranty of its own. */
const OWN_WARRANTY_MONTHS = 12;

/** A repair in its turn. */
interface Turn {
  /** its position */
  readonly r: number;
  readonly title: string;
  /** by set */
  readonly cures: Float64Array;
}

/** A repair and what follows while nothing has cured: each once, and once again where doing it again can help. */
function turnsFrom(space: PlanSpace, first: number): Turn[] {
  const times = new Map<number, number>();
  return [first, ...turnOrder(space, space.after(space.start, first), space.prices(0))].flatMap((r): Turn[] => {
    const before = times.get(r) ?? 0;
    times.set(r, before + 1);
    const repair = space.repairs[r] as Repair;
    if (before === 0) return [{ r, title: repair.title, cures: space.cures[r] as Float64Array }];
    const again = before === 1 ? space.again(r) : undefined;
    return again ? [{ r, title: again.repair.title, cures: again.cures }] : [];
  });
}

interface Plan {
  readonly choice: Choice;
  /** position of the repair, -1 when the vehicle is left as it is */
  readonly first: number;
  /** with the repair itself */
  readonly turns: readonly Turn[];
  readonly worth: number;
  readonly price: Price | undefined;
  readonly lead: ThreePoint;
}

/**
 * Compares the options by drawing vehicles from the odds: what is wrong, how long the work takes, whether it cures, what
 * follows when it does not. Every option meets the same vehicles, so that the chance that another was cheaper is of the same vehicle. Seeded.
 * @param onProgress - 0…1
 * @returns undefined when it was cancelled
 */
export function decide(
  {
    space,
    opened,
    vehicleValue,
    wish,
    horizon = { keepYears: 0, downtimeADay: 0 },
    notLeft = [],
    seed,
    draws = DRAWS,
  }: DecideInput,
  choices: readonly Choice[] = choicesOf(space, vehicleValue),
  onProgress?: (share: number) => boolean,
): Decision | undefined {
  const { knowledge } = space.model;
  const { hourlyRate } = space.money;
  const follow = space.repairs.map((r) => space.priceOf(r, 0));
  const plans = choices.map((choice): Plan => {
    const first = choice.repair ? space.repairs.findIndex((r) => r.id === choice.repair?.id) : -1;
    const price = choice.repair && space.priceOf(choice.repair, opened, choice.source);
    return {
      choice,
      first,
      turns: first < 0 ? [] : turnsFrom(space, first),
      worth: choice.source?.worth ?? 1,
      price,
      lead:
        quotedLead(space, choice) ?? choice.source?.leadDays ?? ((price?.partsCost ?? 0) > 0 ? NEXT_DAY : [0, 0, 0]),
    };
  });
  const costs = plans.map(() => new Float64Array(draws));
  const days = plans.map(() => new Float64Array(draws));
  const cured = new Float64Array(plans.length);
  // labour with what follows a repair that fails, h
  const labour = new Float64Array(plans.length);
  const nothing = space.sets.map((s) => s.members.every((i) => space.model.faults[i]?.id === NOTHING_ID));
  const truths = new Int32Array(draws);
  for (let n = 0; n < draws; n++) {
    if (n % 500 === 0 && onProgress && !onProgress(n / draws)) return undefined;
    // one stream for each vehicle: the same for every option, whatever it draws
    const truth = draw(space.start, seededRandom(seed + n * 7919));
    truths[n] = truth;
    plans.forEach((plan, c) => {
      if (plan.first < 0) return;
      const random = seededRandom(seed + n * 7919 + 104729);
      let state = truth;
      let total = 0;
      let waits = 0;
      for (const [step, { r, cures }] of plan.turns.entries()) {
        const first = step === 0;
        const price = (first ? plan.price : follow[r]) as Price;
        const hours = triangular(price.hours, random());
        labour[c] = (labour[c] as number) + hours;
        total += hours * hourlyRate + price.partsCost;
        waits += triangular(first ? plan.lead : NEXT_DAY, random()) + hours / HOURS_A_DAY;
        const worth = first ? plan.worth : 1;
        if (random() < Math.min(1, (cures[state] as number) * worth)) {
          if (first) cured[c] = (cured[c] as number) + 1;
          state = -1;
          break;
        }
        state = remaining(space, r, state, random);
        total += knowledge.comebackCost;
        waits += COMEBACK_DAYS;
      }
      if (state >= 0) total += space.lastResort;
      else if (!nothing[truth]) total += failsLater(plan, horizon, random());
      (costs[c] as Float64Array)[n] = total + horizon.downtimeADay * waits;
      (days[c] as Float64Array)[n] = waits;
    });
  }
  const meanOf = (list: Float64Array) => list.reduce((a, b) => a + b, 0) / draws;
  const repairs = plans.map((_, c) => c).filter((c) => (plans[c] as Plan).first >= 0);
  const cheapest = repairs.reduce(
    (a, b) => (a < 0 || meanOf(costs[b] as Float64Array) < meanOf(costs[a] as Float64Array) ? b : a),
    -1,
  );
  plans.forEach(({ choice, first }, c) => {
    if (first >= 0) return;
    const list = costs[c] as Float64Array;
    for (let n = 0; n < draws; n++) {
      const truth = truths[n] as number;
      if (choice.id === SELL_ID) list[n] = (1 - SELL_SHARE) * (vehicleValue ?? 0);
      else if (nothing[truth]) cured[c] = (cured[c] as number) + 1;
      else {
        // who leaves it knows no better than today what is wrong: the repair comes all the same, later and dearer
        const { grows, stranded } = leavingOf(space, truth);
        const repaired = cheapest < 0 ? space.lastResort : ((costs[cheapest] as Float64Array)[n] as number);
        list[n] = grows * repaired + stranded * knowledge.comebackCost;
      }
    }
    if (choice.id === LEAVE_ID && cheapest >= 0) labour[c] = labour[cheapest] as number;
  });
  const means = costs.map(meanOf);
  const sorted = costs.map((list) => list.slice().sort());
  const at = (list: Float64Array, q: number) => list[Math.min(list.length - 1, Math.floor(q * list.length))] as number;
  const axis: readonly [number, number] = [0, Math.max(1, ...sorted.map((l) => at(l, 0.98)))];
  const figures = plans.map((plan, c): Figures => {
    const list = costs[c] as Float64Array;
    const other = means.reduce((best, m, i) => (i !== c && (best < 0 || m < (means[best] as number)) ? i : best), -1);
    const rival = costs[other];
    let worse = 0;
    if (rival) for (let n = 0; n < draws; n++) if ((list[n] as number) > (rival[n] as number) + 1) worse++;
    const histogram = new Array<number>(BINS).fill(0);
    for (const x of list) {
      const bin = Math.min(BINS - 1, Math.floor((x / axis[1]) * BINS));
      histogram[bin] = (histogram[bin] as number) + 1;
    }
    const waits = (days[c] as Float64Array).slice().sort();
    const cures = (cured[c] as number) / draws;
    const own = plan.price ? triangularMean(plan.price.hours) * hourlyRate + plan.price.partsCost : 0;
    return {
      choice: plan.choice,
      origin: {
        cures: curedBy(space, plan),
        price: plan.price,
        hourlyRate,
        comebackCost: knowledge.comebackCost,
        after: plan.turns.slice(1).map((t) => t.title),
        leadDays: plan.lead,
      },
      cures,
      price: plan.price?.total ?? 0,
      hours: plan.price?.hours ?? [0, 0, 0],
      labourH: (labour[c] as number) / draws,
      mean: means[c] as number,
      p10: at(sorted[c] as Float64Array, 0.1),
      p50: at(sorted[c] as Float64Array, 0.5),
      p90: at(sorted[c] as Float64Array, 0.9),
      histogram,
      otherCheaper: worse / draws,
      days: [at(waits, 0.5), at(waits, 0.9)],
      breakEven: other < 0 ? undefined : breakEven(means[c] as number, own, cures, means[other] as number),
      against: objections(plan, at(sorted[c] as Float64Array, 0.5), vehicleValue, wish, notLeft),
    };
  });
  figures.sort((a, b) => a.mean - b.mean);
  const free = figures.filter((f) => f.against.length === 0);
  // what must not be left is not left, whatever speaks against the rest
  const may = figures.filter((f) => f.choice.id !== LEAVE_ID || notLeft.length === 0);
  const best = (free[0] ?? may[0] ?? figures[0])?.choice.id;
  onProgress?.(1);
  return { figures, best, axis, flips: flipsOf(figures, best, hourlyRate, knowledge.comebackCost), draws, seed };
}

/** What may be wrong, and how surely an option cures it; to leave it cures only where nothing is. */
function curedBy(space: PlanSpace, { choice, first, worth }: Plan): Origin["cures"] {
  const { faults } = space.model;
  return space.sets
    .map(({ members }, k) => {
      const own = members.map((i) => faults[i]);
      const nothing = own.every((f) => f?.id === NOTHING_ID);
      return {
        faultIds: own.map((f) => f?.id ?? ""),
        titles: own.map((f) => f?.title ?? ""),
        probability: space.start[k] as number,
        cures:
          first < 0
            ? Number(nothing && choice.id === LEAVE_ID)
            : Math.min(1, (space.cures[first]?.[k] as number) * worth),
      };
    })
    .filter((s) => s.probability >= LEAST_SHOWN)
    .sort((a, b) => b.probability - a.probability);
}

/** Days that were quoted for the part of this option. */
function quotedLead({ money }: PlanSpace, { repair, source }: Choice): ThreePoint | undefined {
  const days = repair && money.own?.[optionId(repair, source)]?.leadDays;
  return days === undefined ? undefined : [days, days, days];
}

/** What is left of several faults when a repair failed as a whole. */
function remaining(space: PlanSpace, r: number, state: number, random: () => number): number {
  const one = new Float64Array(space.sets.length);
  one[state] = 1;
  const left = space.after(one, r);
  const total = left.reduce((a, b) => a + b, 0);
  return total > 0
    ? draw(
        left.map((x) => x / total),
        random,
      )
    : state;
}

function objections(
  { choice }: Plan,
  p50: number,
  value: number | null,
  wish: Wish | undefined,
  notLeft: readonly string[],
): string[] {
  if (choice.id === LEAVE_ID) return [...notLeft];
  const out: string[] = [];
  if (!choice.repair) return out;
  if (value !== null && p50 > value) out.push("costs more than the vehicle is worth");
  if (wish === "only-know" && choice.repair.option !== "nothing") out.push("the owner only wants to know");
  return out;
}

/** Growth and towing of what is left alone: of several faults the worst. */
function leavingOf(space: PlanSpace, k: number): { readonly grows: number; readonly stranded: number } {
  const groups = (space.sets[k]?.members ?? []).map((i) => LEAVING[space.model.faults[i]?.group ?? "elsewhere"]);
  return {
    grows: Math.max(1, ...groups.map((g) => g.grows)),
    stranded: Math.max(0, ...groups.map((g) => g.stranded)),
  };
}

/**
 * Money of a repair that fails again while the vehicle is kept: within its warranty the days that it stands, after it the
 * repair once more. Failures come at a steady rate, so the time to one is exponential.
 * @param u - drawn, 0…1
 */
function failsLater({ choice, price, worth }: Plan, { keepYears, downtimeADay }: Horizon, u: number): number {
  if (keepYears <= 0 || !price || choice.repair?.option === "nothing") return 0;
  const years = -Math.log(1 - u) / failsAYear(worth);
  if (years >= keepYears) return 0;
  const covered = years * MONTHS < (choice.source?.warrantyMonths ?? OWN_WARRANTY_MONTHS);
  return COMEBACK_DAYS * downtimeADay + (covered ? 0 : price.total);
}

/** An option as it is chosen, with its spread and the seed of the draws. */
export function chosenFrom(f: Figures, decision: Decision): Chosen {
  const { repair, source } = f.choice;
  const { price } = f.origin;
  return {
    repairId: repair?.id ?? f.choice.id,
    title: f.choice.title,
    expectedCost: Math.round(f.mean),
    cures: f.cures,
    ...(source ? { source: source.id } : {}),
    price: [Math.round(f.price), Math.round(price?.least ?? 0), Math.round(price?.most ?? 0)],
    spread: [Math.round(f.p10), Math.round(f.p50), Math.round(f.p90)],
    seed: decision.seed,
  };
}
