// Guards: one price for an option: closed form, what is open saves labour only, bundles, typed prices, units without filter.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { INTRUSIVENESS } from "../../knowledge/index.ts";
import { libraryKnowledge, libraryUnit, libraryUnits } from "../../testing/units.ts";
import { Belief } from "../belief/belief.ts";
import { generateRepairs, Planner, type Repair, SuspectModel, sumsOf } from "../index.ts";
import { MOST_ACCESS, openedBy, optionId, priceOf, refillL } from "./price.ts";

const knowledge = libraryKnowledge();
const brae = libraryUnit("brae-p6");
const money = { hourlyRate: 72 };
const repairs = generateRepairs(brae, knowledge);
const repair = (id: string) => repairs.find((r) => r.id === id) as Repair;
const levels = fc.subarray([...INTRUSIVENESS]);

describe("the price of an option", () => {
  it("is hours × rate + part + litres × fluid + filter", () => {
    const kit = repair("rebuild:HC");
    const price = priceOf(brae, knowledge, kit, undefined, 0, money);
    expect(price.total).toBeCloseTo(12 * 72 + 640 + brae.fluid.totalL * knowledge.fluidPerL + knowledge.filterCost, 9);
    expect(price.total).toBeCloseTo(price.labourCost + price.partsCost, 9);
    expect(price.least).toBeCloseTo(price.total - 3 * 72, 9);
    expect(price.most).toBeCloseTo(price.total + 6 * 72, 9);
    const pack = kit.sources?.find((s) => s.id === "pack");
    expect(price.total - priceOf(brae, knowledge, kit, pack, 0, money).total).toBeCloseTo(640 - 240, 9);
  });
  it("what is open saves labour, never parts, and never more than four fifths of the best hours", () => {
    fc.assert(
      fc.property(fc.constantFrom(...libraryUnits()), levels, (unit, open) => {
        const opened = openedBy(knowledge, open);
        for (const r of generateRepairs(unit, knowledge)) {
          const [closed, now] = [0, opened].map((o) => priceOf(unit, knowledge, r, undefined, o, money));
          if (!closed || !now) throw new Error("no price");
          expect(now.partsCost).toBe(closed.partsCost);
          expect(now.total).toBeGreaterThan(now.partsCost);
          expect(now.savedH).toBeLessThanOrEqual(MOST_ACCESS * r.hours[0] + 1e-9);
          expect(now.hours[0]).toBeGreaterThanOrEqual((1 - MOST_ACCESS) * r.hours[0] - 1e-9);
          expect(closed.total - now.total).toBeCloseTo(now.savedH * 72, 6);
        }
      }),
      { numRuns: 40 },
    );
  });
  it("fills again what ran out: the pan or all of it; a dry dual clutch has no filter", () => {
    expect(refillL(brae, repair("solenoid:sol_HC"))).toBe(brae.fluid.panDrainL);
    expect(refillL(brae, repair("rebuild:HC"))).toBe(brae.fluid.totalL);
    expect(refillL(brae, repair("harness:net_output"))).toBe(0);
    const kinds = (id: string, of: string) => {
      const unit = libraryUnit(id);
      const r = generateRepairs(unit, knowledge).find((x) => x.id === of) as Repair;
      return priceOf(unit, knowledge, r, undefined, 0, money).lines.map((l) => l.kind);
    };
    expect(kinds("corran-w7", "dual-clutch-pack")).toEqual(["labour", "part", "fluid", "filter"]);
    expect(kinds("machair-d6", "dual-clutch-pack")).toEqual(["labour", "part", "fluid"]);
  });
  it("is what was typed for that very option, with the spread of the library's hours", () => {
    const kit = repair("rebuild:HC");
    const lines = [
      { kind: "labour", quantity: 10, each: 80 },
      { kind: "part", quantity: 2, each: 150 },
      { kind: "other", quantity: 1, each: 12.5 },
    ];
    const own = { [optionId(kit)]: sumsOf(lines) };
    const price = priceOf(brae, knowledge, kit, undefined, openedBy(knowledge, ["unit out"]), { ...money, own });
    expect(price.total).toBeCloseTo(1112.5, 9);
    expect(price.hours[2] / price.hours[1]).toBeCloseTo(kit.hours[2] / kit.hours[1], 9);
    const pack = kit.sources?.find((s) => s.id === "pack");
    const other = priceOf(brae, knowledge, kit, pack, 0, { ...money, own });
    expect(other.total).toBe(priceOf(brae, knowledge, kit, pack, 0, money).total);
  });
  it("two repairs in one visit cost at least the dearer and at most both", () => {
    const model = new SuspectModel(brae, knowledge);
    const at = (id: string) => model.faults.findIndex((f) => f.id === id);
    const pairs = [
      ["element-worn:HC", "fluid-degraded"],
      ["solenoid-leaks:sol_HC", "valve-bore-worn:HC"],
      ["element-worn:HC", "mount"],
    ] as const;
    for (const [a, b] of pairs) {
      const p = new Float64Array(model.sets.count);
      for (let k = 0; k < p.length; k++) {
        const m = model.sets.membersOf(k);
        if (m.length === 2 && m.includes(at(a)) && m.includes(at(b))) p[k] = 1;
      }
      const space = new Planner(model, money).space(new Belief(model.sets, p));
      const bundle = space.repairs.find((r) => r.id.includes("+"));
      if (!bundle) throw new Error(`no bundle for ${a} and ${b}`);
      const parts = bundle.id.split("+").map((id) => space.priceOf(repair(id), 0).total);
      const whole = space.priceOf(bundle, 0).total;
      expect(whole).toBeGreaterThanOrEqual(Math.max(...parts));
      expect(whole).toBeLessThanOrEqual(parts.reduce((x, y) => x + y, 0) + 1e-9);
    }
  });
  it("an exchange cures several faults of the unit at once, and none outside it", () => {
    const model = new SuspectModel(brae, knowledge);
    const of = (...ids: string[]) => {
      const p = new Float64Array(model.sets.count);
      const want = ids.map((id) => model.faults.findIndex((f) => f.id === id));
      for (let k = 0; k < p.length; k++) {
        const m = model.sets.membersOf(k);
        if (m.length === want.length && want.every((i) => m.includes(i))) p[k] = 1;
      }
      const space = new Planner(model, money).space(new Belief(model.sets, p));
      const r = space.repairs.findIndex((x) => x.id === "exchange");
      return r < 0 ? 0 : space.curesOf(space.start, r);
    };
    const single = of("element-worn:HC");
    expect(of("element-worn:HC", "converter-lining:converter-clutch")).toBeCloseTo(single, 9);
    expect(of("element-worn:HC", "mount")).toBe(0);
    expect(of("mount")).toBe(0);
  });
});
