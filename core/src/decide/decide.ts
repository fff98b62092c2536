import { draw, seededRandom, type ThreePoint, triangular, triangularMean } from "../chance/index.ts";
import type { Wish } from "../job/index.ts";
import type { Source } from "../knowledge/index.ts";
import { type Chosen, NOTHING_ID, type PlanSpace, type Repair, turnOrder } from "../suspect/index.ts";
import { inSentence } from "../unit/index.ts";

/** An option that can be chosen: a repair with where its part comes from, or to leave the vehicle as it is. */
export interface Choice {
  readonly id: string;
  readonly title: string;
  readonly repair: Repair | undefined;
  readonly source: Source | undefined;
}

/** What the figures of an option are made of. */
export interface Origin {
  /** what may be wrong, likeliest first, and how surely the repair cures it; what is left has less than one in a hundred */
  readonly cures: readonly {
    readonly faultIds: readonly string[];
    readonly titles: readonly string[];
    readonly probability: number;
    readonly cures: number;
  }[];
  readonly partsCost: number;
  readonly hourlyRate: number;
  /** of the price, for what is open already */
  readonly saved: number;
  readonly comebackCost: number;
  /** tried after it, in this order, when it does not cure */
  readonly after: readonly string[];
  /** the next day, where the part has no source of its own */
  readonly leadDays: ThreePoint;
}

export interface Figures {
  readonly choice: Choice;
  readonly origin: Origin;
  /** probability that it cures all that is wrong */
  readonly cures: number;
  /** labour and parts of it alone, as they are likely */
  readonly price: number;
  readonly hours: ThreePoint;
  /** labour of all that is done in the end, on average, h */
  readonly labourH: number;
  /** of all that it costs in the end, money */
  readonly mean: number;
  readonly p10: number;
  readonly p50: number;
  readonly p90: number;
  /** counts by bin of the common axis */
  readonly histogram: readonly number[];
  /** how often the best of the others would have cost less on the same vehicle, 0…1 */
  readonly regret: number;
  /** days until the vehicle drives again, median and nine of ten */
  readonly days: readonly [number, number];
  /** cure probability at which it costs as much as the best of the others; undefined when none does */
  readonly breakEven: number | undefined;
  /** what the owner's wish or the vehicle's value has against it */
  readonly against: readonly string[];
}

export interface Flip {
  readonly what: string;
  readonly now: string;
  readonly at: string;
  readonly instead: string;
}

export interface Decision {
  readonly figures: readonly Figures[];
  /** id of the least expected cost among those that nothing stands against; of all when something stands against each */
  readonly best: string | undefined;
  readonly axis: readonly [number, number];
  readonly flips: readonly Flip[];
  readonly draws: number;
  readonly seed: number;
}

export interface DecideInput {
  readonly space: PlanSpace;
  /** what is open at the vehicle */
  readonly opened: number;
  readonly vehicleValue: number | null;
  readonly wish: Wish | undefined;
  readonly seed: number;
  readonly draws?: number | undefined;
}

const DRAWS = 4000;
const BINS = 40;
const HOURS_A_DAY = 6;
/** A vehicle that came back stands until it is looked at again. */
const COMEBACK_DAYS = 2;
/** What is left alone gets dearer. */
const LATER_DEARER = 1.15;
const NEXT_DAY: ThreePoint = [0, 1, 3];
const LEAST_LATER = 0.5;
const LEAST_CURE = 0.01;
const LEAST_SHOWN = 0.01;
const MOST_CHOICES = 12;
/** The same work at another part is worth naming from this share of the best on. */
const STANDS_BESIDE = 0.4;
const QUICK_DAYS = 3;
const LASTING_MONTHS = 12;
const SELL_SHARE = 0.4;
export const LEAVE_ID = "leave";

