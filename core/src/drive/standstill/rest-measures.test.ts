// Guards: a turbine held in neutral, clutches that stay hot, pressures behind their commands, against closed forms.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { ratioOfGear } from "../../testing/drives.ts";
import { recordingOf, timesOf } from "../../testing/recordings.ts";
import { libraryUnit } from "../../testing/units.ts";
import { type Analysis, analyseDrive, compareDrives } from "../index.ts";
import { settled } from "../signal/stats.ts";

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
        expect(Boolean(found)).toBe(ratio < 0.92);
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

/** Line and clutch at shares of their commands; a command that wobbles never stands still. */
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

describe("pressures against their commands", () => {
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

describe("before against after", () => {
  const verdict = (before: Analysis, after: Analysis, id: string) =>
    compareDrives([before], [after]).findings[before.findings.findIndex((f) => f.id === id)]?.verdict;
  const t = timesOf(36, 20);
  const noNeutral = fromNeutral(0.5, { gear_commanded: t.map(() => 3) });
  const cooling = (decayS: number) =>
    steadyDual((s) => ({ fluid_c: s.map(() => 80), clutch_c: s.map((x) => 80 + 70 * Math.exp(-x / decayS)) }));
  it("a turbine that runs free again is gone, and not exercised without rest in neutral", () => {
    const held = fromNeutral(0.5);
    expect(verdict(held, fromNeutral(0.99), "neutral-pull")).toBe("gone");
    expect(verdict(held, held, "neutral-pull")).toBe("same");
    expect(verdict(held, noNeutral, "neutral-pull")).toBe("not exercised");
  });
  it("a pressure that follows again is gone, of the line and of a clutch", () => {
    expect(verdict(driven(0.6, 1), driven(1, 1), "pressure:line")).toBe("gone");
    expect(verdict(driven(0.6, 1), driven(0.6, 1), "pressure:line")).toBe("same");
    expect(verdict(driven(1, 0.5), driven(1, 1), "pressure:K1")).toBe("gone");
    expect(verdict(driven(1, 0.5), cooling(30), "pressure:K1")).toBe("not exercised");
  });
  it("a clutch that cools again is gone, and not exercised when it was not heated", () => {
    expect(verdict(cooling(150), cooling(30), "cool-down")).toBe("gone");
    expect(verdict(cooling(150), cooling(150), "cool-down")).toBe("same");
    expect(verdict(cooling(150), driven(1, 1), "cool-down")).toBe("not exercised");
  });
});

describe("what has settled", () => {
  it("is what still holds so long after it began to, however often it began", () => {
    fc.assert(
      fc.property(
        fc.array(fc.boolean(), { minLength: 1, maxLength: 80 }),
        fc.integer({ min: 0, max: 6 }),
        (on, steps) => {
          const t = Float64Array.from(on, (_, i) => i);
          const plain = on.flatMap((_, i) => {
            let since = i;
            while (since > 0 && on[since - 1]) since--;
            return on[i] && i - since > steps ? [i] : [];
          });
          expect(settled(t, (i) => on[i] === true, 1, steps)).toEqual(plain);
        },
      ),
    );
  });
});
