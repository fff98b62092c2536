// Guards: what proved jobs say of the odds: shares that sum to one, factors by their closed form, and a model that is only weighed anew.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { madeEvidence } from "../testing/index.ts";
import { libraryKnowledge, libraryUnit, libraryUnits } from "../testing/units.ts";
import {
  believe,
  expectedIn,
  foundBy,
  generateFaults,
  generateRepairs,
  MOST_FACTOR,
  namedFactors,
  type OwnJobs,
  ownFactors,
  ownJobs,
  SHAPE,
  SuspectModel,
} from "./index.ts";

const knowledge = libraryKnowledge();
const brae = libraryUnit("brae-p6");
const sum = (of: Readonly<Record<string, number>>) => Object.values(of).reduce((a, b) => a + b, 0);
const title = (id: string) => generateFaults(brae, knowledge).find((f) => f.id === id)?.title as string;

describe("what a job has shown", () => {
  it("shares that are expected sum to one in every unit, by the library's weights", () => {
    for (const unit of libraryUnits()) {
      const expected = expectedIn(unit, knowledge);
      expect(sum(expected)).toBeCloseTo(1, 12);
      const [low, wrong] = ["fluid-low", "fluid-wrong"].map((id) => knowledge.faults.find((f) => f.id === id)?.weight);
      expect((expected["fluid-low"] as number) / (expected["fluid-wrong"] as number)).toBeCloseTo(
        (low as number) / (wrong as number),
        12,
      );
    }
  });
  it("a repair shows what it cures, and sums to one for every repair of every unit that says anything", () => {
    expect(Object.keys(foundBy(brae, knowledge, "mount", []))).toEqual(["mount"]);
    for (const unit of [brae, libraryUnit("corran-w7")])
      for (const r of generateRepairs(unit, knowledge)) {
        const found = foundBy(unit, knowledge, r.id, []);
        if (Object.keys(found).length > 0) expect(sum(found)).toBeCloseTo(1, 9);
        const cured = new Set(r.cures.flatMap((c) => c.faults));
        for (const c of Object.keys(found)) expect(cured.has(c)).toBe(true);
      }
  });
  it("of several that it cures the one counts most that was held likeliest", () => {
    const worn = title("element-worn:TC");
    const rebuild = generateRepairs(brae, knowledge).find((r) => r.id === "rebuild:TC")?.id as string;
    const plain = foundBy(brae, knowledge, rebuild, []);
    const told = foundBy(brae, knowledge, rebuild, [{ title: worn, probability: 0.97 }]);
    expect(plain["element-worn"] as number).toBeLessThan(0.9);
    expect(told["element-worn"] as number).toBeGreaterThan(0.97);
  });
  it("two repairs in one visit count for half a fault each", () => {
    const [mount, battery] = [foundBy(brae, knowledge, "mount", []), foundBy(brae, knowledge, "battery", [])];
    expect(foundBy(brae, knowledge, "mount+battery", [])).toEqual({
      ...Object.fromEntries(Object.entries(battery).map(([c, n]) => [c, n / 2])),
      ...Object.fromEntries(Object.entries(mount).map(([c, n]) => [c, n / 2])),
    });
  });
  it("handed back, or a repair that this unit does not have, shows nothing", () => {
    expect(foundBy(brae, knowledge, "hand-back", [])).toEqual({});
    expect(foundBy(brae, knowledge, "no-such", [])).toEqual({});
  });
});

const counts = fc
  .array(fc.tuple(fc.integer({ min: 0, max: 60 }), fc.integer({ min: 1, max: 40 })), { minLength: 2, maxLength: 12 })
  .map((list): OwnJobs => {
    const all = list.reduce((s, [n]) => s + n, 0);
    const weights = list.reduce((s, [, w]) => s + w, 0);
    return {
      jobs: all,
      found: Object.fromEntries(list.map(([n], i) => [`c${i}`, n])),
      expected: Object.fromEntries(list.map(([, w], i) => [`c${i}`, (all * w) / weights])),
    };
  });