/** Repairs that may cure, each with its sources, and leaving it as it is. @returns at most twelve and that, likeliest to cure for their money first */
export function choicesOf(space: PlanSpace): Choice[] {
  const list = space.repairs.flatMap((repair, r) => {
    const cures = space.curesOf(space.start, r);
    if (cures < LEAST_CURE) return [];
    const price = (partsCost: number) => repair.hours[1] * space.money.hourlyRate + partsCost;
    const sources = repair.sources ?? [undefined];
    return sources.map((source) => ({
      choice: {
        id: source ? `${repair.id}@${source.id}` : repair.id,
        title: source ? `${repair.title}: ${inSentence(source.title)}` : repair.title,
        repair,
        source,
      } satisfies Choice,
      worth:
        (cures * Math.min(1, source?.worth ?? 1)) /
        (price(source?.partsCost ?? repair.partsCost) + space.model.knowledge.comebackCost),
    }));
  });
  // of repairs of one kind the one at the likeliest part stands for the rest
  const likeliest = (x: (typeof list)[number]) =>
    list.every(
      (y) =>
        y === x ||
        y.choice.repair.kindId !== x.choice.repair.kindId ||
        y.choice.source?.id !== x.choice.source?.id ||
        y.worth <= x.worth ||
        x.worth > STANDS_BESIDE * y.worth,
    );
  return [
    ...list
      .filter(likeliest)
      .sort((a, b) => b.worth - a.worth)
      .slice(0, MOST_CHOICES)
      .map((x) => x.choice),
    { id: LEAVE_ID, title: "Leave it as it is", repair: undefined, source: undefined },
  ];
}

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
  readonly parts: number;
  readonly lead: ThreePoint;
}

/**
 * Compares the options by drawing vehicles from the odds: what is wrong, how long the work takes, whether it cures, what
 * follows when it does not. Every way meets the same vehicles, so that regret is of the same vehicle. Seeded.
 * @param onProgress - 0…1
 * @returns undefined when it was cancelled
 */
