// Guards: what plans are made in — probability is neither made nor lost, what is open is never paid for twice, several
// repairs in one visit cost less than one by one and cure no less.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { INTRUSIVENESS, type Intrusiveness } from "../../knowledge/index.ts";
import { libraryKnowledge, libraryUnit } from "../../testing/units.ts";
import { Belief } from "../belief/belief.ts";
import { cureOf, FRESH, generateRepairs, Planner, SuspectModel } from "../index.ts";
import { accessLeft, openedBy, priceOf } from "./price.ts";
import { checkEffort } from "./space.ts";

const knowledge = libraryKnowledge();
const money = { hourlyRate: 72 };
const models = ["brae-p6", "machair-d6"].map((id) => [id, new SuspectModel(libraryUnit(id), knowledge)] as const);

/** A belief over some single faults and some pairs of them. */
const beliefs = (model: SuspectModel) =>
  fc
    .uniqueArray(fc.tuple(fc.nat(model.sets.count - 1), fc.double({ min: 0.02, max: 1, noNaN: true })), {
      minLength: 1,
      maxLength: 8,
      selector: ([k]) => k,
    })
    .map((weights) => {
      const p = new Float64Array(model.sets.count);
      for (const [k, w] of weights) p[k] = w;
      const total = p.reduce((a, b) => a + b, 0);
      return new Belief(
        model.sets,
        p.map((x) => x / total),
      );
    });
const spaces = (model: SuspectModel, of = beliefs(model)) => {
  const planner = new Planner(model, money);
  return of.map((b) => planner.space(b, FRESH));
};
/** Either of two faults, or both. */
const either = (model: SuspectModel) =>
  fc
    .uniqueArray(fc.nat(model.sets.real - 1), { minLength: 2, maxLength: 2 })
    .map((two) => two.toSorted((a, b) => a - b) as [number, number])
    .map(([i, j]) => {
      const p = new Float64Array(model.sets.count);
      p[i] = 0.3;
      p[j] = 0.3;
      p[model.sets.pair(i, j)] = 0.4;
      return new Belief(model.sets, p);
    });
const levels = fc.subarray([...INTRUSIVENESS] as Intrusiveness[]);
const sum = (p: ArrayLike<number>) => Array.from(p).reduce((a, b) => a + b, 0);

