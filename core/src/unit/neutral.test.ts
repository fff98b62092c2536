// Guards: which elements hold the turbine of a vehicle at rest, from the gear train alone.
import { describe, expect, it } from "@jest/globals";
import { libraryUnit } from "../testing/units.ts";
import { closesNeutral, elementsIn, gearStates } from "./index.ts";

describe("elements that close neutral", () => {
  it.each(["brae-p6", "crag-t10", "fell-e8", "holm-c6", "ness-x6"])("of %s", (id) => {
    const unit = libraryUnit(id);
    const closing = closesNeutral(unit);
    const { neutral = [] } = unit;
    expect(closing.size).toBeGreaterThan(0);
    for (const n of neutral) expect(closing.has(n)).toBe(false);
    // a gear made of the neutral elements and one more is closed by that one
    for (const { gear } of gearStates(unit) ?? []) {
      const more = elementsIn(unit, gear).filter((e) => !neutral.includes(e));
      const all = neutral.every((n) => elementsIn(unit, gear).includes(n));
      if (all && more.length === 1) expect(closing.has(more[0] as string)).toBe(true);
    }
  });
  it("two brakes of one set hold the output, not the input", () => {
    const braked = { ...libraryUnit("fell-e8"), neutral: ["B1"] };
    expect(closesNeutral(braked).has("B6")).toBe(false);
    expect(closesNeutral(braked).has("C2")).toBe(true);
  });
  it("a unit that applies nothing in neutral has none, nor has a dual clutch", () => {
    expect(closesNeutral(libraryUnit("corran-w7")).size).toBe(0);
  });
});
