// Guards: the next check and the choice of repair, as decisions under uncertainty ought to behave; the exact optimum is
// the yardstick.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { libraryKnowledge, libraryUnit } from "../../testing/units.ts";
import { Belief } from "../belief/belief.ts";
import { nextMove, optimalCost, Planner, PlanSpace, plannedMove, policyCost, SuspectModel } from "../index.ts";
import { hardlyCures, informs, type NextCheck } from "./next.ts";
import { FRESH } from "./standing.ts";

const knowledge = libraryKnowledge();
const models = ["brae-p6", "corran-w7"].map((id) => new SuspectModel(libraryUnit(id), knowledge));
const belief = (model: SuspectModel, weights: readonly (readonly [number, number])[]) => {
  const p = new Float64Array(model.sets.count);
  for (const [i, w] of weights) p[i] = (p[i] as number) + w;
  const total = p.reduce((a, b) => a + b, 0);
  return new Belief(
    model.sets,
    p.map((x) => x / total),
  );
};
/** A belief over a few single faults, the rest impossible. */
const few = (model: SuspectModel, most = 4, least = 1) =>
  fc
    .uniqueArray(fc.tuple(fc.nat(model.sets.real - 1), fc.double({ min: 0.05, max: 1, noNaN: true })), {
      minLength: least,
      maxLength: most,
      selector: ([i]) => i,
    })
    .map((weights) => belief(model, weights));

const leadsTo = ({ branches }: NextCheck) =>
  new Set(branches.flatMap(({ act }) => (act.kind === "repair" ? [act.id] : act.branches.map((then) => then.act.id))));

it("a check that leads to the same repair whatever it shows is not advised, however much it would save if the repair failed", () => {
  const [brae] = models as [SuspectModel];
  const at = (id: string) => brae.faults.findIndex((f) => f.id === id);
  const b = belief(brae, [
    [at("element-worn:TC"), 0.6],
    [at("solenoid-circuit:sol_LC"), 0.4 / 3],
    [at("sensor-rough:sen_turbine"), 0.4 / 3],
    [at("converter-imbalance:converter-clutch"), 0.4 / 3],
  ]);
  const planner = new Planner(brae, { hourlyRate: 72 });
  const done = new Set(brae.checks.map((c) => c.id).filter((id) => id !== "coast-neutral"));
  const alone = planner.advise(b, { ...FRESH, done });
  const [coast] = alone.checks as [NextCheck];
  expect((alone.options[0]?.expectedCost ?? 0) - coast.expectedCost).toBeGreaterThan(10);
  expect(leadsTo(coast).size).toBe(1);
  expect(alone).toMatchObject({ act: "repair", stop: "cannot-change" });
  const all = planner.advise(b);
  expect(all.act).toBe("check");
  expect(leadsTo(all.checks[0] as NextCheck).size).toBeGreaterThan(1);
});

it("a reading is taken a second time only when it was taken a first time, of the same part", () => {
  const [brae] = models as [SuspectModel];
  const planner = new Planner(brae, { hourlyRate: 72 });
  const hot = (...done: string[]) =>
    planner
      .space(belief(brae, [[0, 1]]), { ...FRESH, done: new Set(done) })
      .checks.filter((c) => c.kindId === "coil-hot" || c.kindId === "level-next-day")
      .map((c) => c.id);
  expect(hot()).toEqual([]);
  expect(hot("resistance:sol_TC")).toEqual(["coil-hot:sol_TC"]);
  expect(hot("level")).toEqual(["level-next-day"]);
});

