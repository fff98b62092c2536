import { draw, seededRandom } from "@gearsense/core/chance";
import {
  Belief,
  type ByClass,
  believe,
  cureOf,
  expectedIn,
  foundBy,
  generateFaults,
  type Knowledge,
  nextMove,
  normalise,
  ownFactors,
  ownJobs,
  Planner,
  type PlanSpace,
  type ProvedJob,
  type Repair,
  SHAPE,
  SuspectModel,
  siftEvidence,
} from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import { firstLook } from "./workshop.ts";

/** A shop whose faults come more or less often than the library says, and what its own jobs are worth to it. */
export interface ShopScore {
  readonly jobs: number;
  /** mean cost to the cure, planned with the library's odds, and with those that its jobs have moved */
  readonly library: number;
  readonly own: number;
}

const HOURLY_RATE = 72;
/** A class comes up to so many times as often, or as seldom. */
const MOST_APART = 3;
const LEAST_JOBS = 20;
const MOST_JOBS = 200;
const UNITS = 3;
const VEHICLES = 12;
/** Sets of faults that are thought of, the likeliest. */
const SETS = 14;
const SELDOM = 1 / 100;
/** Checks that are thought of: those that tell most of such a vehicle. */
const CHECKS = 10;
const MOST_MOVES = 16;
const CURES = 0.5;

/**
 * Expected cost to the cure of vehicles that come as is true, worked by what is believed: one check ahead, every outcome followed that comes in
 * more than one of some hundreds; of the rest what it costs at most is looked up: another look that finds the fault.
 * @param truth @param believed - over the sets of the space
 */
export function costOf(space: PlanSpace, believed: Float64Array, truth: Float64Array): number {
  const afterwards = space.onceFailed();
  const { comebackCost } = space.model.knowledge;
  const sum = (p: Float64Array) => p.reduce((a, b) => a + b, 0);
  /** @param mass - of what is true, as far as it came to here */
  const from = (
    plan: PlanSpace,
    p: Float64Array,
    mass: Float64Array,
    open: number,
    done: ReadonlySet<number>,
    moves: number,
  ): number => {
    const here = sum(mass);
    if (here < SELDOM) return mass.reduce((s, x, k) => s + x * space.lookAgain(k), 0);
    const move = moves < MOST_MOVES ? nextMove(plan, "expected-cost", p, done, open, false) : { repair: -1 };
    if ("check" in move) {
      const { check } = move;
      const then = space.opens(open, check);
      const made = new Set([...done, check]);
      const rows = space.outcomeRows(check);
      const branches = rows.map((row) => {
        const joint = p.map((x, k) => x * (row[k] as number));
        const met = mass.map((x, k) => x * (row[k] as number));
        // what nobody thought possible moves nothing
        return from(plan, sum(joint) > 0 ? normalise(joint) : p, met, then, made, moves + 1);
      });
      return here * (space.checkCosts(open)[check] as number) + branches.reduce((a, b) => a + b, 0);
    }
    if (move.repair < 0) return here * (comebackCost + space.lastResort);
    const left = space.after(mass, move.repair);
    const believedLeft = space.after(p, move.repair);
    const next = sum(believedLeft) > 0 ? normalise(believedLeft) : p;
    return (
      here * (space.prices(open)[move.repair] as number) +
      sum(left) * comebackCost +
      from(afterwards, next, left, 0, done, moves + 1)
    );
  };
  return from(space, believed, truth, 0, new Set(), 0);
}

const models = new Map<string, SuspectModel>();
function modelOf(unit: Unit, knowledge: Knowledge): SuspectModel {
  const model = models.get(unit.id) ?? new SuspectModel(unit, knowledge);
  models.set(unit.id, model);
  return model;
}

const shown = new Map<string, ReadonlyMap<string, ByClass>>();
/**
 * What a shop writes down of each fault once it is cured. Of what cured only the repair counts, the cheapest that mostly does: the odds that
 * stood at the decision would say more.
 */
function shownBy(unit: Unit, knowledge: Knowledge): ReadonlyMap<string, ByClass> {
  let known = shown.get(unit.id);
  if (!known) {
    const model = modelOf(unit, knowledge);
    const cost = (r: Repair) => r.hours[1] * HOURLY_RATE + r.partsCost;
    const repairs = model.repairs
      .filter((r) => r.again === undefined)
      .sort((a, b) => cost(a) - cost(b))
      .map((r) => ({ cure: cureOf(model, r), found: foundBy(unit, knowledge, r.id, []) }));
    known = new Map(
      model.faults.flatMap((f, i) => {
        const cured = repairs.find((r) => (r.cure[i] as number) >= CURES);
        return cured ? [[f.id, cured.found] as const] : [];
      }),
    );
    shown.set(unit.id, known);
  }
  return known;
}