export function decide(
  { space, opened, vehicleValue, wish, seed, draws = DRAWS }: DecideInput,
  choices: readonly Choice[] = choicesOf(space),
  onProgress?: (share: number) => boolean,
): Decision | undefined {
  const { knowledge } = space.model;
  const { hourlyRate } = space.money;
  const open = space.prices(opened);
  const closed = space.prices(0);
  const plans = choices.map((choice): Plan => {
    const first = choice.repair ? space.repairs.findIndex((r) => r.id === choice.repair?.id) : -1;
    const parts = choice.source?.partsCost ?? choice.repair?.partsCost ?? 0;
    return {
      choice,
      first,
      turns: first < 0 ? [] : turnsFrom(space, first),
      worth: choice.source?.worth ?? 1,
      parts,
      lead: choice.source?.leadDays ?? (parts > 0 ? NEXT_DAY : [0, 0, 0]),
    };
  });
  const costs = plans.map(() => new Float64Array(draws));
  const days = plans.map(() => new Float64Array(draws));
  const cured = new Float64Array(plans.length);
  // labour of all that is done in the end, h
  const labour = new Float64Array(plans.length);
  // the cheapest way to cure each set, with what it takes when it has to be done twice
  const later = space.sets.map((_, k) => {
    let best = { cost: space.lastResort, hours: 0 };
    space.repairs.forEach((repair, r) => {
      const cures = space.cures[r]?.[k] as number;
      const cost = (closed[r] as number) / cures;
      if (cures >= LEAST_LATER && cost < best.cost) best = { cost, hours: repair.hours[1] / cures };
    });
    return best;
  });
  const nothing = space.sets.map((s) => s.members.every((i) => space.model.faults[i]?.id === NOTHING_ID));
  for (let n = 0; n < draws; n++) {
    if (n % 500 === 0 && onProgress && !onProgress(n / draws)) return undefined;
    // one stream for each vehicle: the same for every option, whatever it draws
    const truth = draw(space.start, seededRandom(seed + n * 7919));
    plans.forEach((plan, c) => {
      const random = seededRandom(seed + n * 7919 + 104729);
      if (plan.first < 0) {
        const { cost, hours } = later[truth] as (typeof later)[number];
        const whole = cost * LATER_DEARER + knowledge.comebackCost;
        const written = vehicleValue !== null && vehicleValue < whole;
        (costs[c] as Float64Array)[n] = nothing[truth] ? 0 : written ? vehicleValue : whole;
        if (!nothing[truth] && !written) labour[c] = (labour[c] as number) + hours * LATER_DEARER;
        if (nothing[truth]) cured[c] = (cured[c] as number) + 1;
        return;
      }
      let state = truth;
      let total = 0;
      let waits = 0;
      for (const [step, { r, cures }] of plan.turns.entries()) {
        const first = step === 0;
        const repair = space.repairs[r] as Repair;
        const hours = triangular(repair.hours, random());
        const saved = first ? (closed[r] as number) - (open[r] as number) : 0;
        labour[c] = (labour[c] as number) + hours;
        total += hours * hourlyRate + (first ? plan.parts : repair.partsCost) - saved;
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
      (costs[c] as Float64Array)[n] = total;
      (days[c] as Float64Array)[n] = waits;
    });
  }
  const means = costs.map((list) => list.reduce((a, b) => a + b, 0) / draws);
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
    const saved = plan.choice.repair ? (closed[plan.first] as number) - (open[plan.first] as number) : 0;
    const price = plan.choice.repair ? plan.choice.repair.hours[1] * hourlyRate + plan.parts - saved : 0;
    const own = plan.choice.repair ? triangularMean(plan.choice.repair.hours) * hourlyRate + plan.parts : 0;
    return {
      choice: plan.choice,
      origin: {
        cures: curedBy(space, plan),
        partsCost: plan.parts,
        hourlyRate,
        saved,
        comebackCost: knowledge.comebackCost,
        after: plan.turns.slice(1).map((t) => t.title),
        leadDays: plan.lead,
      },
      cures,
      price,
      hours: plan.choice.repair?.hours ?? [0, 0, 0],
      labourH: (labour[c] as number) / draws,
      mean: means[c] as number,
      p10: at(sorted[c] as Float64Array, 0.1),
      p50: at(sorted[c] as Float64Array, 0.5),
      p90: at(sorted[c] as Float64Array, 0.9),
      histogram,
      regret: worse / draws,
      days: [at(waits, 0.5), at(waits, 0.9)],
      breakEven: other < 0 ? undefined : breakEven(means[c] as number, own, cures, means[other] as number),
      against: objections(plan, at(sorted[c] as Float64Array, 0.5), at(waits, 0.5), vehicleValue, wish),
    };
  });
  figures.sort((a, b) => a.mean - b.mean);
  const free = figures.filter((f) => f.against.length === 0);
  const best = (free[0] ?? figures[0])?.choice.id;
  onProgress?.(1);
  return { figures, best, axis, flips: flipsOf(figures, best, hourlyRate, knowledge.comebackCost), draws, seed };
}