describe("factors", () => {
  it("are one without a job, and one when everything comes as expected", () => {
    expect(ownFactors(ownJobs([]))).toEqual([]);
    const as = { a: 0.25, b: 0.75 };
    for (const { factor } of ownFactors(ownJobs(Array(40).fill({ found: as, expected: as }))))
      expect(factor).toBeCloseTo(1, 12);
  });
  it("follow the closed form of a gamma prior met by Poisson counts, one on average over what was expected", () => {
    fc.assert(
      fc.property(counts, (own) => {
        const factors = ownFactors(own);
        const raw = (c: string) => (SHAPE + (own.found[c] as number)) / (SHAPE + (own.expected[c] as number));
        const bounded = factors.some((f) => f.factor === MOST_FACTOR || f.factor === 1 / MOST_FACTOR);
        const [a, b] = factors;
        if (!bounded && a && b) expect(a.factor / b.factor).toBeCloseTo(raw(a.classId) / raw(b.classId), 9);
        if (!bounded && own.jobs > 0)
          expect(factors.reduce((s, f) => s + f.expected * f.factor, 0)).toBeCloseTo(own.jobs, 6);
        for (const f of factors) {
          expect(f.factor).toBeGreaterThanOrEqual(1 / MOST_FACTOR);
          expect(f.factor).toBeLessThanOrEqual(MOST_FACTOR);
        }
      }),
    );
  });
  it("move little with one job and far with many, never past the bound", () => {
    const shop = (n: number) =>
      ownJobs(Array.from({ length: n }, () => ({ found: { a: 1 }, expected: { a: 0.1, b: 0.9 } })));
    const of = (n: number) => ownFactors(shop(n)).find((f) => f.classId === "a")?.factor as number;
    expect(of(1)).toBeGreaterThan(1);
    expect(of(1)).toBeLessThan(2);
    expect(of(10)).toBeGreaterThan(of(1));
    expect(of(2000)).toBe(MOST_FACTOR);
  });
  it("have a name that speaks of any component, for every class of the library", () => {
    const all = knowledge.faults.map((f) => ({ classId: f.id, found: 0, expected: 1, factor: 1 }));
    const named = namedFactors(knowledge, all);
    expect(named).toHaveLength(knowledge.faults.length);
    for (const n of named) expect(n.title).not.toMatch(/\{/);
    expect(named.find((n) => n.classId === "element-worn")?.title).toBe("A clutch or brake: lining worn or burnt");
    expect(namedFactors(knowledge, [{ classId: "gone", found: 0, expected: 1, factor: 1 }])).toEqual([]);
  });
});

describe("a model weighed anew", () => {
  const model = new SuspectModel(brae, knowledge);
  const { item } = madeEvidence();
  const seen = [item("gear", "slips", { gear: "3" }), item("gear", "slips", { gear: "5" })];
  it("is the same with factors of one, and equals one made with such weights", () => {
    const same = model.weighing(new Map());
    model.priors.forEach((p, k) => {
      expect(same.priors[k]).toBeCloseTo(p, 12);
    });
    const factors = new Map([
      ["element-worn", 3],
      ["fluid-low", 0.4],
    ]);
    const made = new SuspectModel(brae, {
      ...knowledge,
      faults: knowledge.faults.map((f) => ({ ...f, weight: f.weight * (factors.get(f.id) ?? 1) })),
    });
    const [a, b] = [believe(model.weighing(factors), seen).marginals(), believe(made, seen).marginals()];
    a.forEach((p, i) => {
      expect(p).toBeCloseTo(b[i] as number, 9);
    });
  });
  it("moves odds by the ratio of the factors where one fault stands against another, and leaves the first model alone", () => {
    const i = model.faults.findIndex((f) => f.id === "element-worn:TC");
    const j = model.faults.findIndex((f) => f.classId === "fluid-low");
    const before = model.priors.slice();
    const other = model.weighing(new Map([["element-worn", 3]]));
    const ratio = (m: SuspectModel) => (m.priors[i] as number) / (m.priors[j] as number);
    expect(ratio(other) / ratio(model)).toBeCloseTo(3, 9);
    expect([...model.priors]).toEqual([...before]);
  });
});