/** Information of a check about the sets, nats. */
function tells(space: PlanSpace, c: number, p: Float64Array): number {
  let bits = 0;
  for (const row of space.outcomeRows(c)) {
    const all = row.reduce((s, x, k) => s + x * (p[k] as number), 0);
    row.forEach((x, k) => {
      if (x > 0 && (p[k] as number) > 0) bits += (p[k] as number) * x * Math.log(x / all);
    });
  }
  return bits;
}

/** Repairs that are thought of: for each set of faults the cheapest that mostly cures it. */
function thoughtOf(space: PlanSpace): number[] {
  const prices = space.prices(0);
  const cheapest = space.sets.map((_, k) =>
    space.repairs.reduce(
      (best, _r, r) =>
        (space.cures[r]?.[k] as number) >= CURES && (best < 0 || (prices[r] as number) < (prices[best] as number))
          ? r
          : best,
      -1,
    ),
  );
  return [...new Set(cheapest)].filter((r) => r >= 0);
}

/** A shop by its number: its factors, its units, the jobs that it has proved, and vehicles that come in after them. */
export function scoreShop(
  units: readonly Unit[],
  knowledge: Knowledge,
  seed: number,
  shape = SHAPE,
  vehicles = VEHICLES,
): ShopScore {
  const random = seededRandom(seed);
  for (let i = 0; i < 4; i++) random();
  const factors = knowledge.faults.map(({ id }) => [id, MOST_APART ** (2 * random() - 1)] as const);
  const truly = new Map(factors);
  const here = Array.from({ length: UNITS }, () => units[Math.floor(random() * units.length)] as Unit);
  const drawFault = (unit: Unit) => {
    const faults = generateFaults(unit, knowledge).map((f) => ({
      ...f,
      weight: f.weight * (truly.get(f.classId) ?? 1),
    }));
    const all = faults.reduce((s, f) => s + f.weight, 0);
    return faults[
      draw(
        faults.map((f) => f.weight / all),
        random,
      )
    ] as (typeof faults)[number];
  };
  const jobs = Math.round(LEAST_JOBS * (MOST_JOBS / LEAST_JOBS) ** random());
  const proved: ProvedJob[] = [];
  while (proved.length < jobs) {
    const unit = here[Math.floor(random() * UNITS)] as Unit;
    const found = shownBy(unit, knowledge).get(drawFault(unit).id);
    if (found) proved.push({ found, expected: expectedIn(unit, knowledge) });
  }
  const learned = new Map(ownFactors(ownJobs(proved), shape).map((f) => [f.classId, f.factor]));
  let library = 0;
  let own = 0;
  for (let v = 0; v < vehicles; v++) {
    const unit = here[v % UNITS] as Unit;
    const fault = drawFault(unit);
    const byLibrary = modelOf(unit, knowledge);
    const vehicle = { unit, faultIds: [fault.id], codes: [], slipGears: [] };
    const { used } = siftEvidence(byLibrary, firstLook(vehicle, byLibrary, random));
    const beliefs = [byLibrary, byLibrary.weighing(learned), byLibrary.weighing(truly)].map((m) => believe(m, used));
    // one space that holds what any of them holds likely
    const sums = Float64Array.from(byLibrary.priors, (_, k) => beliefs.reduce((s, b) => s + (b.p[k] as number), 0));
    const least = sums.toSorted().at(-SETS) ?? 0;
    const mixed = new Belief(byLibrary.sets, normalise(sums.map((x) => (x >= least ? x : 0))));
    const whole = new Planner(byLibrary, { hourlyRate: HOURLY_RATE }).space(mixed);
    const checks = whole.checks
      .map((_, c) => ({ c, told: tells(whole, c, whole.start) }))
      .sort((a, b) => b.told - a.told)
      .slice(0, CHECKS);
    const space = whole.narrowed(
      checks.map(({ c }) => c),
      thoughtOf(whole),
    );
    const [pLibrary, pOwn, pTruth] = beliefs.map((b) =>
      normalise(Float64Array.from(space.sets, (s) => (s.members.length > 2 ? 0 : b.of(s.members)))),
    ) as [Float64Array, Float64Array, Float64Array];
    library += costOf(space, pLibrary, pTruth) / vehicles;
    own += costOf(space, pOwn, pTruth) / vehicles;
  }
  return { jobs, library, own };
}

/** Over all shops. `rise` is the greatest share by which one shop's cost rises, `over` how many rise by more than 1 %. */
export function summariseShops(scores: readonly ShopScore[]) {
  const mean = (of: (s: ShopScore) => number) => scores.reduce((a, s) => a + of(s), 0) / scores.length;
  const rises = scores.map((s) => (s.own - s.library) / s.library);
  return {
    library: mean((s) => s.library),
    own: mean((s) => s.own),
    rise: Math.max(...rises),
    fall: Math.min(...rises),
    over: rises.filter((r) => r > MOST_RISE).length,
  };
}
export const MOST_RISE = 0.01;
