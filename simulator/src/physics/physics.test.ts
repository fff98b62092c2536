// Guards: the integrated powertrain against what must hold of it: energy, coast-down, stall, ratios, sticking and slipping.

import { jointsIn, stallSpeedRpm, type Unit } from "@gearsense/core/unit";
import { describe, expect, it } from "@jest/globals";
import { load } from "../testing/units.ts";
import { type Controls, Powertrain, WORKING_VAN } from "./powertrain.ts";

const DT_S = 0.001;
const units = ["tarn-f4", "brae-p6", "holm-c6", "ness-x6", "fell-e8", "crag-t10"].map(load);

function hold(p: Powertrain, c: Controls, gear: string, capacityNm = 4000): void {
  const applied = new Set(jointsIn(p.unit, gear).map((j) => j.id));
  p.elements.forEach((id, i) => {
    c.capacityNm[i] = applied.has(id) ? capacityNm : 0;
  });
}
function run(p: Powertrain, c: Controls, seconds: number, each?: (t: number) => void): void {
  for (let i = 0; i < Math.round(seconds / DT_S); i++) {
    p.step(DT_S, c);
    each?.(i * DT_S);
  }
}
/** Energy that is neither stored nor accounted for, over all that the engine gave or took. */
function imbalance(p: Powertrain, storedBefore: number): number {
  const e = p.energy;
  const out = e.converter + e.elements + e.brakes + e.drag + e.shaft + e.lift;
  return Math.abs(e.engine - out - (p.stored() - storedBefore)) / Math.max(1000, Math.abs(e.engine), Math.abs(out));
}

describe.each(units)("$name", (unit: Unit) => {
  const top = unit.gears.filter((g) => g.ratio > 0).at(-1)?.name ?? "";
  it("closes its energy balance within 1 % through every gear, a hill and a stop", () => {
    const p = new Powertrain(unit);
    const c = p.idleControls();
    const stored = p.stored();
    for (const { name } of unit.gears.filter((g) => g.ratio > 0)) {
      hold(p, c, name);
      c.pedal = 0.5;
      c.grade = name === "2" ? 0.06 : 0;
      run(p, c, 3);
    }
    c.converterClutchNm = 600;
    run(p, c, 4);
    c.pedal = 0;
    c.brakeN = 6000;
    c.converterClutchNm = 0;
    run(p, c, 8);
    expect(p.energy.engine).toBeGreaterThan(50_000);
    expect(imbalance(p, stored)).toBeLessThan(0.01);
  });
  it("turns at the ratio of the solver in every forward gear that holds", () => {
    for (const { name, ratio } of unit.gears.filter((g) => g.ratio > 0)) {
      const p = new Powertrain(unit);
      const c = p.idleControls();
      p.roll(12);
      hold(p, c, name);
      c.pedal = 0.2;
      run(p, c, 4);
      expect(p.turbineRpm / p.outputRpm / ratio).toBeCloseTo(1, 3);
    }
  });
  it("stalls at K·√T against the brakes", () => {
    const p = new Powertrain(unit);
    const c = p.idleControls();
    hold(p, c, "1");
    c.brakeN = 60_000;
    c.pedal = 1;
    run(p, c, 4);
    expect(p.vehicleMS).toBeCloseTo(0, 6);
    const expected = stallSpeedRpm(unit.converter as never, p.engineNm);
    expect(Math.abs(p.engineRpm / expected - 1)).toBeLessThan(0.01);
  });
  it("locks its converter clutch, and slips an element that can hold less than its share", () => {
    const p = new Powertrain(unit);
    const c = p.idleControls();
    p.roll(24);
    hold(p, c, top);
    c.pedal = 0.5;
    c.converterClutchNm = 900;
    run(p, c, 4);
    expect(Math.abs(p.engineRpm - p.turbineRpm)).toBeLessThan(1);
    const ratio = unit.gears.find((g) => g.name === top)?.ratio ?? 1;
    const before = p.turbineRpm - ratio * p.outputRpm;
    hold(p, c, top, 8);
    run(p, c, 0.6);
    expect(Math.abs(before)).toBeLessThan(2);
    expect(p.turbineRpm - ratio * p.outputRpm).toBeGreaterThan(100);
  });
});

describe("coast-down", () => {
  it("follows the closed form of drag and rolling resistance", () => {
    const unit = load("brae-p6");
    const p = new Powertrain(unit);
    const c = p.idleControls();
    const start = 30;
    p.roll(start);
    const { massKg, dragNs2PerM2, rolling } = WORKING_VAN;
    // with nothing applied the output shaft turns with the wheels: its inertia adds a little mass
    const factor = unit.finalDrive / unit.tyreRadiusM;
    const [c0, c2] = [rolling * massKg * 9.81, dragNs2PerM2];
    let worst = 0;
    const q = Math.sqrt(c2 / c0);
    run(p, c, 60, (t) => {
      const m = massKg + 0.06 * factor ** 2;
      const v = Math.tan(Math.atan(start * q) - (Math.sqrt(c0 * c2) / m) * t) / q;
      worst = Math.max(worst, Math.abs(p.vehicleMS - v) / start);
    });
    expect(worst).toBeLessThan(0.005);
  });
  it("comes to rest and stays, also on a slope that the brakes hold", () => {
    const p = new Powertrain(load("brae-p6"));
    const c = p.idleControls();
    p.roll(5);
    c.brakeN = 8000;
    c.grade = 0.1;
    run(p, c, 6);
    expect(Math.abs(p.vehicleMS)).toBeLessThan(1e-6);
  });
});

it("the same controls give the same speeds, bit for bit", () => {
  const end = () => {
    const p = new Powertrain(load("fell-e8"));
    const c = p.idleControls();
    hold(p, c, "2");
    c.pedal = 0.6;
    run(p, c, 5);
    return [p.engineRpm, p.turbineRpm, p.outputRpm];
  };
  expect(end()).toEqual(end());
});
