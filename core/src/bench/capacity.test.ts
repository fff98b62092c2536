// Guards: mean radius, what a pack holds, its margin by gear, what a change buys, who gives up first; against closed forms.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { libraryUnit } from "../testing/units.ts";
import { meanRadiusMm } from "../unit/index.ts";
import { gainsOf, givesUpFirst, heldNm, inputTorqueNm, marginsOf, type PackBuilt, packBuilt } from "./index.ts";

const brae = libraryUnit("brae-p6");
const element = (id: string) => {
  const e = brae.elements.find((x) => x.id === id);
  if (!e) throw new Error(id);
  return e;
};
const pack: PackBuilt = {
  plates: 4,
  friction: 0.13,
  apply: { areaCm2: 110, returnSpringN: 720, meanRadiusMm: 80 },
};

describe("mean radius", () => {
  it("is two thirds of a full disc, and the middle of a thin ring", () => {
    expect(meanRadiusMm(0, 90)).toBeCloseTo(60, 12);
    expect(meanRadiusMm(99.99, 100.01)).toBeCloseTo(100, 6);
    expect(() => meanRadiusMm(80, 80)).toThrow(/larger/);
  });
  it("lies between the middle radius and the outer one", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1, max: 100, noNaN: true }),
        fc.double({ min: 0.1, max: 60, noNaN: true }),
        (inner, w) => {
          const r = meanRadiusMm(inner, inner + w);
          expect(r).toBeGreaterThan(inner + w / 2 - 1e-9);
          expect(r).toBeLessThan(inner + w);
          // R_m = r + w²/(12 r) of the middle r: exact for even pressure
          expect(r).toBeCloseTo(inner + w / 2 + (w * w) / (12 * (inner + w / 2)), 9);
        },
      ),
    );
  });
  it("of every pack of the library agrees with what its file says", () => {
    for (const e of brae.elements) {
      const built = packBuilt(e);
      if (!built || !e.apply) continue;
      expect(Math.abs(built.apply.meanRadiusMm / e.apply.meanRadiusMm - 1)).toBeLessThan(0.002);
    }
  });
});

describe("capacity", () => {
  it("is T = μ·n·F·R with F = p·A − spring", () => {
    // 1000 kPa on 110 cm² is 11 000 N
    expect(heldNm(pack, 1000)).toBeCloseTo(0.13 * 8 * (11_000 - 720) * 0.08, 9);
    expect(heldNm(pack, 60)).toBe(0);
  });
  it("margins are its capacity over its share of the input torque, with the converter's in the gears that move off", () => {
    const built = packBuilt(element("LB"));
    if (!built) throw new Error("no pack");
    const margins = marginsOf(brae, "LB", built, 1700, 280);
    const first = margins.find((m) => m.gear === "1");
    const second = margins.find((m) => m.gear === "2");
    expect(first?.needNm).toBeCloseTo((first?.share ?? 0) * 280 * 1.95, 9);
    expect(second?.needNm).toBeCloseTo((second?.share ?? 0) * 280, 9);
    expect(margins.map((m) => m.gear).sort()).toEqual(["1", "2", "R"]);
    expect(first?.margin).toBeCloseTo(heldNm(built, 1700) / (first?.needNm ?? 1), 9);
    expect(margins.map((m) => m.margin)).toEqual([...margins.map((m) => m.margin)].sort((a, b) => a - b));
    // a brake of a gear train: what it takes is the difference of output and input
    const ratio = brae.gears.find((g) => g.name === "1")?.ratio ?? 0;
    expect(first?.share).toBeCloseTo(ratio - 1, 3);
  });
  it("one more plate brings one n-th, a tenth more pressure the more the stiffer the spring", () => {
    const now = heldNm(pack, 1000);
    const [plate, piston, pressure] = gainsOf(pack, 1000);
    expect(plate?.moreNm).toBeCloseTo(now / 4, 9);
    expect(piston?.moreNm).toBeCloseTo(pressure?.moreNm ?? 0, 9);
    expect(pressure?.moreNm).toBeCloseTo((0.1 * 11_000 * now) / (11_000 - 720), 9);
  });
  it("names who gives up first: at its torque it just holds, and a stronger pack gives up later", () => {
    const order = givesUpFirst(brae, 1700);
    const [first] = order;
    if (!first) throw new Error("nobody");
    const built = packBuilt(element(first.element));
    if (!built) throw new Error("no pack");
    expect(marginsOf(brae, first.element, built, 1700, first.engineNm)[0]?.margin).toBeCloseTo(1, 9);
    expect(order.map((o) => o.element).sort()).toEqual(["HC", "LB", "LC", "SC", "TC"]);
    const stronger = givesUpFirst(brae, 1700, new Map([[first.element, { ...built, plates: built.plates + 4 }]]));
    expect(stronger[0]?.element).not.toBe(first.element);
    expect(inputTorqueNm(brae, "2", 100)).toBe(100);
    expect(inputTorqueNm(brae, "R", 100)).toBe(195);
  });
});
