// Guards: what follows a rotating part is told from what does not, also where the sampling folds it down.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { ratioOfGear } from "../../testing/drives.ts";
import { recordingOf, timesOf } from "../../testing/recordings.ts";
import { libraryUnit } from "../../testing/units.ts";
import { analyseDrive, foldedHz, orderSpectrum, spectrumOf } from "../index.ts";
import { assignOrders } from "./orders.ts";

const unit = libraryUnit("brae-p6");

describe("folding", () => {
  it.each([
    [9, 10, 1],
    [9, 20, 9],
    [32.5, 20, 7.5],
    [20, 20, 0],
    [13, 10, 3],
  ])("%d Hz sampled at %d Hz is seen at %d Hz", (hz, rate, seen) => {
    expect(foldedHz(hz, rate)).toBeCloseTo(seen, 9);
  });
  it("samples of a sinusoid and of its image are the same", () => {
    fc.assert(
      fc.property(fc.double({ min: 0.1, max: 60, noNaN: true }), fc.integer({ min: 5, max: 50 }), (hz, rate) => {
        const seen = foldedHz(hz, rate);
        expect(seen).toBeLessThanOrEqual(rate / 2 + 1e-9);
        for (let k = 0; k < 20; k++)
          expect(Math.cos((2 * Math.PI * hz * k) / rate)).toBeCloseTo(Math.cos((2 * Math.PI * seen * k) / rate), 6);
      }),
    );
  });
});

describe("an order beside another source", () => {
  const rateHz = 40;
  const windowS = 2;
  /** windows of a wheel vibrate over a range of its frequency, others of a vibration that stays at 12 Hz */
  const matched = (wheel: number, other: number, rangeHz: number) => {
    const windows = Array.from({ length: wheel + other }, (_, k) => {
      const hz = 5 + (rangeHz * k) / (wheel - 1);
      return { wheel: k < wheel, hz: k < wheel ? hz : 12, rpm: Math.min(hz, 5 + rangeHz) * 60 * unit.finalDrive };
    });
    const size = windowS * rateHz;
    const outputRpm = Float64Array.from({ length: windows.length * size }, (_, i) => {
      return (windows[Math.floor(i / size)] as (typeof windows)[number]).rpm;
    });
    const orders = assignOrders(
      windows.map((w, k) => ({ start: k * size, end: (k + 1) * size, frequencyHz: w.hz, engineLeads: false })),
      { rateHz, unit, outputRpm, engineRpm: undefined } as unknown as Parameters<typeof assignOrders>[1],
      19,
    );
    return orders.filter((o) => o?.part === "wheels").length;
  };
  it.each([
    [40, 60, 3, 40],
    [39, 61, 3, 0],
    [50, 50, 2.02, 50],
    [50, 50, 1.98, 0],
    // most windows agree: a narrow range will do
    [62, 38, 1.98, 62],
  ])("%d windows of a wheel beside %d others, over %d Hz: %d are the wheel's", (wheel, other, rangeHz, found) => {
    expect(matched(wheel, other, rangeHz)).toBe(found);
  });
});

/** Fourth gear, engine from 1500 to 2300 rpm and back, converter clutch applied from 20 s on. */
function drive(
  vibration: (
    t: number,
    engineRpm: number,
    outputRpm: number,
    turns: number,
  ) => { engine: number; turbine: number; output: number },
  rateHz = 40,
) {
  const t = timesOf(140, rateHz);
  const ratio = ratioOfGear(unit, 4);
  const base = t.map((s) => 1900 - 400 * Math.cos((2 * Math.PI * s) / 70));
  // turns of the engine: the integral of its speed
  const turns = t.map((s) => (1900 * s - (400 * 70 * Math.sin((2 * Math.PI * s) / 70)) / (2 * Math.PI)) / 60);
  const made = t.map(() => 0);
  const [engine, turbine, output] = [made.slice(), made.slice(), made.slice()];
  t.forEach((s, i) => {
    const b = base[i] as number;
    const w = vibration(s, b, b / ratio, turns[i] as number);
    const open = s < 20 ? 150 : 0;
    engine[i] = b + 15 + open + w.engine;
    turbine[i] = b + w.turbine;
    output[i] = b / ratio + w.output;
  });
  return analyseDrive(
    recordingOf(t, {
      engine_rpm: engine,
      turbine_rpm: turbine,
      output_rpm: output,
      gear_commanded: t.map(() => 4),
      engine_torque_nm: t.map(() => 110),
      tcc_command: t.map((s) => (s < 20 ? 0 : 85)),
      fluid_c: t.map(() => 80),
    }),
    unit,
  );
}
const sine = (hz: number, t: number, peakToPeak: number) => (peakToPeak / 2) * Math.sin(2 * Math.PI * hz * t);
const still = { engine: 0, turbine: 0, output: 0 };
const kinds = (a: ReturnType<typeof drive>) => a.findings.map((f) => f.id);

