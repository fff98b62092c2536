// Guards: which strips a log gets, their axes and units of measure.

import { buildPyramid } from "@gearsense/core/log";
import { describe, expect, it } from "@jest/globals";
import { makeStrips } from "./strips.ts";

const data = (id: string, ...values: number[]) => ({
  id,
  rateHz: 1,
  pyramid: buildPyramid(
    Float64Array.from(values, (_, i) => i),
    Float64Array.from(values),
  ),
});
const colour = (token: string) => token;
const labels = (...ids: string[]) =>
  makeStrips(
    ids.map((id) => data(id, 1, 2)),
    "metric",
    colour,
  ).map((s) => s.label);

describe("strips of a log", () => {
  it("stand in the order in which a technician reads them, whatever the order of the file", () => {
    expect(labels("fluid_c", "output_rpm", "turbine_rpm", "engine_rpm", "gear_slip_rpm")).toEqual([
      "Engine and turbine",
      "Slip in gear (derived)",
      "Output speed",
      "Fluid temperature",
    ]);
  });
  it("follow the kind of unit: shaft speeds of a dual clutch replace the turbine", () => {
    expect(labels("engine_rpm", "k1_rpm", "k2_rpm", "turbine_rpm")).toEqual(["Engine, K1 and K2 shaft"]);
  });
  it("leave out what was not recorded", () => {
    expect(labels("code")).toEqual([]);
    expect(labels("turbine_rpm")).toEqual(["Turbine speed"]);
  });
  it("begin at zero where zero means standstill, and have room around the rest", () => {
    const [speed, fluid] = makeStrips([data("output_rpm", 800, 1200), data("fluid_c", 60, 110)], "metric", colour);
    expect(speed).toMatchObject({ low: 0, high: 1224 });
    expect(fluid).toMatchObject({ low: 57, high: 113 });
  });
  it("show the chosen units of measure, and never widen noise into a finding", () => {
    const [metric] = makeStrips([data("fluid_c", 80, 80.5)], "metric", colour);
    const [imperial] = makeStrips([data("fluid_c", 80, 80.5)], "imperial", colour);
    expect([metric?.unit, imperial?.unit]).toEqual(["°C", "°F"]);
    expect(imperial?.toShown(100)).toBeCloseTo(212, 9);
    expect(metric?.leastSpan).toBeGreaterThanOrEqual(6);
  });
});
