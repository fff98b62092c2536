// Guards: drawn autopsies are told apart from what was written down, in this family of vehicles and nearly so in others; the stated odds hold.

import { readFileSync } from "node:fs";
import { type BenchKnowledge, checkBenchKnowledge } from "@gearsense/core/knowledge";
import { describe, expect, it } from "@jest/globals";
import { countedCauses, drawAutopsy, summariseAutopsies } from "./autopsies.ts";
import { units as library } from "./testing/library.ts";

const bench = JSON.parse(
  readFileSync(new URL("../../library/knowledge/bench.json", import.meta.url), "utf8"),
) as BenchKnowledge;
const units = library.filter((u) => u.kind === "planetary");
const summary = (from: number, world: number, cases = 900) =>
  summariseAutopsies(Array.from({ length: cases }, (_, i) => drawAutopsy(units, bench, from + i, world)));

describe("autopsies with a known cause", () => {
  it("are named first in four of five and among three in 95 of 100, and the odds hold within eight points", () => {
    const s = summary(5_000_000, 0);
    expect(s.first).toBeGreaterThan(0.8);
    expect(s.inThree).toBeGreaterThan(0.95);
    expect(s.off).toBeLessThan(0.08);
  });
  it("of other families, where less is told and looked at, are mostly named", () => {
    for (const world of [1, 2, 3]) expect(summary(7_000_000, world, 400).inThree).toBeGreaterThan(0.85);
  });
  it("are the same for the same seed, others for another, and met in every cause", () => {
    expect(drawAutopsy(units, bench, 11)).toEqual(drawAutopsy(units, bench, 11));
    const causes = new Set(Array.from({ length: 200 }, (_, i) => drawAutopsy(units, bench, i).cause));
    expect([...causes].sort()).toEqual(bench.causes.map((c) => c.id).sort());
  });
  it("count what each cause shows beside what is judged, which stays", () => {
    const counted = countedCauses(units, bench, 100, 1500);
    expect(checkBenchKnowledge(counted)).toEqual([]);
    const flow = (k: BenchKnowledge) => k.signs.find((s) => s.sign === "flow");
    expect(flow(counted)?.rows).toEqual(flow(bench)?.rows);
    expect(flow(counted)?.counted?.cooler?.p.low).toBeGreaterThan(0.9);
    expect(flow(counted)?.counted?.cooler?.units).toBeGreaterThan(30);
    // thirty of a cause are needed before it counts
    expect(flow(countedCauses(units, bench, 100, 60))?.counted).toEqual({});
  });
  it("without knowledge are named by their weights alone: the first is right as often as it is common", () => {
    const blind = { ...bench, signs: [] };
    const scores = Array.from({ length: 400 }, (_, i) => drawAutopsy(units, blind, 9_000_000 + i));
    const s = summariseAutopsies(scores);
    const total = bench.causes.reduce((sum, c) => sum + c.weight, 0);
    expect(s.first).toBeGreaterThan(1.4 / total - 0.06);
    expect(s.first).toBeLessThan(1.4 / total + 0.06);
  });
});