describe("sources of a vibration", () => {
  it("a vibration of the turbine at a steady 8 Hz while the clutch works is shudder", () => {
    const a = drive((t) => (t < 20 ? still : { engine: 0, turbine: sine(8, t, 60), output: sine(8, t, 45) }));
    expect(kinds(a)).toEqual(["shudder"]);
    expect(a.findings[0]?.measures[1]?.value).toBeCloseTo(8, 1);
  });
  it.each([
    [0.5, "engine"],
    [1, "engine"],
  ])("%d times a turn of the engine is the engine's, folded or not", (order, part) => {
    const a = drive((_t, _e, _o, turns) => {
      const v = 30 * Math.sin(2 * Math.PI * order * turns);
      return { engine: v, turbine: 0.3 * v, output: 0.2 * v };
    });
    expect(kinds(a)).toContain(`oscillation:${part}`);
    expect(kinds(a)).not.toContain("shudder");
    const finding = a.findings.find((f) => f.id === `oscillation:${part}`);
    expect(finding?.measures.find((m) => m.name.startsWith("times a turn"))?.value).toBe(order);
  });
  it("once a turn of the wheels is the wheels'", () => {
    const a = drive((_t, _e, _o, turns) => {
      // engine turns over gear and final drive
      const wheel = turns / ratioOfGear(unit, 4) / unit.finalDrive;
      const v = 25 * Math.sin(2 * Math.PI * wheel);
      return { engine: 0.2 * v, turbine: v * ratioOfGear(unit, 4), output: v };
    });
    expect(kinds(a)).toEqual(["oscillation:wheels"]);
  });
  it("two at once are both found", () => {
    const a = drive((t, _e, _o, turns) => {
      const wheel = turns / ratioOfGear(unit, 4) / unit.finalDrive;
      // shudder in the first half, an unbalanced wheel in the second
      if (t > 20 && t < 75) return { engine: 0, turbine: sine(8.5, t, 70), output: 0 };
      const v = t >= 75 ? 25 * Math.sin(2 * Math.PI * wheel) : 0;
      return { engine: 0, turbine: v * ratioOfGear(unit, 4), output: v };
    });
    expect(kinds(a)).toContain("shudder");
    const causes = new Set(a.oscillation.windows.filter((w) => w.startS > 76).map((w) => w.cause));
    expect(causes).toContain("wheels");
  });
  it("at 10 readings a second a shudder of 9 Hz is seen at 1 Hz, and nothing is claimed of it", () => {
    const a = drive((t) => (t < 20 ? still : { engine: 0, turbine: sine(9, t, 70), output: 0 }), 10);
    expect(kinds(a)).toEqual(["oscillation:unknown"]);
    expect(a.findings[0]?.severity).toBe("notice");
    expect(a.findings[0]?.measures[1]).toMatchObject({ name: "seen as" });
    expect(a.findings[0]?.measures[1]?.value).toBeCloseTo(1, 1);
    expect(a.findings[0]?.confidence.reason).toMatch(/fold down/);
  });
  describe("what vibrates after a shift", () => {
    /** Third, then fourth from 20 s on; the output vibrates at 3.3 Hz from then. */
    const after = (dyingS: number) => {
      const t = timesOf(60, 40);
      const ratio = (s: number) => {
        const [a, b] = [ratioOfGear(unit, 3), ratioOfGear(unit, 4)];
        return a + (b - a) * Math.min(1, Math.max(0, (s - 20.3) / 0.4));
      };
      const output = t.map((s) => 1300 + (s > 20.7 ? 45 * Math.exp((20.7 - s) / dyingS) * sine(3.3, s, 2) : 0));
      const turbine = output.map((o, i) => o * ratio(t[i] as number));
      return analyseDrive(
        recordingOf(t, {
          engine_rpm: turbine.map((v) => v + 20),
          turbine_rpm: turbine,
          output_rpm: output,
          gear_commanded: t.map((s) => (s < 20 ? 3 : 4)),
          engine_torque_nm: t.map(() => 100),
          pedal_pct: t.map(() => 30),
        }),
        unit,
      ).oscillation.windows;
    };
    it("and dies away is the driveline, which rings", () => {
      expect(after(1.6)).toEqual([]);
    });
    it("and goes on is looked into", () => {
      expect(after(1e6).length).toBeGreaterThan(20);
    });
  });
  it("a smooth drive has none", () => {
    expect(kinds(drive(() => still))).toEqual([]);
  });
});

describe("spectra of a span", () => {
  const t = timesOf(30, 50);
  it("a sinusoid stands at its frequency with its height", () => {
    const s = spectrumOf(
      t,
      t.map((x) => 900 + 3 * x + sine(6.2, x, 40)),
      0,
      t.length,
    );
    const top = s?.peakToPeak.reduce((best, v, i, all) => (v > (all[best] as number) ? i : best), 0) ?? 0;
    expect(s?.at[top]).toBeCloseTo(6.2, 1);
    expect(s?.peakToPeak[top]).toBeGreaterThan(38);
    expect(s?.peakToPeak[top]).toBeLessThan(40.5);
    expect(s?.at.at(-1)).toBeLessThanOrEqual(25);
  });
  it("what follows a shaft that speeds up is smeared over frequency and one line over its turns", () => {
    const rpm = t.map((x) => 600 + 20 * x);
    const turns = t.map((x) => (600 * x + 10 * x * x) / 60);
    const signal = turns.map((n) => 20 * Math.sin(2 * Math.PI * 0.5 * n));
    const plain = spectrumOf(t, signal, 0, t.length);
    const byTurns = orderSpectrum(t, signal, rpm, 0, t.length);
    const highest = (v: Float64Array | undefined) => Math.max(...(v ?? []));
    const top = byTurns?.peakToPeak.indexOf(highest(byTurns.peakToPeak)) ?? 0;
    expect(byTurns?.at[top]).toBeCloseTo(0.5, 2);
    expect(highest(byTurns?.peakToPeak)).toBeGreaterThan(1.8 * highest(plain?.peakToPeak));
  });
  it("a missing reading or a shaft at rest gives none", () => {
    expect(
      spectrumOf(
        t,
        t.map((x, i) => (i === 50 ? Number.NaN : x)),
        0,
        t.length,
      ),
    ).toBeUndefined();
    expect(
      orderSpectrum(
        t,
        t,
        t.map(() => 0),
        0,
        t.length,
      ),
    ).toBeUndefined();
    expect(spectrumOf(t, t, 0, 5)).toBeUndefined();
  });
});
