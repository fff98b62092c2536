// Guards: which strips a log gets, their axes and units of measure.

import { buildPyramid } from "@gearsense/core/log";
import { describe, expect, it } from "@jest/globals";
import { makeStrips, offeredStrips, PRESETS } from "./strips.ts";

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
  it("are those that a person chose, in that order; what the log lacks is left out and nothing is drawn twice", () => {
    const log = [data("fluid_c", 60, 80), data("engine_rpm", 800, 900), data("sol_HC", 0, 100)];
    const chosen = ["sol_HC", "temperature", "output", "speeds"];
    expect(makeStrips(log, "metric", colour, chosen).map((s) => s.id)).toEqual(["sol_HC", "temperature", "speeds"]);
    const offered = offeredStrips(log).map((o) => o.id);
    expect(new Set(offered).size).toBe(offered.length);
    for (const id of ["sol_HC", "temperature", "speeds"]) expect(offered).toContain(id);
  });
  it("of a log laid over lie pale beneath the own, moved in time, on one scale", () => {
    const own = [data("fluid_c", 60, 80)];
    const [strip] = makeStrips(own, "metric", colour, ["temperature"], {
      data: [data("fluid_c", 20, 120)],
      shiftS: 7,
    });
    expect(strip?.lines.map((l) => [l.pale, l.shiftS])).toEqual([
      [true, 7],
      [false, 0],
    ]);
    expect(strip?.low).toBeLessThanOrEqual(20);
    expect(strip?.high).toBeGreaterThanOrEqual(120);
  });
  it("every preset shows something of a full log of either kind of unit", () => {
    const common = ["engine_rpm", "output_rpm", "engine_torque_nm", "fluid_c", "gear_commanded", "gear_slip_rpm"];
    for (const own of [
      ["turbine_rpm", "tcc_slip_rpm"],
      ["k1_rpm", "k2_rpm"],
    ])
      for (const chosen of Object.values(PRESETS)) {
        const log = [...common, ...own].map((id) => data(id, 1, 2));
        expect(makeStrips(log, "metric", colour, chosen).length).toBeGreaterThanOrEqual(2);
      }
  });
});
