// Guards: the made-up drive obeys the unit it was made for.

import { gearByName, type Unit } from "@gearsense/core/unit";
import { describe, expect, it } from "@jest/globals";
import { type SimulatedFault, seededRandom, simulateDrive } from "./index.ts";
import { load } from "./testing/units.ts";

const make = (unit: Unit, faults: SimulatedFault[] = [], seed = 4) =>
  simulateDrive({
    unit,
    seed,
    rateHz: 20,
    durationS: 240,
    profile: "mixed",
    startFluidC: 40,
    finalFluidC: 90,
    faults,
  });
const units = [load("brae-p6"), load("corran-w7")];

describe.each(units)("a drive with $name", (unit) => {
  const { columns, truth } = make(unit);
  const at = (id: string, i: number) => columns.get(id)?.[i] as number;
  const rows = columns.get("time_s")?.length ?? 0;
  const inShift = (t: number) => truth.shifts.some((s) => t >= s.commandS - 0.1 && t <= s.endS + 0.3);
  // the engine of a dual clutch slips at launch: its shafts never do
  const inputRpm = (gear: number, i: number) =>
    at(unit.kind === "planetary" ? "turbine_rpm" : gear % 2 === 1 ? "k1_rpm" : "k2_rpm", i);

  it("has every row at its time", () => {
    expect(rows).toBe(240 * 20);
    for (let i = 0; i < rows; i += 100) expect(at("time_s", i)).toBeCloseTo(i / 20, 2);
  });
  it("turns input and output in the ratio of the gear, between shifts", () => {
    let judged = 0;
    for (let i = 0; i < rows; i++) {
      const output = at("output_rpm", i);
      const gear = at("gear_commanded", i);
      if (output < 400 || inputRpm(gear, i) < 800 || inShift(at("time_s", i))) continue;
      judged++;
      const ratio = gearByName(unit, String(gear))?.ratio ?? Number.NaN;
      // both speeds are rounded and carry noise of 1.6 rpm
      expect(Math.abs(inputRpm(gear, i) - ratio * output)).toBeLessThan(8 * (1 + ratio));
    }
    expect(judged).toBeGreaterThan(1000);
  });
  it("turns the output with the wheels: final drive and tyre", () => {
    for (let i = 0; i < rows; i += 40) {
      const wheelRpm = at("vehicle_kmh", i) / 0.06 / (2 * Math.PI * unit.tyreRadiusM);
      if (at("output_rpm", i) > 300)
        expect(Math.abs(wheelRpm * unit.finalDrive - at("output_rpm", i))).toBeLessThan(10);
    }
  });
  it("shifts one gear at a time, inside the limits of the unit file", () => {
    expect(truth.shifts.length).toBeGreaterThan(8);
    for (const s of truth.shifts) {
      const [from, to] = s.name.split("-").map(Number) as [number, number];
      expect(Math.abs(from - to)).toBe(1);
      expect(s.endS).toBeGreaterThan(s.startS);
      expect(s.startS).toBeGreaterThan(s.commandS);
      expect(s.flareRpm).toBe(0);
    }
  });
  it("warms up and never passes what it tends to by much", () => {
    expect(at("fluid_c", 0)).toBe(40);
    expect(at("fluid_c", rows - 1)).toBeGreaterThan(60);
    expect(Math.max(...(columns.get("fluid_c") ?? []))).toBeLessThan(110);
  });
});

describe("faults", () => {
  const [unit] = units as [Unit];
  it("of an element show only in gears that it carries, and grow with torque as asked for", () => {
    const { truth } = make(unit, [{ kind: "element-slip", element: "HC", onsetTorqueNm: 120, rpmPerNm: 1.5 }]);
    expect(truth.slips.length).toBeGreaterThan(0);
    for (const s of truth.slips) {
      expect(["4", "5", "6"]).toContain(s.gear);
      expect(s.peakRpm).toBeLessThanOrEqual(1.5 * (s.peakTorqueNm - 120) + 40);
    }
  });
  it("only hot: none while the fluid is cold", () => {
    const fault = { kind: "element-slip", element: "HC", onsetTorqueNm: 100, rpmPerNm: 1.5, minFluidC: 200 } as const;
    expect(make(unit, [fault]).truth.slips).toEqual([]);
  });
  it("a lost signal reads zero for as long as it is lost", () => {
    const { columns, truth } = make(unit, [
      { kind: "sensor-dropout", sensor: "sen_output", atS: [60, 90], lengthS: 1.5, limpAfter: false },
    ]);
    expect(truth.dropouts).toHaveLength(2);
    const time = columns.get("time_s") as Float64Array;
    for (const d of truth.dropouts)
      time.forEach((t, i) => {
        if (t > d.startS + 0.05 && t < d.endS - 0.05) expect(columns.get("output_rpm")?.[i]).toBe(0);
      });
  });
});

it("random numbers are uniform in [0, 1) and the same for the same seed", () => {
  const a = seededRandom(7);
  const b = seededRandom(7);
  let sum = 0;
  let square = 0;
  let lowest = 1;
  let highest = 0;
  const n = 20000;
  for (let i = 0; i < n; i++) {
    const x = a();
    if (x !== b()) throw new Error(`draw ${i} differs`);
    lowest = Math.min(lowest, x);
    highest = Math.max(highest, x);
    sum += x;
    square += x * x;
  }
  expect(lowest).toBeGreaterThanOrEqual(0);
  expect(highest).toBeLessThan(1);
  expect(sum / n).toBeCloseTo(0.5, 2);
  expect(square / n - (sum / n) ** 2).toBeCloseTo(1 / 12, 2);
});
