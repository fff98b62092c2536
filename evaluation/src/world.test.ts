// Guards: another world is what the page says it is: other odds, doubled errors, contaminated observations, unknown faults.

import { seededRandom } from "@gearsense/core/chance";
import { type Evidence, SuspectModel } from "@gearsense/core/suspect";
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { drawJob } from "./jobs.ts";
import type { JobScore } from "./judge-job.ts";
import { knowledge, unitOf, units } from "./testing/library.ts";
import { contaminate, withErrors, worldOf } from "./world.ts";
import { worldFigures, worldPage } from "./world-page.ts";

describe("errors", () => {
  it("come so many times as often, and the likeliest outcome keeps a third", () => {
    expect(withErrors([0.9, 0.06, 0.04], 2)).toEqual([0.8, 0.12, 0.08].map((x) => expect.closeTo(x, 9)));
    expect(withErrors([0.5, 0.5], 2).map((x) => Math.round(x * 1000))).toEqual([333, 667]);
    expect(withErrors([1, 0], 2)).toEqual([1, 0]);
  });
  it("sum to one, and are as they were with a factor of one", () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0.01, max: 1, noNaN: true }), { minLength: 2, maxLength: 6 }), (raw) => {
        const total = raw.reduce((a, b) => a + b, 0);
        const p = raw.map((x) => x / total);
        expect(withErrors(p, 2).reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9);
        withErrors(p, 1).forEach((x, i) => {
          expect(x).toBeCloseTo(p[i] as number, 9);
        });
      }),
    );
  });
});

describe("a world", () => {
  it("0 is our own; any other makes each class three times as common or as rare, the same each time", () => {
    expect(worldOf(0).priorFactor("wire")).toBe(1);
    const factors = knowledge.faults.map((f) => worldOf(1).priorFactor(f.id));
    for (const f of factors) expect([3, 1 / 3]).toContain(f);
    expect(new Set(factors).size).toBe(2);
    expect(knowledge.faults.map((f) => worldOf(1).priorFactor(f.id))).toEqual(factors);
    expect(knowledge.faults.map((f) => worldOf(2).priorFactor(f.id))).not.toEqual(factors);
  });
  it("draws one vehicle in twenty or so with a fault that is not in the catalogue, and other vehicles than ours", () => {
    const jobs = Array.from({ length: 600 }, (_, n) => drawJob("tuning", 5, n, units, knowledge, worldOf(3)));
    const outside = jobs.filter((j) => j.outside);
    expect(outside.length).toBeGreaterThan(10);
    expect(outside.length).toBeLessThan(45);
    for (const j of outside) {
      expect(j.faultIds).toEqual([]);
      expect(j.faults).toHaveLength(1);
    }
    expect(jobs.every((j) => j.world === 3)).toBe(true);
    expect(
      Array.from({ length: 100 }, (_, n) => drawJob("tuning", 5, n, units, knowledge)).some((j) => j.outside),
    ).toBe(false);
  });
  it("contaminates the share it states, with outcomes that the table has", () => {
    const model = new SuspectModel(unitOf("brae-p6"), knowledge);
    const table = knowledge.evidence.find((t) => t.evidence === "fluid-level");
    const piece: Evidence = {
      id: "level",
      table: "fluid-level",
      subject: {},
      outcome: "ok",
      label: "",
      entryId: "level",
      abnormal: false,
    };
    const many = Array.from({ length: 4000 }, () => piece);
    const seen = contaminate(model, many, 0.05, seededRandom(2));
    const changed = seen.filter((e) => e.outcome !== "ok");
    const others = 1 - 1 / (table?.outcomes.length ?? 1);
    expect(changed.length / many.length / others).toBeGreaterThan(0.035);
    expect(changed.length / many.length / others).toBeLessThan(0.065);
    for (const e of changed) expect(table?.outcomes).toContain(e.outcome);
    expect(contaminate(model, many, 0, seededRandom(2))).toEqual(many);
  });
});

describe("its page", () => {
  const score = (rank: number, p: number, right: boolean, more: object = {}): JobScore =>
    ({
      spec: { faultIds: ["wire:x"], outside: false },
      rank,
      placeRank: rank,
      leading: { p, right },
      followed: { "expected-cost": { right, atOnce: right } },
      ...more,
    }) as unknown as JobScore;
  const many = (n: number, of: JobScore) => Array.from({ length: n }, () => of);
  const sound = (advised: boolean, outside = false) =>
    score(1, 0.99, true, {
      spec: { faultIds: [], outside },
      followed: { "expected-cost": { right: !advised, atOnce: !advised } },
    });

  it("marks what misses its target, on both sides of it", () => {
    const page = (right: number, of: number) =>
      worldPage(
        [{ world: 1, scores: [...many(right, score(1, 0.8, true)), ...many(of - right, score(2, 0.8, false))] }],
        "tuning",
        1,
      );
    expect(page(75, 100)).toMatch(/Right fault first \| ≥ 75 % \| 75\.0 % \|/);
    expect(page(74, 100)).toMatch(/Right fault first \| ≥ 75 % \| 74\.0 % ✗/);
    expect(page(68, 100)).toMatch(/Stated 70 to 90 %: is right \| 68–92 % \| 68\.0 % \(100\) \|/);
    expect(page(67, 100)).toMatch(/67\.0 % \(100\) ✗/);
    expect(page(92, 100)).toMatch(/92\.0 % \(100\) \|/);
    expect(page(93, 100)).toMatch(/93\.0 % \(100\) ✗/);
  });
  it("counts of what is stated from 70 to below 90 % only, and sound vehicles apart from those with a fault it does not know", () => {
    const figures = worldFigures([
      score(1, 0.7, true),
      score(1, 0.69, true),
      score(1, 0.9, true),
      ...many(93, sound(false)),
      ...many(7, sound(true)),
      sound(true, true),
    ]);
    expect(figures.stated.count).toBe(1);
    expect(figures.healthy).toEqual({ count: 100, noRepair: 0.93 });
    expect(figures.outside).toEqual({ count: 1, noRepair: 0 });
    expect(
      worldPage([{ world: 1, scores: [...many(92, sound(false)), ...many(8, sound(true))] }], "tuning", 1),
    ).toMatch(/no repair is advised \| ≥ 93 % \| 92\.0 % \(100\) ✗/);
  });
});