describe.each(models)("planner", (model) => {
  const planner = new Planner(model, { hourlyRate: 72 });
  it("a repair costs at least its own price, its cure is a probability, and the list is in order of expected cost", () => {
    fc.assert(
      fc.property(few(model), (b) => {
        let last = 0;
        for (const o of planner.options(b)) {
          expect(o.cures).toBeGreaterThanOrEqual(0);
          expect(o.cures).toBeLessThanOrEqual(1 + 1e-9);
          expect(o.expectedCost).toBeGreaterThanOrEqual(o.cost - 1e-9);
          // what hardly cures stands at the end, however cheap
          if (hardlyCures(o)) last = 0;
          expect(o.expectedCost).toBeGreaterThanOrEqual(hardlyCures(o) ? 0 : last - 1e-9);
          if (!hardlyCures(o)) last = o.expectedCost;
        }
      }),
      { numRuns: 25 },
    );
  });
  it("a dearer hour never makes a repair cheaper", () => {
    const dear = new Planner(model, { hourlyRate: 110 });
    fc.assert(
      fc.property(few(model), (b) => {
        const cheap = planner.options(b);
        for (const o of dear.options(b)) {
          const same = cheap.find((c) => c.repair.id === o.repair.id);
          expect(o.cost).toBeGreaterThanOrEqual(same?.cost ?? Infinity);
        }
      }),
      { numRuns: 25 },
    );
  });
  it("checks stand in order of what they cost in all, those that decide nothing last, and each tells what follows from every outcome", () => {
    fc.assert(
      fc.property(few(model), (b) => {
        const { checks, act } = planner.advise(b);
        const deciding = checks.filter((c) => leadsTo(c).size > 1);
        expect(checks.slice(0, deciding.length)).toEqual(deciding);
        if (act === "check") expect(deciding.length).toBeGreaterThan(0);
        let last = 0;
        for (const [i, c] of checks.entries()) {
          if (i === deciding.length) last = 0;
          expect(c.expectedCost).toBeGreaterThanOrEqual(last - 1.001);
          last = c.expectedCost;
          expect(c.branches.reduce((s, x) => s + x.probability, 0)).toBeCloseTo(1, 6);
          for (const { act } of c.branches)
            if (act.kind === "check") expect(act.branches.reduce((s, x) => s + x.probability, 0)).toBeCloseTo(1, 6);
        }
      }),
      { numRuns: 6 },
    );
  });
  it("gives up rather than go through repairs that hardly cure, and lists them last", () => {
    const [first] = planner.options(belief(model, [[0, 1]]));
    const tried = new Set(
      model.repairs
        .filter((r) => planner.options(belief(model, [[0, 1]])).some((o) => o.repair.id === r.id && o.cures > 0.02))
        .flatMap((r) => [r.id, ...model.repairs.filter((x) => x.again === r.id).map((x) => x.id)]),
    );
    expect(tried.has(first?.repair.id ?? "")).toBe(true);
    const done = new Set(model.checks.map((c) => c.id));
    // nearly all of the belief is on what has been repaired in vain
    const b = belief(
      model,
      model.faults.slice(0, model.sets.real).map((_, i) => [i, i === 0 ? 1 : 5e-4]),
    );
    const space = planner.space(b, { done, tried, opened: 0 });
    expect(space.repairs.length).toBeGreaterThan(0);
    expect(nextMove(space, "expected-cost", space.start, new Set(), 0)).toEqual({ repair: -1 });
    const options = planner.options(b, { done, tried, opened: 0 });
    const at = options.findIndex(hardlyCures);
    expect(at).toBeGreaterThanOrEqual(0);
    expect(options.slice(at).every(hardlyCures)).toBe(true);
  });
  it("never advises what has been done or tried", () => {
    const b = belief(
      model,
      model.faults.map((_, i) => [i, 1]),
    );
    const advice = planner.advise(b, {
      done: new Set(model.checks.map((c) => c.id)),
      tried: new Set(["fluid"]),
      opened: 0,
    });
    expect(advice.checks).toEqual([]);
    expect(advice.act).toBe("repair");
    expect(advice.options.some((o) => o.repair.id === "fluid")).toBe(false);
  });
});

/** A space of few faults, five checks that part them, and the cheapest cure of each. */
function smallSpace(model: SuspectModel, b: Belief, pick: number): PlanSpace {
  const full = new PlanSpace(model, { hourlyRate: 72 }, b);
  const telling = full.checks.map((_, c) => c).filter((c) => informs(full, c, full.start));
  const checks = telling
    .filter((_, n) => (n * 7 + pick) % Math.max(1, Math.floor(telling.length / 4)) === 0)
    .slice(0, 4);
  const prices = full.prices(0);
  const cheapest = full.sets.map((_, k) =>
    full.repairs
      .map((_, r) => r)
      .filter((r) => (full.cures[r]?.[k] ?? 0) > 0.5)
      .sort((x, y) => (prices[x] as number) - (prices[y] as number))
      .at(0),
  );
  return full.narrowed(
    checks,
    [...new Set(cheapest)].filter((r): r is number => r !== undefined),
  );
}

describe("against the exact optimum", () => {
  const [model] = models as [SuspectModel];
  it("no way of working beats it; the planner stays within a tenth and within 5 % on average", () => {
    const ratios: number[] = [];
    fc.assert(
      fc.property(few(model, 4, 2), fc.nat(5), (b, pick) => {
        const space = smallSpace(model, b, pick);
        const best = optimalCost(space);
        const planned = policyCost(space, (s) => plannedMove(space, s));
        expect(planned).toBeGreaterThanOrEqual(best - 1e-6);
        for (const order of ["cheapest-first", "likeliest-first"] as const) {
          const cost = policyCost(space, (s) => {
            const done = new Set(space.checks.map((_, c) => c).filter((c) => !s.checksLeft.includes(c)));
            const move = nextMove(space, order, s.p, done, s.opened);
            return "repair" in move && !s.repairsLeft.includes(move.repair)
              ? { repair: s.repairsLeft[0] as number }
              : move;
          });
          expect(cost).toBeGreaterThanOrEqual(best - 1e-6);
        }
        ratios.push(planned / best);
      }),
      { numRuns: 25 },
    );
    expect(Math.max(...ratios)).toBeLessThan(1.15);
    expect(ratios.reduce((a, r) => a + r, 0) / ratios.length).toBeLessThan(1.05);
  });
  it("of one fault and its cure is the price of the cure and of what follows when it fails", () => {
    const i = model.faults.findIndex((f) => f.id === "sensor-failed:sen_output");
    const space = smallSpace(model, belief(model, [[i, 1]]), 0);
    const [price] = space.prices(0);
    const fails = 1 - (space.cures[0]?.[0] as number);
    expect(optimalCost(space)).toBeCloseTo((price as number) + fails * (knowledge.comebackCost + space.lastResort), 6);
  });
  it("is refused for models that it cannot work out", () => {
    const b = belief(
      model,
      model.faults.map((_, i) => [i, 1]),
    );
    expect(() => optimalCost(new PlanSpace(model, { hourlyRate: 72 }, b))).toThrow(/small models/);
  });
});
