// Guards: the ways of working that the planner is held against do what their names say, and are costed on the same vehicles.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { seededRandom } from "../../chance/index.ts";
import { libraryKnowledge, libraryUnit } from "../../testing/units.ts";
import { Belief } from "../belief/belief.ts";
import { FRESH, nextMove, ORDERS, type Order, Planner, SuspectModel, sampledCost } from "../index.ts";
import { informs } from "./next.ts";

const model = new SuspectModel(libraryUnit("tarn-f4"), libraryKnowledge());
const planner = new Planner(model, { hourlyRate: 72 });
const at = (id: string) => {
  const i = model.faults.findIndex((f) => f.id === id);
  if (i < 0) throw new Error(`no ${id}`);
  return i;
};
const space = (weights: Readonly<Record<string, number>>) => {
  const p = new Float64Array(model.sets.count);
  const total = Object.values(weights).reduce((a, b) => a + b, 0);
  for (const [id, w] of Object.entries(weights)) p[at(id)] = w / total;
  return planner.space(new Belief(model.sets, p), FRESH);
};
const NONE: ReadonlySet<number> = new Set();
const doubtful = space({ "element-worn:DC": 0.4, "element-leak:DC": 0.35, "solenoid-leaks:sol_DC": 0.25 });

describe("ways of working", () => {
  it("cheapest first makes a check than which no cheaper one tells anything of the leading suspect", () => {
    const move = nextMove(doubtful, "cheapest-first", doubtful.start, NONE, 0);
    if (!("check" in move)) throw new Error("a check was expected");
    const costs = doubtful.checkCosts(0);
    // a check that tells twice as much of one set as of another tells something of the lead or of the rest
    const cheaper = doubtful.checks
      .map((_, c) => c)
      .filter((c) => (costs[c] as number) < (costs[move.check] as number) && informs(doubtful, c, doubtful.start));
    const lead = doubtful.start.indexOf(Math.max(...doubtful.start));
    for (const c of cheaper)
      for (const row of doubtful.outcomeRows(c)) {
        const mass = 1 - (doubtful.start[lead] as number);
        let rest = 0;
        row.forEach((x, k) => {
          if (k !== lead) rest += (x * (doubtful.start[k] as number)) / mass;
        });
        const ratio = (row[lead] as number) / rest;
        expect(Math.max(ratio, 1 / ratio)).toBeLessThan(1.5 + 1e-9);
      }
  });
  it("both others repair what is four fifths sure, by the cheapest repair that cures it", () => {
    const sure = space({ "solenoid-leaks:sol_DC": 0.82, "element-worn:DC": 0.18 });
    const lead = sure.start.indexOf(Math.max(...sure.start));
    for (const order of ["cheapest-first", "likeliest-first"] as const) {
      const move = nextMove(sure, order, sure.start, NONE, 0);
      if (!("repair" in move)) throw new Error("a repair was expected");
      const prices = sure.prices(0);
      expect(sure.cures[move.repair]?.[lead]).toBeGreaterThanOrEqual(0.5);
      sure.repairs.forEach((_r, r) => {
        if ((sure.cures[r]?.[lead] as number) >= 0.5)
          expect(prices[r]).toBeGreaterThanOrEqual((prices[move.repair] as number) - 1e-9);
      });
    }
  });
  it("none makes a check twice; with every check made, all repair", () => {
    const all = new Set(doubtful.checks.map((_, c) => c));
    for (const order of ORDERS) {
      const done = new Set<number>();
      for (let n = 0; n < 3; n++) {
        const move = nextMove(doubtful, order, doubtful.start, done, 0, false);
        if (!("check" in move)) break;
        expect(done.has(move.check)).toBe(false);
        done.add(move.check);
      }
      expect(nextMove(doubtful, order, doubtful.start, all, 0, false)).toHaveProperty("repair");
    }
  });
});

describe("their cost", () => {
  it("is the same with the same seed, and at least that of the cheapest cure", () => {
    fc.assert(
      fc.property(fc.constantFrom(...ORDERS), fc.integer({ min: 1, max: 1000 }), (order, seed) => {
        const cost = () => sampledCost(doubtful, order, 0, 12, seededRandom(seed));
        const { mean, checks } = cost();
        expect(cost()).toEqual({ mean, checks });
        expect(checks).toBeGreaterThanOrEqual(0);
        expect(mean).toBeGreaterThanOrEqual(Math.min(...doubtful.prices(0)));
      }),
      { numRuns: 9 },
    );
  });
  it("of many suspects is less than by the cheapest check first: after a repair that failed it is looked again, not trusted to look again", () => {
    const classes = ["element-worn", "element-leak", "solenoid-leaks", "valve-sticks", "pump-worn"];
    const others = ["fluid-degraded", "fluid-low", "misfire", "nothing"];
    const many = space(
      Object.fromEntries(
        model.faults
          .filter((f) => [...classes, ...others].includes(f.classId))
          .map((f): [string, number] => [f.id, f.weight]),
      ),
    );
    // without any evidence straight to the likeliest costs about as much: seeds turn it either way
    const mean = (order: Order) =>
      [1, 2, 3].reduce((sum, seed) => sum + sampledCost(many, order, 0, 20, seededRandom(seed)).mean, 0);
    expect(mean("expected-cost")).toBeLessThan(mean("cheapest-first"));
  });
  it("of certainty is that of its repair and of what follows when it fails, without a check", () => {
    const certain = space({ "solenoid-leaks:sol_DC": 1 });
    const cheapest = Math.min(
      ...certain.repairs.flatMap((_r, r) =>
        (certain.cures[r]?.[0] as number) >= 0.5 ? [certain.prices(0)[r] as number] : [],
      ),
    );
    for (const order of ORDERS) {
      const { mean, checks } = sampledCost(certain, order, 0, 40, seededRandom(3));
      expect(checks).toBe(0);
      expect(mean).toBeGreaterThanOrEqual(cheapest - 1e-9);
      expect(mean).toBeLessThan(cheapest + model.knowledge.comebackCost + certain.lastResort);
    }
  });
});
