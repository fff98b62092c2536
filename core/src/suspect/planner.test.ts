// Guards: the next check and the choice of repair, as decisions under uncertainty ought to behave.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { libraryKnowledge, libraryUnit } from "../testing/units.ts";
import { Planner, SuspectModel } from "./index.ts";

const knowledge = libraryKnowledge();
const models = ["brae-p6", "corran-w7"].map((id) => new SuspectModel(libraryUnit(id), knowledge));
/** A belief over a few faults, the rest impossible. */
const beliefOf = (model: SuspectModel) =>
  fc
    .array(fc.tuple(fc.nat(model.faults.length - 1), fc.double({ min: 0.05, max: 1, noNaN: true })), {
      minLength: 1,
      maxLength: 4,
    })
    .map((weights) => {
      const p = new Float64Array(model.faults.length);
      for (const [i, w] of weights) p[i] = (p[i] as number) + w;
      const total = p.reduce((a, b) => a + b, 0);
      return p.map((x) => x / total);
    });

describe.each(models)("planner", (model) => {
  const planner = new Planner(model, { hourlyRate: 72 });
  it("a repair costs at least its own price, its cure is a probability, and the list is in order of expected cost", () => {
    fc.assert(
      fc.property(beliefOf(model), (p) => {
        const options = planner.options(p);
        let last = 0;
        for (const o of options) {
          expect(o.cures).toBeGreaterThanOrEqual(0);
          expect(o.cures).toBeLessThanOrEqual(1 + 1e-9);
          expect(o.expectedCost).toBeGreaterThanOrEqual(o.cost - 1e-9);
          expect(o.expectedCost).toBeGreaterThanOrEqual(last - 1e-9);
          last = o.expectedCost;
        }
      }),
      { numRuns: 25 },
    );
  });
  it("a dearer hour never makes anything cheaper", () => {
    const dear = new Planner(model, { hourlyRate: 110 });
    fc.assert(
      fc.property(beliefOf(model), (p) => {
        const cheap = planner.options(p);
        for (const o of dear.options(p)) {
          const same = cheap.find((c) => c.repair.id === o.repair.id);
          expect(o.cost).toBeGreaterThanOrEqual(same?.cost ?? Infinity);
        }
      }),
      { numRuns: 25 },
    );
  });
  it("checks are advised in order of what they cost in all, and each tells what follows from every outcome", () => {
    fc.assert(
      fc.property(beliefOf(model), (p) => {
        const { checks } = planner.advise(p, new Set());
        let last = 0;
        for (const c of checks) {
          expect(c.expectedCost).toBeGreaterThanOrEqual(last - 1e-6);
          last = c.expectedCost;
          expect(c.branches.reduce((s, b) => s + b.probability, 0)).toBeCloseTo(1, 6);
        }
      }),
      { numRuns: 6 },
    );
  });
  it("never advises what has been done", () => {
    const p = new Float64Array(model.faults.length).fill(1 / model.faults.length);
    const all = new Set(model.checks.map((c) => c.id));
    const advice = planner.advise(p, all);
    expect(advice.checks).toEqual([]);
    expect(advice.act).toBe("repair");
  });
});
