// Guards: the measures of a drive against closed forms: sinusoids, straight inertia phases, hinges, known drop-outs.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { InputError } from "../log/index.ts";
import { ratioOfGear, steadyDrive } from "../testing/drives.ts";
import { recordingOf, timesOf } from "../testing/recordings.ts";
import { libraryUnit } from "../testing/units.ts";
import { explainObtained, type Unit } from "../unit/index.ts";
import { fitHinge } from "./gear/held.ts";
import { analyseDrive, gearOutcomes, obtainedGears } from "./index.ts";
import { dropoutMask, findDropouts } from "./sensors/dropouts.ts";
import { findShifts } from "./shift/shifts.ts";
import { buildFrame, sampleAt } from "./signal/frame.ts";
import { strongestPeak } from "./signal/spectrum.ts";
import { extent, median, quantile, runs, where } from "./signal/stats.ts";

const unit = libraryUnit("brae-p6");
const dual = libraryUnit("corran-w7");
const ratio = (gear: string, of: Unit = unit) => ratioOfGear(of, gear);

describe("statistics", () => {
  it.each([
    [[1, 2, 3, 4], 0.5, 2.5],
    [[4, 1, 3, 2], 0, 1],
    [[4, 1, 3, 2], 1, 4],
    [[0, 10], 0.25, 2.5],
    [[5, Number.NaN, 1], 0.5, 3],
  ])("quantile of %j at %d is %d", (values, p, expected) => {
    expect(quantile(values, p)).toBeCloseTo(expected, 12);
  });
  it("a quantile lies between neighbours of the sorted list", () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { minLength: 1, maxLength: 60 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (list, p) => {
          const sorted = [...list].sort((a, b) => a - b);
          const at = p * (sorted.length - 1);
          const q = quantile(list, p);
          expect(q).toBeGreaterThanOrEqual((sorted[Math.floor(at)] as number) - 1e-9);
          expect(q).toBeLessThanOrEqual((sorted[Math.ceil(at)] as number) + 1e-9);
        },
      ),
    );
    expect(median([])).toBeNaN();
    expect(extent([])).toBeUndefined();
  });
  it("joins runs that are close and drops short ones", () => {
    const t = timesOf(10, 10);
    const hits = where(t.length, (i) => (i >= 10 && i < 20) || (i >= 22 && i < 30) || i === 60);
    expect(runs(t, hits, 0.35, 0.5, 3)).toMatchObject([{ start: 10, end: 30 }]);
    expect(runs(t, hits, 0.15, 0.5, 3)).toHaveLength(2);
  });
});

describe("strongestPeak", () => {
  it("tells frequency, height and prominence of a sinusoid over a trend", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 3.4, max: 8.4, noNaN: true }),
        fc.double({ min: 10, max: 120, noNaN: true }),
        fc.double({ min: 0, max: 6, noNaN: true }),
        (hz, pp, phase) => {
          const signal = Float64Array.from(
            { length: 48 },
            (_, i) => 40 + 3 * i + (pp / 2) * Math.sin(2 * Math.PI * hz * (i / 20) + phase),
          );
          const peak = strongestPeak(signal, 20, 3, 9, 128);
          expect(Math.abs((peak?.frequencyHz ?? 0) - hz)).toBeLessThan(0.08);
          expect(Math.abs((peak?.peakToPeak ?? 0) / pp - 1)).toBeLessThan(0.06);
        },
      ),
    );
  });
  it("finds nothing prominent in noise and leaves the signal as it was", () => {
    let x = 1;
    const noise = Float64Array.from({ length: 48 }, () => {
      x = (x * 16807) % 2147483647;
      return x / 2147483647 - 0.5;
    });
    const copy = Float64Array.from(noise);
    expect(strongestPeak(noise, 20, 3, 9, 128)?.prominence).toBeLessThan(4);
    expect(noise).toEqual(copy);
  });
  it("has no answer for a band without bins", () => {
    expect(strongestPeak(new Float64Array(16), 4, 3, 9, 32)).toBeUndefined();
  });
});

