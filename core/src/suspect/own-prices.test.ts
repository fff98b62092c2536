// Guards: a shop's own prices and hours stand over the library's: of the unit before every unit, the rest as it is, and in the one price.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { libraryKnowledge, libraryUnit } from "../testing/units.ts";
import { generateRepairs, type OwnPriceRow, priceOf, rowsFor, withOwnPrices } from "./index.ts";

const knowledge = libraryKnowledge();
const brae = libraryUnit("brae-p6");
const row = (more: Partial<OwnPriceRow>): OwnPriceRow => ({
  unitId: null,
  repair: "mount",
  source: null,
  hours: null,
  partsCost: null,
  ...more,
});
const kind = (rows: readonly OwnPriceRow[], id: string, unitId = "brae-p6") =>
  withOwnPrices(knowledge, rows, unitId).repairs.find((r) => r.id === id);
const library = (id: string) => knowledge.repairs.find((r) => r.id === id);

describe("own prices", () => {
  it("without a row the library’s knowledge is the very same", () => {
    expect(withOwnPrices(knowledge, [], "brae-p6")).toBe(knowledge);
  });
  it("change what they name and nothing else", () => {
    const rows = [row({ partsCost: 99 })];
    expect(kind(rows, "mount")).toEqual({ ...library("mount"), partsCost: 99 });
    expect(kind(rows, "linkage")).toEqual(library("linkage"));
  });
  it("of a unit go before those of every unit, each for itself", () => {
    const rows = [row({ partsCost: 99, hours: 2 }), row({ unitId: "brae-p6", partsCost: 120 })];
    expect(kind(rows, "mount")).toMatchObject({ partsCost: 120 });
    expect(kind(rows, "mount")?.hours[1]).toBe(2);
    expect(kind(rows, "mount", "tarn-f4")).toMatchObject({ partsCost: 99 });
    expect(rowsFor(rows, "tarn-f4")).toEqual([rows[0]]);
    expect(rowsFor(rows, "brae-p6")).toEqual(rows);
  });
  it("of a source change that source; the repair has the price of the first", () => {
    const rows = [row({ repair: "rebuild", source: "kit", partsCost: 700 })];
    expect(kind(rows, "rebuild")).toMatchObject({ partsCost: 700 });
    expect(kind(rows, "rebuild")?.sources?.map((s) => s.partsCost)).toEqual([700, 240]);
    const second = [row({ repair: "rebuild", source: "pack", partsCost: 300 })];
    expect(kind(second, "rebuild")?.partsCost).toBe(640);
  });
  it("hours keep the spread of the library’s", () => {
    fc.assert(
      fc.property(fc.double({ min: 0.1, max: 80, noNaN: true }), (hours) => {
        const made = kind([row({ hours })], "mount")?.hours as readonly [number, number, number];
        const was = library("mount")?.hours as readonly [number, number, number];
        expect(made[1]).toBe(hours);
        expect(made[0] / made[1]).toBeCloseTo(was[0] / was[1], 12);
        expect(made[2] / made[1]).toBeCloseTo(was[2] / was[1], 12);
      }),
    );
  });
  it("stand in the one price: parts, hours, a litre of fluid and a filter", () => {
    const rows = [
      row({ repair: "fluid", partsCost: 25, hours: 2 }),
      row({ repair: "fluid-per-l", partsCost: 20 }),
      row({ repair: "filter", partsCost: 50 }),
    ];
    const own = withOwnPrices(knowledge, rows, "brae-p6");
    const fluid = generateRepairs(brae, own).find((r) => r.id === "fluid");
    if (!fluid) throw new Error("the unit has a fluid service");
    const price = priceOf(brae, own, fluid, undefined, 0, { hourlyRate: 60 });
    const each = Object.fromEntries(price.lines.map((l) => [l.kind, l.each]));
    expect(price.hours[1]).toBe(2);
    expect(price.labourCost).toBe(120);
    expect(each.part).toBe(25);
    if (fluid.refill) expect([each.fluid, each.filter]).toEqual([20, 50]);
  });
});
