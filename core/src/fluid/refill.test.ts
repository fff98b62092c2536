// Guards: litres to fill: closed form at two temperatures, spill, lines and converter, just under and over a tenth off; the
// order of the pan's bolts.
import { describe, expect, it } from "@jest/globals";
import { libraryUnit, libraryUnits } from "../testing/units.ts";
import { PAN_SEALS } from "../unit/index.ts";
import {
  DRAIN_OFF,
  expandedL,
  expectedDrainL,
  NEVER_CHANGED_INTERVALS,
  neverChanged,
  panFasteners,
  panSealText,
  refillOf,
} from "./index.ts";

const six = libraryUnit("brae-p6");
const dry = libraryUnit("machair-d6");
const none = { drainedC: null, spiltL: 0, linesOpened: false, converterDrained: false };

describe("litres to fill", () => {
  it("are what was drained, taken to the reference temperature: hot fluid is less when cool", () => {
    expect(refillOf(six, { ...none, drainedL: 4 }).litres).toBe(4);
    const hot = refillOf(six, { ...none, drainedL: 4, drainedC: 90 });
    expect(hot.litres).toBeCloseTo(expandedL(4, 90, 40), 12);
    expect(hot.litres).toBeLessThan(3.9);
  });
  it("with spill, lines and converter, of what the unit has", () => {
    const all = { drainedL: 4, drainedC: 40, spiltL: 0.3, linesOpened: true, converterDrained: true };
    expect(refillOf(six, all).litres).toBeCloseTo(4 + 0.3 + 0.7 + 1.5, 9);
    expect(refillOf(six, all).parts.map((p) => p.what)).toEqual(["drained", "spilt", "lines", "converter"]);
    expect(refillOf(dry, { ...all, drainedL: 1.9 }).parts.map((p) => p.what)).toEqual(["drained", "spilt"]);
  });
  it("flag a drain that is over a tenth off, either way, spill counted", () => {
    const expected = expectedDrainL(six, 60);
    const off = (share: number, spiltL = 0) =>
      refillOf(six, { ...none, drainedL: share * expected - spiltL, drainedC: 60, spiltL }).off;
    expect(off(1 - DRAIN_OFF + 0.001)).toBe(false);
    expect(off(1 - DRAIN_OFF - 0.001)).toBe(true);
    expect(off(1 + DRAIN_OFF - 0.001)).toBe(false);
    expect(off(1 + DRAIN_OFF + 0.001)).toBe(true);
    expect(off(1, 0.9)).toBe(false);
  });
});

describe("old fluid that was never changed", () => {
  const { intervalKm } = six.fluid;
  it("is dark, over twice the interval, and nobody told of a change: just under and just over", () => {
    const limit = NEVER_CHANGED_INTERVALS * intervalKm;
    expect(neverChanged(six, limit + 1, null, false, "brown")).toBe(true);
    expect(neverChanged(six, limit, null, false, "brown")).toBe(false);
    expect(neverChanged(six, 400_000, limit, false, "black")).toBe(false);
    expect(neverChanged(six, 400_000, limit + 1, false, "black")).toBe(true);
    expect(neverChanged(six, 400_000, null, true, "black")).toBe(false);
    expect(neverChanged(six, 400_000, null, false, "amber")).toBe(false);
    expect(neverChanged(six, 400_000, null, false, undefined)).toBe(false);
  });
});

describe("seal of the pan", () => {
  it("is in every unit file of the library; sealant goes on a gasket only where the file says so", () => {
    for (const unit of libraryUnits()) expect(unit.fluid.panSeal).toBeDefined();
    const said = (panSeal: (typeof PAN_SEALS)[number] | undefined) =>
      panSealText({ ...six, fluid: { ...six.fluid, panSeal } });
    expect(PAN_SEALS.filter((s) => said(s).includes("No sealant"))).toEqual(["gasket", "moulded"]);
    expect(PAN_SEALS.filter((s) => said(s).includes("set for the time"))).toEqual(["sealant", "sealant-and-gasket"]);
    expect(said(undefined)).toContain("does not say");
  });
});

describe("bolts of the pan", () => {
  it("are in every unit that has a pan, each turned once", () => {
    for (const unit of libraryUnits().filter((u) => u.fasteners)) {
      expect(panFasteners(unit).length).toBeGreaterThan(0);
    }
  });
});