describe("fitHinge", () => {
  it("finds onset and slope of slip that grows above a torque", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 60, max: 200, noNaN: true }),
        fc.double({ min: 0.3, max: 3, noNaN: true }),
        (onset, slope) => {
          const torque = Float64Array.from({ length: 600 }, (_, i) => (i * 37) % 320);
          const slip = torque.map((t) => slope * Math.max(0, t - onset));
          const fit = fitHinge(torque, slip);
          expect(Math.abs((fit?.onsetTorqueNm ?? 0) - onset)).toBeLessThan(4);
          expect(Math.abs((fit?.rpmPerNm ?? 0) / slope - 1)).toBeLessThan(0.06);
        },
      ),
    );
  });
  it("has no answer without enough torque or samples", () => {
    expect(fitHinge(new Float64Array(50).fill(100), new Float64Array(50))).toBeUndefined();
    expect(fitHinge(Float64Array.of(1, 50, 100), Float64Array.of(0, 0, 0))).toBeUndefined();
  });
});

describe("sampleAt", () => {
  const channel = {
    id: "x",
    timeS: Float64Array.of(0, 1, 2, 9),
    values: Float64Array.of(0, 10, 20, 90),
    column: "x",
    rateHz: 1,
    invalidCount: 0,
  };
  it("is linear between readings, holds discrete ones, and is silent across a hole", () => {
    const at = Float64Array.of(-1, 0.5, 1.25, 5, 9);
    expect([...sampleAt(channel, at, false, 2)]).toEqual([Number.NaN, 5, 12.5, Number.NaN, 90]);
    expect([...sampleAt(channel, at, true, 2)].slice(1, 3)).toEqual([0, 10]);
  });
});

/** A shift as a straight line from the old to the new synchronous speed, with a flare before it. */
function shiftLog(options: {
  from: string;
  to: string;
  delayS: number;
  inertiaS: number;
  flareRpm: number;
  accelRpmPerS?: number;
  rateHz?: number;
  of?: Unit;
}) {
  const { from, to, delayS, inertiaS, flareRpm, accelRpmPerS = 0, rateHz = 20, of = unit } = options;
  const t = timesOf(14, rateHz);
  const output = t.map((s) => 900 + accelRpmPerS * s);
  const commandS = 6;
  const start = commandS + delayS;
  const input = t.map((s, i) => {
    const out = output[i] as number;
    const [a, b] = [ratio(from, of) * out, ratio(to, of) * out];
    if (s < start)
      return a + (s > start - delayS && flareRpm > 0 ? flareRpm * Math.sin((Math.PI * (s - commandS)) / delayS) : 0);
    return a + (b - a) * Math.min(1, (s - start) / inertiaS);
  });
  return recordingOf(t, {
    turbine_rpm: input,
    engine_rpm: input,
    k1_rpm: input,
    output_rpm: output,
    gear_commanded: t.map((s) => (s < commandS ? Number(from) : Number(to))),
    engine_torque_nm: t.map(() => 120),
  });
}