/** What may be wrong, and how surely an option cures it; to leave it cures only where nothing is. */
function curedBy(space: PlanSpace, { first, worth }: Plan): Origin["cures"] {
  const { faults } = space.model;
  return space.sets
    .map(({ members }, k) => {
      const own = members.map((i) => faults[i]);
      const nothing = own.every((f) => f?.id === NOTHING_ID);
      return {
        faultIds: own.map((f) => f?.id ?? ""),
        titles: own.map((f) => f?.title ?? ""),
        probability: space.start[k] as number,
        cures: first < 0 ? Number(nothing) : Math.min(1, (space.cures[first]?.[k] as number) * worth),
      };
    })
    .filter((s) => s.probability >= LEAST_SHOWN)
    .sort((a, b) => b.probability - a.probability);
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

/**
 * Cure probability at which an option costs as much as its rival: mean = price + (1 − cure) · failure, solved for the cure.
 * @returns undefined when no probability does
 */
export function breakEven(mean: number, price: number, cures: number, rival: number): number | undefined {
  if (cures >= 1 || mean <= price) return undefined;
  const failure = (mean - price) / (1 - cures);
  const at = 1 - (rival - price) / failure;
  return at >= 0 && at <= 1 ? at : undefined;
}

function objections(plan: Plan, p50: number, days: number, value: number | null, wish: Wish | undefined): string[] {
  const out: string[] = [];
  if (!plan.choice.repair) return out;
  if (value !== null && p50 > value) out.push("costs more than the vehicle is worth");
  if (wish === "quick" && days > QUICK_DAYS) out.push(`takes ${Math.ceil(days)} days; the owner wants it quickly`);
  if (wish === "keep-long" && plan.choice.source && plan.choice.source.warrantyMonths < LASTING_MONTHS)
    out.push(`${plan.choice.source.warrantyMonths} months of warranty; the owner wants to keep it long`);
  if (wish === "sell-soon" && value !== null && p50 > SELL_SHARE * value)
    out.push(`over ${SELL_SHARE * 100} % of what it is worth; the owner wants to sell`);
  if (wish === "only-know" && plan.choice.repair.option !== "nothing") out.push("the owner only wants to know");
  return out;
}

const money = (n: number) => Math.round(n).toString();

/** What would make another way the best: hours dearer or cheaper, the price of a part, the chance of a cure, the cost of a comeback. */
function flipsOf(figures: readonly Figures[], bestId: string | undefined, rate: number, comeback: number): Flip[] {
  const best = figures.find((f) => f.choice.id === bestId);
  const rival = figures.find((f) => f !== best && f.against.length === 0);
  if (!best || !rival) return [];
  const flips: Flip[] = [];
  const gap = rival.mean - best.mean;
  const [a, b] = [best.labourH, rival.labourH];
  if (Math.abs(a - b) > 0.2) {
    const at = rate + gap / (a - b);
    if (at > 0.4 * rate && at < 3 * rate)
      flips.push({
        what: "Labour an hour",
        now: money(rate),
        at: `${at > rate ? "over" : "under"} ${money(at)}`,
        instead: rival.choice.title,
      });
  }
  const parts = best.choice.source?.partsCost ?? best.choice.repair?.partsCost ?? 0;
  if (best.choice.repair)
    flips.push({
      what: `Parts of “${best.choice.title}”`,
      now: money(parts),
      at: `over ${money(parts + gap)}`,
      instead: rival.choice.title,
    });
  if (best.breakEven !== undefined && best.breakEven < best.cures)
    flips.push({
      what: `Chance that “${best.choice.title}” cures`,
      now: `${Math.round(best.cures * 100)} %`,
      at: `under ${Math.round(best.breakEven * 100)} %`,
      instead: rival.choice.title,
    });
  const spread = rival.cures - best.cures;
  if (spread > 0.02)
    flips.push({
      what: "Cost of a vehicle that comes back",
      now: money(comeback),
      at: `over ${money(comeback + gap / spread)}`,
      instead: rival.choice.title,
    });
  return flips;
}

/** An option as it is chosen, with its spread and the seed of the draws. */
export function chosenWay(f: Figures, decision: Decision, hourlyRate: number): Chosen {
  const { repair, source } = f.choice;
  const parts = source?.partsCost ?? repair?.partsCost ?? 0;
  const at = (hours: number) => Math.round(hours * hourlyRate + parts);
  return {
    repairId: repair?.id ?? f.choice.id,
    title: f.choice.title,
    expectedCost: Math.round(f.mean),
    cures: f.cures,
    ...(source ? { source: source.id } : {}),
    price: [Math.round(f.price), at(f.hours[0]), at(f.hours[2])],
    spread: [Math.round(f.p10), Math.round(f.p50), Math.round(f.p90)],
    seed: decision.seed,
  };
}
