// Guards: a turbine held in neutral, clutches that stay hot, pressures behind their commands, against closed forms.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { ratioOfGear } from "../testing/drives.ts";
import { recordingOf, timesOf } from "../testing/recordings.ts";
import { libraryUnit } from "../testing/units.ts";
import { analyseDrive } from "./index.ts";

const unit = libraryUnit("brae-p6");
const dual = libraryUnit("corran-w7");
const some = fc.double({ min: 0.05, max: 1, noNaN: true });

/** At rest in neutral for 6 s, then 30 s of steady driving. */
function fromNeutral(speedRatio: number, more: Record<string, Float64Array> = {}) {
  const t = timesOf(36, 20);
  const output = t.map((s) => (s < 6 ? 0 : 800));
  return analyseDrive(
    recordingOf(t, {
      engine_rpm: t.map((s) => (s < 6 ? 760 : 800 * ratioOfGear(unit, 3) + 20)),
      turbine_rpm: t.map((s) => (s < 6 ? 760 * speedRatio : 800 * ratioOfGear(unit, 3))),
      output_rpm: output,
      gear_commanded: t.map((s) => (s < 6 ? 0 : 3)),
      engine_torque_nm: t.map(() => 60),
      ...more,
    }),
    unit,
  );
}

describe("turbine at rest in neutral", () => {
  it("is measured against the engine, and found when it is held", () => {
    fc.assert(
      fc.property(some, (ratio) => {
        const a = fromNeutral(ratio);
        expect(a.neutral?.speedRatio).toBeCloseTo(ratio, 6);
        const found = a.findings.find((f) => f.kind === "neutral-pull");
        expect(Boolean(found)).toBe(ratio < 0.97);
        if (found) expect(found.measures[0].value).toBeCloseTo((1 - ratio) * 100, 6);
      }),
      { numRuns: 20 },
    );
  });
  it("says nothing without rest in neutral", () => {
    const t = timesOf(36, 20);
    expect(fromNeutral(0.5, { gear_commanded: t.map(() => 3) }).neutral).toBeUndefined();
  });
});

/** Third gear of a dual clutch, with whatever else is recorded. */
function steadyDual(channels: (t: Float64Array) => Record<string, Float64Array>) {
  const t = timesOf(120, 10);
  const output = t.map(() => 900);
  const shaft = output.map((o) => o * ratioOfGear(dual, 3));
  return analyseDrive(
    recordingOf(t, {
      engine_rpm: shaft,
      k1_rpm: shaft,
      k2_rpm: shaft,
      output_rpm: output,
      gear_commanded: t.map(() => 3),
      engine_torque_nm: t.map(() => 80),
      ...channels(t),
    }),
    dual,
  );
}

describe("cooling down of a clutch", () => {
  it("follows Newton's law: the decay time comes back", () => {
    fc.assert(
      fc.property(fc.double({ min: 20, max: 180, noNaN: true }), (decayS) => {
        const a = steadyDual((t) => ({
          fluid_c: t.map(() => 80),
          clutch_c: t.map((s) => 80 + 70 * Math.exp(-s / decayS)),
        }));
        expect(a.coolDown?.decayS).toBeCloseTo(decayS, 3);
        expect(a.findings.some((f) => f.kind === "cool-down")).toBe((a.coolDown?.decayS ?? 0) > 90);
      }),
      { numRuns: 12 },
    );
  });
  it("says nothing of a clutch that was never heated, nor of one that slips meanwhile", () => {
    const cool = steadyDual((t) => ({ fluid_c: t.map(() => 80), clutch_c: t.map(() => 84) }));
    expect(cool.coolDown).toBeUndefined();
    const slips = steadyDual((t) => ({
      fluid_c: t.map(() => 80),
      clutch_c: t.map((s) => 80 + 70 * Math.exp(-s / 30)),
      engine_rpm: t.map(() => 900 * ratioOfGear(dual, 3) + 300),
    }));
    expect(slips.coolDown).toBeUndefined();
  });
});

describe("pressures against their commands", () => {
  const driven = (line: number, clutch: number, wobble = 0) =>
    steadyDual((t) => {
      const asked = t.map((s, i) => (s < 60 ? 600 : 1200) + (i % 2 ? wobble : -wobble));
      return {
        fluid_c: t.map((s) => (s < 30 ? 20 : 80)),
        line_pressure_kpa: asked,
        line_pressure_measured_kpa: asked.map((p) => p * line),
        sol_K1: t.map(() => 50),
        k1_kpa: asked.map((p) => Math.min(p * 0.5, p * line) * clutch),
      };
    });
  it("every share comes back, of the line and of a clutch, at each temperature and level", () => {
    fc.assert(
      fc.property(fc.double({ min: 0.5, max: 1, noNaN: true }), some, (line, clutch) => {
        const { pressures } = driven(line, clutch);
        const [ofLine, ofK1] = ["line", "K1"].map((id) => pressures.find((p) => p.id === id));
        for (const share of ["coldShare", "warmShare", "lowShare", "highShare"] as const) {
          expect(ofLine?.[share]).toBeCloseTo(line, 6);
          expect(ofK1?.[share]).toBeCloseTo(clutch, 6);
        }
      }),
      { numRuns: 15 },
    );
  });
  it("a finding for what stays behind, none for what follows", () => {
    const found = (line: number, clutch: number) =>
      driven(line, clutch)
        .findings.filter((f) => f.kind === "pressure")
        .map((f) => f.id);
    expect(found(1, 1)).toEqual([]);
    expect(found(0.7, 1)).toEqual(["pressure:line"]);
    expect(found(1, 0.4)).toEqual(["pressure:K1"]);
  });
  it("a command that never stands still is not answered yet", () => {
    expect(driven(0.5, 1, 200).pressures).toEqual([]);
  });
});