describe("findShifts", () => {
  it("measures delay and inertia phase of a straight shift, whatever the vehicle does meanwhile", () => {
    fc.assert(
      fc.property(
        fc.constantFrom(["2", "3"], ["3", "4"], ["4", "5"], ["3", "2"], ["5", "4"]),
        fc.double({ min: 0.1, max: 0.5, noNaN: true }),
        fc.double({ min: 0.3, max: 1.1, noNaN: true }),
        fc.double({ min: -40, max: 60, noNaN: true }),
        ([from, to], delayS, inertiaS, accelRpmPerS) => {
          const frame = buildFrame(
            shiftLog({ from: from as string, to: to as string, delayS, inertiaS, flareRpm: 0, accelRpmPerS }),
            unit,
          );
          const [shift] = findShifts(frame, new Uint8Array(frame.timeS.length));
          expect(shift?.measured).toBe(true);
          expect(Math.abs((shift?.inertiaS ?? 0) - inertiaS)).toBeLessThan(0.03);
          expect(Math.abs((shift?.delayS ?? 0) - delayS)).toBeLessThan(0.06);
          expect(shift?.flareRpm ?? 99).toBeLessThan(1);
        },
      ),
      { numRuns: 60 },
    );
  });
  it("measures a flare above the old line", () => {
    const frame = buildFrame(shiftLog({ from: "2", to: "3", delayS: 0.4, inertiaS: 0.4, flareRpm: 200 }), unit);
    const [shift] = findShifts(frame, new Uint8Array(frame.timeS.length));
    expect(Math.abs((shift?.flareRpm ?? 0) - 200)).toBeLessThan(12);
  });
  it("says that a shift failed and which gear stayed", () => {
    const t = timesOf(20, 20);
    const output = t.map(() => 900);
    const recording = recordingOf(t, {
      turbine_rpm: output.map((o) => o * ratio("1")),
      output_rpm: output,
      gear_commanded: t.map((s) => (s < 8 ? 1 : 3)),
      engine_torque_nm: t.map(() => 80),
    });
    const frame = buildFrame(recording, unit);
    const [shift] = findShifts(frame, new Uint8Array(t.length));
    expect(shift).toMatchObject({ name: "1-3", completed: false, obtained: "1", measured: false });
    const analysis = analyseDrive(recording, unit);
    expect(analysis.findings.map((f) => f.kind)).toEqual(expect.arrayContaining(["failed-shift", "wrong-gear"]));
    expect(gearOutcomes(analysis)["3"]).toBe("bad");
  });
  it("works on a dual clutch with the engine as input", () => {
    const frame = buildFrame(shiftLog({ from: "2", to: "3", delayS: 0.2, inertiaS: 0.4, flareRpm: 0, of: dual }), dual);
    expect(findShifts(frame, new Uint8Array(frame.timeS.length))[0]?.inertiaS).toBeCloseTo(0.4, 1);
  });
});

const steadyLog = (...args: Parameters<typeof steadyDrive> extends [Unit, ...infer Rest] ? Rest : never) =>
  steadyDrive(unit, ...args);

describe("slip", () => {
  it("is found in the gears that slip, with onset, peak and the limit's source", () => {
    const analysis = analyseDrive(
      steadyLog((g, torque) => (g >= 4 ? 1.5 * Math.max(0, torque - 140) : 0)),
      unit,
    );
    const slips = analysis.findings.filter((f) => f.kind === "slip");
    expect(slips.map((f) => f.subject.gear)).toEqual(["4", "5", "6"]);
    for (const f of slips) {
      expect(f.limit).toEqual({ value: 45, quantity: "speed-rpm", source: "unit file" });
      expect(Math.abs(f.measures[0].value - 135)).toBeLessThan(6);
      expect(Math.abs((f.measures.find((m) => m.name === "begins at")?.value ?? 0) - 140)).toBeLessThan(6);
    }
    expect(gearOutcomes(analysis)).toMatchObject({ "1": "good", "3": "good", "4": "bad", "6": "bad" });
  });
  it("is not found in healthy driving, and a typical limit is called so", () => {
    expect(
      analyseDrive(
        steadyLog(() => 0),
        unit,
      ).findings,
    ).toEqual([]);
    const { slipRpm: _, ...limits } = unit.limits;
    const analysis = analyseDrive(
      steadyLog((g) => (g === 2 ? 90 : 0)),
      { ...unit, limits },
    );
    expect(analysis.findings[0]?.limit).toMatchObject({ value: 50, source: "typical" });
  });
  it("on a derived channel is never sure", () => {
    const recording = steadyLog(
      (g) => (g === 3 ? 120 : 0),
      ({ output_rpm: _, ...rest }) => rest,
    );
    const analysis = analyseDrive(recording, unit);
    expect(analysis.derived).toEqual(["output_rpm"]);
    expect(analysis.findings[0]?.confidence.level).toBe("low");
  });
  it("clears a gear only at the torque at which the others fail", () => {
    const gentle = steadyLog(
      (g, torque) => (g === 5 ? 2 * Math.max(0, torque - 150) : 0),
      (c, t) => ({
        ...c,
        engine_torque_nm: (c.engine_torque_nm as Float64Array).map((v, i) =>
          (t[i] as number) < 20 ? Math.min(v, 60) : v,
        ),
      }),
    );
    expect(gearOutcomes(analyseDrive(gentle, unit))).toMatchObject({ "1": "not-exercised", "2": "good", "5": "bad" });
  });
});

