// Guards: the part of the line pressure that an element needs, where it held and where its gear slipped, against the formula.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { type Channels, steadyDrive } from "../../testing/drives.ts";
import { libraryUnit } from "../../testing/units.ts";
import { elementsIn, packPressureKpa, sharesByGear } from "../../unit/index.ts";
import { analyseDrive } from "../index.ts";

const unit = libraryUnit("brae-p6");
const SLIPS_FROM_NM = 150;
/** Gear 3 slips from so many N·m on; torque moves between 10 and 230 N·m in ten seconds. */
const drive = (more: (c: Channels, t: Float64Array) => Channels) =>
  analyseDrive(
    steadyDrive(unit, (g, nm) => (g === 3 && nm > SLIPS_FROM_NM ? 200 : 0), more),
    unit,
  ).held.elements;
const at = (kpa: number) => drive((c, t) => ({ ...c, line_pressure_kpa: t.map(() => kpa) }));

/** T = z·μ·F·r solved for the pressure, spring included, with paper on steel. */
function needKpa(id: string, gear: string, inputNm: number): number {
  const element = unit.elements.find((e) => e.id === id);
  const share = sharesByGear(unit).get(gear)?.get(id) ?? Number.NaN;
  if (!element?.apply || !element.plates) throw new Error(`${id} has no piston`);
  return packPressureKpa(element.apply, element.plates, share * inputNm, 0.13);
}

describe("what each element was asked for", () => {
  const kpa = 900;
  const loads = at(kpa);
  it.each(elementsIn(unit, "3"))("%s slips in gear 3 a little above the torque at which it begins", (id) => {
    const slipped = loads.find((e) => e.element === id)?.slipped ?? [];
    expect(slipped.map((s) => [s.gear, s.fluidC])).toEqual([["3", 80]]);
    const part = slipped[0]?.part ?? Number.NaN;
    expect(part).toBeGreaterThanOrEqual(needKpa(id, "3", SLIPS_FROM_NM) / kpa);
    // in half a second torque rises by at most 110 · 2π/10 · 0.5 N·m
    expect(part).toBeLessThan(needKpa(id, "3", SLIPS_FROM_NM + 35) / kpa);
  });
  it("an element held what the hardest of its gears that hold asked of it", () => {
    for (const { element, held } of loads) {
      const most = Math.max(
        ...unit.gears
          .filter((g) => g.ratio > 0 && elementsIn(unit, g.name).includes(element))
          .map((g) => needKpa(element, g.name, g.name === "3" ? SLIPS_FROM_NM : 230)),
      );
      expect(held.map((h) => h.fluidC)).toEqual([80]);
      expect(held[0]?.part).toBeGreaterThan((0.95 * most) / kpa);
      expect(held[0]?.part).toBeLessThanOrEqual(most / kpa + 1e-9);
    }
    expect(loads.map((e) => e.element)).toEqual(
      unit.elements
        .map((e) => e.id)
        .filter((id) => unit.gears.some((g) => g.ratio > 0 && elementsIn(unit, g.name).includes(id))),
    );
  });
  it("twice the line pressure is half the part", () => {
    fc.assert(
      fc.property(fc.double({ min: 0.5, max: 3, noNaN: true }), (k) => {
        const scaled = at(kpa * k);
        loads.forEach((e, i) => {
          for (const [j, h] of e.held.entries()) expect(scaled[i]?.held[j]?.part).toBeCloseTo(h.part / k, 9);
          for (const [j, s] of e.slipped.entries()) expect(scaled[i]?.slipped[j]?.part).toBeCloseTo(s.part / k, 9);
        });
      }),
      { numRuns: 8 },
    );
  });
  it("is kept apart by the fluid's temperature, in steps of 10 °C, and together where it is unknown", () => {
    const warming = drive((c, t) => ({ ...c, line_pressure_kpa: t.map(() => kpa), fluid_c: t.map((s) => 20 + s / 2) }));
    const all = new Set(warming.flatMap((e) => e.held.map((h) => h.fluidC)));
    expect([...all].sort((a = 0, b = 0) => a - b)).toEqual([20, 30, 40, 50, 60, 70]);
    const unknown = drive(({ fluid_c: _, ...c }, t) => ({ ...c, line_pressure_kpa: t.map(() => kpa) }));
    for (const e of unknown) expect(e.held.map((h) => h.fluidC)).toEqual([undefined]);
  });
  it("is not told without a line pressure or without torque", () => {
    expect(drive((c) => c)).toEqual([]);
    expect(drive(({ engine_torque_nm: _, ...c }, t) => ({ ...c, line_pressure_kpa: t.map(() => kpa) }))).toEqual([]);
  });
});
