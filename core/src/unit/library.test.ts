// Guards: every unit file that ships: teeth that can be assembled, ratios of the solver, charts that drive, what its name says.
import { readdirSync, readFileSync } from "node:fs";
import { describe, expect, it } from "@jest/globals";
import { libraryUnit } from "../testing/units.ts";
import { checkUnit, classifyCombinations, gearStates, jointsIn, jointsOf, shiftPlan, type Unit } from "./index.ts";

const ids = readdirSync(new URL("../../../library/units/", import.meta.url)).map((f) => f.replace(".unit.json", ""));
const units = ids.map(libraryUnit);

it("is four to ten gears, planetary and dual clutch, wet and dry, both layouts", () => {
  const forward = (u: (typeof units)[number]) => u.gears.filter((g) => g.ratio > 0).length;
  expect(units.map((u) => `${u.kind} ${forward(u)}`).sort()).toEqual(
    [
      "dct-dry 6",
      "dct-wet 7",
      "planetary 10",
      "planetary 4",
      "planetary 6",
      "planetary 6",
      "planetary 6",
      "planetary 8",
    ].sort(),
  );
  expect(new Set(units.map((u) => u.layout))).toEqual(new Set(["longitudinal", "transverse"]));
});

describe.each(units)("$name", (unit) => {
  it("is consistent", () => {
    expect(checkUnit(unit)).toEqual([]);
  });
  it("has the ratios of its teeth, to a thousandth", () => {
    for (const { gear, state } of gearStates(unit) ?? []) {
      const given = unit.gears.find((g) => g.name === gear)?.ratio ?? 0;
      expect(state.kind === "gear" && Math.abs(state.ratio / given - 1)).toBeLessThan(1e-3);
    }
  });
  it("carries torque in balance in every gear: what goes out is the ratio", () => {
    for (const { state, shares } of gearStates(unit) ?? []) {
      if (state.kind !== "gear") throw new Error("no gear");
      expect(Math.abs((shares?.output ?? 0) / state.ratio - 1)).toBeLessThan(1e-9);
      for (const share of shares?.elements.values() ?? []) expect(share).toBeDefined();
    }
  });
  it("has steps that a driver can use, and one element off and one on in each upshift of a planetary unit", () => {
    const forward = unit.gears.filter((g) => g.ratio > 0);
    forward.slice(1).forEach((g, i) => {
      const plan = shiftPlan(unit, forward[i]?.name ?? "", g.name);
      expect(plan.step).toBeGreaterThan(1.08);
      expect(plan.step).toBeLessThan(2);
      if (unit.kind === "planetary") {
        expect(plan.onComing).toHaveLength(1);
        expect(plan.offGoing).toHaveLength(1);
        expect(Math.abs(plan.slipBefore.get(plan.onComing[0] as string) ?? 0)).toBeGreaterThan(0.01);
      }
    });
  });
  it("ties up or idles, but never drives, in most combinations the chart leaves out, and each gear is among all", () => {
    const train = unit.gearTrain;
    if (!train || unit.kind !== "planetary") return;
    const all = classifyCombinations(train, jointsOf(unit));
    for (const g of unit.gears) {
      const own = jointsIn(unit, g.name)
        .map((j) => j.id)
        .sort()
        .join();
      const found = all.find((c) => [...c.elements].sort().join() === own);
      expect(found?.state).toBe("gear");
      expect(Math.abs((found?.ratio ?? 0) / g.ratio - 1)).toBeLessThan(1e-3);
    }
  });
});

it("the worked example of the documentation is what it says", () => {
  const text = readFileSync(new URL("../../../docs/formats.md", import.meta.url), "utf8");
  const example = /```json\n("gears"[\s\S]*?)```/.exec(text)?.[1] ?? "";
  const parts = JSON.parse(`{${example}}`) as Pick<Unit, "gears" | "gearTrain" | "elements" | "application">;
  const states = gearStates(parts as Unit) ?? [];
  expect(states).toHaveLength(2);
  for (const { gear, state } of states) {
    const given = parts.gears.find((g) => g.name === gear)?.ratio ?? 0;
    expect(state.kind === "gear" && Math.abs(state.ratio / given - 1)).toBeLessThan(1e-4);
  }
});