describe("another gear than commanded", () => {
  it("is told with those that came as commanded, and leads to what sticks", () => {
    const four = libraryUnit("tarn-f4");
    const t = timesOf(80, 20);
    const gear = t.map((s) => 1 + Math.min(2, Math.floor(s / 25)));
    const output = t.map((s) => 900 + 5 * Math.sin(s));
    const analysis = analyseDrive(
      recordingOf(t, {
        turbine_rpm: output.map((o, i) => o * ratio(gear[i] === 3 ? "1" : String(gear[i]), four)),
        output_rpm: output,
        gear_commanded: gear,
        engine_torque_nm: t.map((s) => 100 + 40 * Math.sin(s)),
      }),
      four,
    );
    const seen = obtainedGears(analysis);
    expect(seen).toEqual([
      { commanded: "1", obtained: "1" },
      { commanded: "2", obtained: "2" },
      { commanded: "3", obtained: "1" },
    ]);
    expect(explainObtained(four, seen).map((e) => e.solenoids)).toEqual([["sol_DC"]]);
  });
});

describe("drop-outs", () => {
  it("are found where the sensor must read, with their span, and never taken for slip", () => {
    const recording = steadyLog(
      () => 0,
      (c, t) => ({
        ...c,
        output_rpm: (c.output_rpm as Float64Array).map((v, i) =>
          (t[i] as number) >= 50 && (t[i] as number) < 51.5 ? 0 : v,
        ),
      }),
    );
    const analysis = analyseDrive(recording, unit);
    expect(analysis.dropouts).toHaveLength(1);
    expect(analysis.dropouts[0]).toMatchObject({ sensor: "sen_output", gear: "3", kind: "zero while moving" });
    expect(analysis.dropouts[0]?.startS).toBeCloseTo(50, 1);
    expect(analysis.dropouts[0]?.endS).toBeCloseTo(51.45, 1);
    expect(analysis.findings.map((f) => f.kind)).toEqual(["drop-out"]);
  });
  it("a shaft that passes through zero and comes back has lost no signal; one that is gone for as long has", () => {
    const within = (shape: (s: number) => number) =>
      analyseDrive(
        steadyLog(
          () => 0,
          (c, t) => ({
            ...c,
            output_rpm: (c.output_rpm as Float64Array).map((v, i) => {
              const s = (t[i] as number) - 50;
              return s > -0.5 && s < 0.5 ? v * shape(s) : v;
            }),
          }),
        ),
        unit,
      ).dropouts.length;
    // a tenth of a second at zero, reached and left in half a second
    expect(within((s) => Math.max(0, 2 * Math.abs(s) - 0.15))).toBe(0);
    expect(within((s) => (Math.abs(s) < 0.1 ? 0 : 1))).toBe(1);
  });
  it("cells that were garbled here and there are none; two in a row are one", () => {
    const without = (gone: readonly number[]) =>
      analyseDrive(
        steadyLog(
          () => 0,
          (c) => ({
            ...c,
            output_rpm: (c.output_rpm as Float64Array).map((v, i) => (gone.includes(i) ? Number.NaN : v)),
          }),
        ),
        unit,
      ).dropouts.map((d) => d.kind);
    expect(without([900, 902, 905])).toEqual([]);
    expect(without([900, 901])).toEqual(["no valid reading"]);
  });
  it("are not found where the unit file says that the sensor reads nothing", () => {
    const t = timesOf(30, 20);
    const output = t.map(() => 900);
    const recording = recordingOf(t, {
      engine_rpm: output.map((o) => o * ratio("4", dual)),
      k1_rpm: t.map(() => 0),
      k2_rpm: output.map((o) => o * ratio("4", dual)),
      output_rpm: output,
      gear_commanded: t.map(() => 4),
    });
    const frame = buildFrame(recording, dual);
    expect(findDropouts(recording, frame)).toEqual([]);
    expect(dropoutMask(frame, []).every((m) => m === 0)).toBe(true);
  });
});