describe.each(models)("the space of plans, %s", (_, model) => {
  it("starts with all of the probability, and holds every part of every set", () => {
    fc.assert(
      fc.property(spaces(model), (space) => {
        expect(sum(space.start)).toBeCloseTo(1, 9);
        const known = new Set(space.sets.map((s) => s.members.join()));
        for (const { members } of space.sets)
          for (const left of members)
            expect(known.has(members.filter((m) => m !== left || members.length === 1).join())).toBe(true);
      }),
      { numRuns: 20 },
    );
  });
  it("a repair parts what there is into cured and left: nothing is lost", () => {
    fc.assert(
      fc.property(spaces(model), (space) => {
        space.repairs.forEach((_r, r) => {
          const left = space.after(space.start, r);
          expect(sum(left) + space.curesOf(space.start, r)).toBeCloseTo(1, 9);
          expect(Math.min(...left)).toBeGreaterThanOrEqual(0);
        });
      }),
      { numRuns: 20 },
    );
  });
  it("the outcomes of a check have probability one under every set", () => {
    fc.assert(
      fc.property(spaces(model), (space) => {
        space.checks.forEach((_c, c) => {
          const rows = space.outcomeRows(c);
          for (const k of space.sets.keys())
            expect(rows.reduce((s, row) => s + (row[k] as number), 0)).toBeCloseTo(1, 6);
        });
      }),
      { numRuns: 6 },
    );
  });
  it("several repairs in one visit cost no more than one by one, no less than the dearest, and cure at least as surely", () => {
    let seen = 0;
    fc.assert(
      fc.property(spaces(model, either(model)), (space) => {
        const prices = space.prices(0);
        space.repairs.forEach((repair, r) => {
          const parts = repair.id.split("+").map((id) => space.repairs.findIndex((x) => x.id === id));
          if (parts.length < 2 || parts.includes(-1)) return;
          seen++;
          expect(repair.title).toMatch(/; [a-z]/);
          const single = parts.map((x) => prices[x] as number);
          expect(prices[r]).toBeLessThanOrEqual(sum(single) + 1e-6);
          expect(prices[r]).toBeGreaterThanOrEqual(Math.max(...single) - 1e-6);
          space.sets.forEach((_s, k) => {
            for (const x of parts)
              expect(space.cures[r]?.[k]).toBeGreaterThanOrEqual((space.cures[x]?.[k] as number) - 1e-9);
          });
        });
      }),
      { numRuns: 40, seed: 5 },
    );
    expect(seen).toBeGreaterThan(10);
  });
  it("narrowed to some checks and repairs it prices them as before", () => {
    fc.assert(
      fc.property(spaces(model), fc.nat(1000), (space, n) => {
        const checks = space.checks.map((_, c) => c).filter((c) => (c + n) % 3 === 0);
        const repairs = space.repairs.map((_, r) => r).filter((r) => (r + n) % 2 === 0);
        const some = space.narrowed(checks, repairs);
        expect(some.checks.map((c) => c.id)).toEqual(checks.map((c) => space.checks[c]?.id));
        expect(Array.from(some.checkCosts(0))).toEqual(checks.map((c) => space.checkCosts(0)[c]));
        expect(Array.from(some.prices(0))).toEqual(repairs.map((r) => space.prices(0)[r]));
        for (const [at, c] of checks.slice(0, 3).entries()) expect(some.outcomeRows(at)).toEqual(space.outcomeRows(c));
      }),
      { numRuns: 15 },
    );
  });
  it("a set that came back costs at least the comeback, the look and a cure", () => {
    fc.assert(
      fc.property(spaces(model), (space) => {
        const least = knowledge.comebackCost + knowledge.secondLookCost;
        for (const k of space.sets.keys()) expect(space.lookAgain(k)).toBeGreaterThan(least);
      }),
      { numRuns: 10 },
    );
  });
});

describe("what is open", () => {
  const [, model] = models[0] as (typeof models)[number];
  const repairs = generateRepairs(model.unit, knowledge);
  it("costs nothing to open again, and what it gives is open too", () => {
    for (const level of INTRUSIVENESS) {
      const opened = openedBy(knowledge, [level]);
      for (const l of [level, ...knowledge.access[level].gives])
        expect(accessLeft(knowledge, l, opened)).toMatchObject({ minutes: 0, materialCost: 0 });
    }
  });
  it("makes no check and no repair dearer, however it came to be open", () => {
    fc.assert(
      fc.property(levels, levels, (a, b) => {
        const [less, more] = [openedBy(knowledge, a), openedBy(knowledge, [...a, ...b])];
        for (const c of model.checks) {
          const [x, y] = [checkEffort(knowledge, c, less), checkEffort(knowledge, c, more)];
          expect(y.minutes).toBeLessThanOrEqual(x.minutes);
          expect(y.materialCost).toBeLessThanOrEqual(x.materialCost);
          expect(y.minutes).toBeGreaterThanOrEqual(c.minutes);
        }
        for (const r of repairs) {
          const at = (opened: number) => priceOf(model.unit, knowledge, r, undefined, opened, money).total;
          expect(at(more)).toBeLessThanOrEqual(at(less) + 1e-9);
        }
      }),
      { numRuns: 40 },
    );
  });
  it("order does not matter", () => {
    fc.assert(
      fc.property(levels, (list) => {
        expect(openedBy(knowledge, list)).toBe(openedBy(knowledge, list.toReversed()));
      }),
    );
  });
});

it("a repair cures with a probability, and each cures something", () => {
  for (const [, model] of models) {
    for (const repair of generateRepairs(model.unit, knowledge)) {
      const cure = cureOf(model, repair);
      expect(Math.max(...cure)).toBeGreaterThan(0);
      expect(Math.max(...cure)).toBeLessThanOrEqual(1);
      expect(Math.min(...cure)).toBeGreaterThanOrEqual(0);
    }
  }
});
