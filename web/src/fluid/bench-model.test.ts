// Guards: what the fluid bench works out of what it is asked: choice of a way, history, duty, mixing, level.
import type { Unit } from "@gearsense/core/unit";
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { type BenchValue, emptyBench, idOf, workOut } from "./bench-model.ts";

const unit = {
  name: "Test unit",
  fluid: {
    spec: "ATF type T",
    totalL: 10,
    panDrainL: 4,
    coolerL: 0.8,
    intervalKm: 60_000,
    level: { method: "overflow", referenceC: 40, windowC: [35, 45], toleranceL: 0.2, steps: "" },
  },
} as unknown as Unit;
const work = (patch: Partial<BenchValue> = {}, spells: Parameters<typeof workOut>[3] = []) =>
  workOut(unit, { ...emptyBench(unit), ...patch }, 60, spells);

describe("the way", () => {
  it("is the cheapest that reaches the aim until another is chosen, and the chosen one stays", () => {
    const { options, chosen } = work();
    expect(chosen).toBe(options[0]);
    expect(chosen.reaches).toBe(true);
    for (const o of options) expect(idOf(work({ way: idOf(o) }).chosen)).toBe(idOf(o));
  });
  it("one that is not offered any more falls back to the cheapest", () => {
    const { options, chosen } = work({ way: "exchange-9" });
    expect(chosen).toBe(options[0]);
  });
  it("any drained volume that is typed gives a way", () => {
    fc.assert(
      fc.property(fc.option(fc.double({ min: -5, max: 40, noNaN: true })), (drainL) => {
        const { chosen, drainL: taken } = work({ drainL });
        expect(taken).toBeGreaterThan(0);
        expect(taken).toBeLessThanOrEqual(10);
        expect(Number.isFinite(chosen.cost)).toBe(true);
      }),
    );
  });
  it("without a cooler line nothing is exchanged", () => {
    const dry = { ...unit, fluid: { ...unit.fluid, coolerL: 0 } } as Unit;
    expect(workOut(dry, emptyBench(dry), 60, []).options.some((o) => o.kind === "exchange")).toBe(false);
  });
});

describe("history", () => {
  const drive = [{ fluidC: 80, hours: 1 }];
  it("recorded drives stand in until hours are typed", () => {
    expect(work({}, drive).history).toEqual(drive);
    expect(work({ hours: { hot: 3, cool: null } }, drive).history).toEqual([{ fluidC: 115, hours: 3 }]);
  });
  it("heat shortens the interval", () => {
    expect(work({ hours: { hot: 1, cool: 1 } }).interval.km).toBeLessThan(work({ hours: { cool: 2 } }).interval.km);
  });
});

describe("mixing", () => {
  it.each<[string, Partial<BenchValue>, number, number | undefined]>([
    ["the same fluid", {}, 0, undefined],
    ["the same, written otherwise", { inUnit: " atf TYPE t" }, 0, undefined],
    ["another in it, 85 % renewed", { inUnit: "ATF type X" }, 1, 2000],
    ["another in it, 95 % renewed", { inUnit: "ATF type X", targetPct: 95 }, 1, undefined],
    ["nobody knows", { inUnit: "" }, 1, 2000],
  ])("%s", (_, patch, warnings, secondKm) => {
    const worked = work(patch);
    expect(worked.warnings).toHaveLength(warnings);
    expect(worked.interval.secondChangeKm).toBe(secondKm);
  });
});

it("the level needs both a reading and a temperature", () => {
  expect(work({ litresFromFull: -0.4 }).level).toBeUndefined();
  expect(work({ litresFromFull: -0.4, fluidC: 40 }).level?.atReferenceL).toBeCloseTo(-0.4, 9);
});
