// Guards: which lines can be priced, and how rows are changed, dropped and compared.
import { describe, expect, it } from "@jest/globals";
import { changed, differing, keyOf, linesOf, type Row } from "./price-rows.ts";

const library = {
  fluidPerL: 12,
  filterCost: 35,
  repairs: [
    {
      id: "mount",
      title: "Replace mount",
      kinds: null,
      hours: [1, 1.4, 3] as [number, number, number],
      partsCost: 110,
      sources: [],
    },
    {
      id: "rebuild",
      title: "Rebuild",
      kinds: ["planetary"],
      hours: [9, 12, 18] as [number, number, number],
      partsCost: 640,
      sources: [
        { id: "kit", title: "Kit", partsCost: 640 },
        { id: "pack", title: "One pack", partsCost: 240 },
      ],
    },
  ],
};
const at = { unitId: null, repair: "mount", source: null };
const row = (more: Partial<Row> = {}): Row => ({ ...at, hours: null, partsCost: 99, ...more });

describe("lines", () => {
  it("are the litre, the filter, and each repair with its sources, of the unit’s kind", () => {
    expect(linesOf(library, undefined).map((l) => [l.title, l.hours, l.partsCost, l.sets.join()])).toEqual([
      ["A litre of fluid", null, 12, "partsCost"],
      ["A filter with its seal", null, 35, "partsCost"],
      ["Replace mount", 1.4, 110, "hours,partsCost"],
      ["Rebuild", 12, null, "hours"],
      ["Kit", null, 640, "partsCost"],
      ["One pack", null, 240, "partsCost"],
    ]);
    expect(linesOf(library, "dct-wet").map((l) => l.repair)).toEqual(["fluid-per-l", "filter", "mount"]);
  });
});

describe("rows", () => {
  it("are added, changed, and gone once they say nothing", () => {
    const one = changed([], at, { partsCost: 99 });
    expect(one).toEqual([row()]);
    const two = changed(one, at, { hours: 2 });
    expect(two).toEqual([row({ hours: 2 })]);
    expect(changed(two, at, { hours: null, partsCost: null })).toEqual([]);
    expect(changed(one, { ...at, unitId: "brae-p6" }, { partsCost: 1 })).toHaveLength(2);
  });
  it("that differ are named, either way", () => {
    expect([...differing([row()], [row()])]).toEqual([]);
    expect([...differing([row()], [row({ partsCost: 98 })])]).toEqual([keyOf(at)]);
    expect([...differing([row()], [])]).toEqual([keyOf(at)]);
    expect([...differing([], [row()])]).toEqual([keyOf(at)]);
  });
});
