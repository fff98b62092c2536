// Guards: every unit of the library can be measured; windows and expectations go together; the unit of a reading is asked for.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { libraryKnowledge, libraryUnit, libraryUnits } from "../testing/units.ts";
import { meanRadiusMm } from "../unit/index.ts";
import { benchPlaces, measureAgainWith, otherUnit, packBuilt, readValue, verdictOf } from "./index.ts";

const { bench, instruments } = libraryKnowledge();
const cautions = new Set(Object.keys(libraryKnowledge().cautions));

describe("places of the bench", () => {
  it.each(libraryUnits().map((u) => [u.id, u] as const))(
    "%s has every place once, with windows inside what is expected",
    (_id, unit) => {
      const places = benchPlaces(unit, bench);
      expect(new Set(places.map((p) => p.id)).size).toBe(places.length);
      for (const e of unit.elements.filter((x) => x.plates && x.bench)) {
        expect(places.some((p) => p.id === `pack:${e.id}`)).toBe(true);
        expect(e.bench?.selective?.sizesMm.length).toBeGreaterThan(2);
        expect(e.bench?.depthMm).toBeGreaterThan(0);
        expect(packBuilt(e)?.apply.meanRadiusMm).toBeCloseTo(
          meanRadiusMm(e.bench?.innerRadiusMm ?? 0, e.bench?.outerRadiusMm ?? 1),
          9,
        );
      }
      for (const p of places) {
        for (const c of p.cautions) expect(cautions.has(c)).toBe(true);
        expect(new Set(p.measures.map((m) => m.id)).size).toBe(p.measures.length);
        for (const m of p.measures) {
          if (m.instrument !== "maker") expect(instruments.some((i) => i.id === m.instrument)).toBe(true);
          if (m.expected) {
            expect(m.expected[0]).toBeGreaterThan(0);
            if (m.from !== undefined && m.from > 0) expect(m.from).toBeGreaterThan(m.expected[0]);
            if (m.to !== undefined) expect(m.to).toBeLessThanOrEqual(m.expected[1]);
          }
        }
      }
      const kinds = new Set(places.map((p) => p.kind));
      expect(kinds.has("dual-clutch")).toBe(unit.kind !== "planetary");
      expect(kinds.has("converter-fit")).toBe(unit.kind === "planetary");
      expect(kinds.has("cooler")).toBe(unit.kind !== "dct-dry");
    },
  );
});

describe("a reading", () => {
  const micrometer = { percent: 0, fixed: 0.006 };
  it("is the mean of its repeats, surer than one of them but never than its instrument", () => {
    const one = readValue([1.8], micrometer);
    const many = readValue([1.79, 1.8, 1.81, 1.8], micrometer);
    expect(many.value).toBeCloseTo(1.8, 12);
    expect(one.uncertainty).toBe(0.006);
    expect(many.uncertainty).toBeGreaterThan(0.006);
    expect(readValue([5], { percent: 1, fixed: 0 }, 95).value).toBeCloseTo(5 / (1 + 0.00393 * 75), 9);
  });
  it("is in, out or too close to call", () => {
    const at = (value: number) => verdictOf({ value, uncertainty: 0.01 }, { from: 1.6, to: undefined }).call;
    // 0.8 of a normal distribution lies below 0.8416 standard deviations
    expect(at(1.6 + 0.00842)).toBe("in");
    expect(at(1.6 + 0.00841)).toBe("close");
    expect(at(1.6 - 0.00841)).toBe("close");
    expect(at(1.6 - 0.00842)).toBe("out");
    expect(verdictOf({ value: 1, uncertainty: 1 }, undefined).call).toBe("no-limit");
    const odds = verdictOf({ value: 1.6, uncertainty: 0.01 }, { from: 1.59, to: 1.61 });
    expect(odds.below + odds.inside + odds.above).toBeCloseTo(1, 12);
    expect(odds.inside).toBeCloseTo(0.6827, 4);
  });
  it("that cannot decide is taken again with the coarsest instrument that can", () => {
    const window = { from: 1.6, to: undefined };
    const feeler = verdictOf({ value: 1.62, uncertainty: 0.03 }, window);
    expect(feeler.call).toBe("close");
    expect(measureAgainWith(feeler, window, "mm", instruments)?.id).toBe("dial");
    const nearer = verdictOf({ value: 1.606, uncertainty: 0.03 }, window);
    expect(measureAgainWith(nearer, window, "mm", instruments)?.id).toBe("micrometer");
    expect(
      measureAgainWith(verdictOf({ value: 1.6, uncertainty: 0.03 }, window), window, "mm", instruments),
    ).toBeUndefined();
    expect(measureAgainWith(feeler, window, "Ω", instruments)).toBeUndefined();
  });
  it("in mil, inches, bar or kilo-ohm is asked for, not taken", () => {
    expect(otherUnit(71, "mm", [0.8, 3.9])).toEqual({ unit: "mil", value: expect.closeTo(1.8034, 9) });
    expect(otherUnit(0.071, "mm", [0.8, 3.9])).toMatchObject({ unit: "in", value: expect.closeTo(1.8034, 9) });
    expect(otherUnit(5.5, "kPa", [150, 5000])).toMatchObject({ unit: "bar", value: 550 });
    expect(otherUnit(14, "kPa", [900, 1400])?.unit).toBe("bar");
    expect(otherUnit(0.0052, "Ω", [2.4, 11])).toMatchObject({ unit: "kΩ" });
    expect(otherUnit(19.5, "mm", [9, 41])).toBeUndefined();
    expect(otherUnit(0, "mm", [0.8, 3.9])).toBeUndefined();
    // four times what is expected is plausible yet, a hair more is not
    expect(otherUnit(15.59, "mm", [0.8, 3.9])).toBeUndefined();
    expect(otherUnit(0.199, "mm", [0.8, 3.9])?.unit).toBe("cm");
    expect(otherUnit(0.201, "mm", [0.8, 3.9])).toBeUndefined();
  });
  it("that is plausible is never asked about", () => {
    fc.assert(
      fc.property(fc.double({ min: 0.8, max: 3.9, noNaN: true }), (mm) => {
        expect(otherUnit(mm, "mm", [0.8, 3.9])).toBeUndefined();
      }),
    );
  });
});

describe("knowledge of the bench", () => {
  it("a pack of the Brae has as many plates as its file", () => {
    const pack = benchPlaces(libraryUnit("brae-p6"), bench).find((p) => p.id === "pack:TC");
    expect(pack?.measures.filter((m) => m.id.startsWith("plate-"))).toHaveLength(4);
    expect(pack?.measures.filter((m) => m.id.startsWith("steel-"))).toHaveLength(4);
    expect(pack?.looks.map((l) => l.id)).toContain("seals");
  });
});