describe("refusals", () => {
  const code = (work: () => unknown) => {
    try {
      work();
    } catch (e) {
      if (e instanceof InputError) return `${e.code}: ${e.message}`;
    }
    return "accepted";
  };
  it("a log of a unit with converter is refused for a dual clutch, naming the unit that fits", () => {
    expect(
      code(() =>
        analyseDrive(
          steadyLog(() => 0),
          dual,
          [unit, dual],
        ),
      ),
    ).toMatch(/^channels-missing: .*Corran W7.*converter.*The ratios fit Brae P6 \(\d+ %/);
  });
  it("a log with other ratios is refused, naming the unit that fits better", () => {
    const other: Unit = {
      ...unit,
      id: "other",
      name: "Other six",
      gears: unit.gears.map((g) => ({ ...g, ratio: g.ratio * 1.18 })),
    };
    expect(
      code(() =>
        analyseDrive(
          steadyLog(() => 0),
          other,
          [other, unit, dual],
        ),
      ),
    ).toMatch(/^wrong-unit: .*not those of Other six.*Brae P6 agrees in (9\d|100) %/);
    expect(
      code(() =>
        analyseDrive(
          steadyLog(() => 0),
          other,
          [other],
        ),
      ),
    ).toMatch(/No unit of the library fits better/);
  });
  it("slip does not make a unit the wrong one", () => {
    expect(
      code(() =>
        analyseDrive(
          steadyLog((_, torque) => 2.5 * Math.max(0, torque - 60)),
          unit,
          [unit],
        ),
      ),
    ).toBe("accepted");
  });
  it("other gears of its own than commanded do not make it another unit, however well that one fits by chance", () => {
    // in the even gears the one below is obtained, and a unit made for that has just these ratios
    const stuck = steadyLog(
      () => 0,
      (c) => ({
        ...c,
        turbine_rpm: (c.output_rpm as Float64Array).map((o, i) => {
          const g = c.gear_commanded?.[i] as number;
          return o * ratio(String(g % 2 === 0 || g === 5 ? g - 1 : g));
        }),
      }),
    );
    const chance: Unit = {
      ...unit,
      id: "chance",
      name: "Chance six",
      gears: unit.gears.map((g) => {
        const n = Number(g.name);
        return n % 2 === 0 || n === 5 ? { ...g, ratio: ratio(String(n - 1)) } : g;
      }),
    };
    expect(code(() => analyseDrive(stuck, unit, [unit, chance]))).toBe("accepted");
  });
  it("names the channel that is missing", () => {
    const recording = steadyLog(
      () => 0,
      ({ turbine_rpm: _, engine_rpm: __, ...rest }) => rest,
    );
    expect(code(() => analyseDrive(recording, unit))).toMatch(/^channels-missing: .*Turbine speed is missing/);
  });
});

it("an analysis survives JSON unchanged: nothing in it is NaN or infinite", () => {
  const analysis = analyseDrive(
    steadyLog(
      (g, torque) => (g >= 4 ? Math.max(0, torque - 140) : 0),
      ({ engine_torque_nm: _, fluid_c: __, ...rest }) => rest,
    ),
    unit,
  );
  expect(JSON.parse(JSON.stringify(analysis))).toEqual(
    JSON.parse(JSON.stringify(analysis, (_k, v) => (typeof v === "number" && !Number.isFinite(v) ? "not finite" : v))),
  );
});
