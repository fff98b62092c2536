// Guards: engagement, stall test, launch, coast-down, heat, learned values, ripple, coverage: each against a closed form.
import { describe, expect, it } from "@jest/globals";
import { equivalentHours, shareAbove } from "../fluid/index.ts";
import { ratioOfGear, steadyDrive } from "../testing/drives.ts";
import { recordingOf, timesOf } from "../testing/recordings.ts";
import { libraryUnit } from "../testing/units.ts";
import { stallSpeedRpm } from "../unit/index.ts";
import { converter } from "./converter/converter.measure.ts";
import { analyseDrive } from "./index.ts";

const unit = libraryUnit("brae-p6");
const dual = libraryUnit("corran-w7");
type Made = Record<string, Float64Array>;
const judge = (t: Float64Array, channels: Made, of = unit) => analyseDrive(recordingOf(t, channels), of);

describe("engagement", () => {
  /** At rest, D at 10 s; the turbine falls in a straight line from 800 rpm to 0 between two moments. */
  const engage = (fromS: number, toS: number, rateHz = 20) => {
    const t = timesOf(40, rateHz);
    return judge(t, {
      engine_rpm: t.map(() => 820),
      turbine_rpm: t.map((s) => (s < fromS ? 800 : s > toS ? 0 : (800 * (toS - s)) / (toS - fromS))),
      output_rpm: t.map(() => 0),
      gear_commanded: t.map((s) => (s < 10 ? 0 : 1)),
      range: t.map((s) => (s < 10 ? 3 : 4)),
      brake_on: t.map(() => 1),
      engine_torque_nm: t.map(() => 20),
      tcc_command: t.map(() => 0),
    });
  };
  it.each([
    [10.2, 10.6, 0.4],
    [10.5, 10.7, 0.6],
    [11.6, 12.0, 1.8],
  ])("turbine from %d to %d s: pulled down after %d s", (from, to, delay) => {
    const [e] = engage(from, to).engagements;
    expect(e?.range).toBe("D");
    expect(e?.delayS).toBeCloseTo(delay, 1);
  });
  it("late is a finding by the unit file's limit, in time isn't", () => {
    const late = engage(11.6, 12.0).findings.find((f) => f.kind === "late-engagement");
    expect(late).toMatchObject({ id: "late-engagement:D", limit: { value: 1.2, source: "unit file" } });
    expect(engage(10.2, 10.6).findings).toEqual([]);
  });
  it.each([
    [10.2, 10.6, 2000],
    [10.2, 11.2, 800],
  ])("a straight fall from %d to %d s is a jolt of %d rpm/s", (from, to, jolt) => {
    expect(engage(from, to).engagements[0]?.joltRpmPerS).toBeCloseTo(jolt, 0);
  });
  it("no jolt is claimed at five readings a second", () => {
    expect(engage(10.2, 11.2, 5).engagements[0]).toMatchObject({ joltRpmPerS: undefined });
  });
  it("the direction that was engaged is covered, the other is asked for; a dual clutch is asked for none", () => {
    const asked = (a: ReturnType<typeof judge>) => a.coverage.next.filter((n) => n.startsWith("foot on the brake"));
    expect(asked(engage(10.2, 10.6))).toEqual([expect.stringContaining("into R")]);
    expect(asked(analyseDrive(steadyDrive(unit), unit))).toHaveLength(2);
    const t = timesOf(30, 20);
    const still = { engine_rpm: t.map(() => 800), output_rpm: t.map(() => 0), gear_commanded: t.map(() => 0) };
    expect(asked(judge(t, still, dual))).toEqual([]);
  });
  it("a turbine that is never pulled down does not engage", () => {
    const a = engage(100, 101);
    expect(a.engagements[0]?.delayS).toBeUndefined();
    expect(a.findings.find((f) => f.kind === "late-engagement")?.title).toBe("D does not engage");
  });
});

describe("stall test", () => {
  const test = (share: number, holdS = 3) => {
    const t = timesOf(30, 20);
    const during = (s: number) => s >= 10 && s < 10 + holdS;
    const expected = stallSpeedRpm(unit.converter as NonNullable<typeof unit.converter>, 300);
    return {
      expected,
      analysis: judge(t, {
        engine_rpm: t.map((s) => (during(s) ? expected * share : 800)),
        turbine_rpm: t.map(() => 0),
        output_rpm: t.map(() => 0),
        gear_commanded: t.map(() => 1),
        brake_on: t.map(() => 1),
        pedal_pct: t.map((s) => (during(s) ? 100 : 0)),
        engine_torque_nm: t.map((s) => (during(s) ? 300 : 15)),
        tcc_command: t.map(() => 0),
      }),
    };
  };
  it("the speed is held against K·√T", () => {
    const { expected, analysis } = test(1);
    expect(analysis.stallTests[0]?.engineRpm).toBeCloseTo(expected, 6);
    expect(analysis.stallTests[0]?.expectedRpm).toBeCloseTo(expected, 6);
    expect(analysis.stallTests[0]?.tooLong).toBe(false);
    expect(analysis.findings).toEqual([]);
  });
  it.each([
    [1.2, /too high: something slips/],
    [0.8, /too low: the converter or the engine is weak/],
  ])("%d of it is a finding", (share, words) => {
    expect(test(share).analysis.findings.find((f) => f.kind === "stall")?.title).toMatch(words);
  });
  it("held longer than five seconds is said", () => {
    expect(test(1, 7).analysis.stallTests[0]?.tooLong).toBe(true);
  });
});

describe("dual-clutch launch", () => {
  /** From rest at 10 s: engine at 1500 rpm, the output rises in a straight line until the clutch closes. */
  const launch = (ripple: (s: number) => number = () => 0, closesAfterS = 4) => {
    const t = timesOf(60, 40);
    const ratio = ratioOfGear(dual, 1);
    const each = (s: number) => s % 20;
    const output = t.map((s) => {
      const since = each(s) - 5;
      if (since < 0) return 0;
      const closed = 1500 / ratio;
      return since < closesAfterS
        ? (closed * since) / closesAfterS + ripple(s)
        : Math.max(0, closed * (1 - (since - closesAfterS) / 30));
    });
    const engine = output.map((o, i) =>
      each(t[i] as number) < 5 ? 900 : each(t[i] as number) < 5 + closesAfterS ? 1500 : o * ratio,
    );
    return judge(
      t,
      {
        engine_rpm: engine,
        output_rpm: output,
        k1_rpm: output.map((o) => o * ratio),
        gear_commanded: t.map(() => 1),
        pedal_pct: t.map((s) => (each(s) < 5 ? 0 : 30)),
        engine_torque_nm: t.map(() => 100),
      },
      dual,
    );
  };
  it("slip time, and energy ∫T·Δω dt of a straight run-up: half the speed times torque times time", () => {
    const [l] = launch().launches;
    expect(launch().launches).toHaveLength(3);
    expect(l?.closed).toBe(true);
    expect(l?.slipS).toBeCloseTo(4, 0);
    const energyKj = (100 * ((1500 * 2 * Math.PI) / 60) * 4) / 2 / 1000;
    expect((l?.energyKj ?? 0) / energyKj).toBeGreaterThan(0.93);
    expect((l?.energyKj ?? 0) / energyKj).toBeLessThan(1.03);
  });
  it("judder is found with its frequency and height; a smooth launch has none", () => {
    const a = launch((s) => 25 * Math.sin(2 * Math.PI * 7 * s));
    const f = a.findings.find((x) => x.kind === "judder");
    expect(f?.measures[1]?.value).toBeCloseTo(7, 0);
    expect(f?.measures[0]?.value).toBeGreaterThan(44);
    expect(f?.subject.gear).toBe("1");
    expect(launch().findings.map((x) => x.kind)).not.toContain("judder");
  });
  it("shafts that the take-up sets vibrating die away: no judder, unless the ripple keeps over a third of its height", () => {
    const left = (share: number) =>
      launch((s) => (s % 20 < 7.2 ? 60 : 60 * share) * Math.sin(2 * Math.PI * 7 * s)).findings.map((f) => f.kind);
    expect(left(0.32)).not.toContain("judder");
    expect(left(0.38)).toContain("judder");
  });
  it("slower than four times a second it is the shafts that vibrate, however high", () => {
    expect(launch((s) => 25 * Math.sin(2 * Math.PI * 3.2 * s)).findings.map((x) => x.kind)).not.toContain("judder");
  });
  it("what vibrates in a launch is not looked for again as a vibration of the road", () => {
    const a = launch((s) => 40 * Math.sin(2 * Math.PI * 7 * s));
    const [first] = a.launches;
    const inside = a.oscillation.windows.filter((w) => w.endS < (first?.endS ?? 0));
    expect(inside).toEqual([]);
  });
  it("one launch of many that trembles isn't a finding", () => {
    const once = launch((s) => (s < 20 ? 25 * Math.sin(2 * Math.PI * 7 * s) : 0));
    expect(once.launches.filter((l) => (l.judder?.peakToPeak ?? 0) > 20)).toHaveLength(1);
    expect(once.findings.map((x) => x.kind)).not.toContain("judder");
  });
});

describe("coast-down", () => {
  it("a stop with the pedal up is found with its downshifts and where it jolts most", () => {
    const t = timesOf(60, 20);
    const speed = t.map((s) => (s < 20 ? 60 : Math.max(0, 60 - 2 * (s - 20))));
    const rpm = (unit.finalDrive * 1000) / 60 / (2 * Math.PI * unit.tyreRadiusM);
    // the output is braked for a moment at 35 s
    const output = t.map((s, i) => (speed[i] as number) * rpm - (Math.abs(s - 35) < 0.15 ? 150 : 0));
    const gear = t.map((s) => (s < 30 ? 4 : s < 38 ? 3 : 2));
    const a = judge(t, {
      engine_rpm: t.map(() => 1200),
      turbine_rpm: output.map((o, i) => o * ratioOfGear(unit, gear[i] as number)),
      output_rpm: output,
      vehicle_kmh: speed,
      gear_commanded: gear,
      pedal_pct: t.map((s) => (s < 20 ? 30 : 0)),
      engine_torque_nm: t.map(() => 0),
      tcc_command: t.map(() => 0),
    });
    expect(a.coastStops).toHaveLength(1);
    expect(a.coastStops[0]).toMatchObject({ downshifts: 2 });
    expect(Math.abs((a.coastStops[0]?.worstAtS ?? 0) - 35)).toBeLessThan(0.8);
  });
});

describe("heat", () => {
  const drive = (fluidC: (s: number) => number, slipRpm = 200) => {
    const t = timesOf(600, 10);
    const output = t.map(() => 1500);
    const turbine = output.map((o) => o * ratioOfGear(unit, 4));
    return judge(t, {
      turbine_rpm: turbine,
      engine_rpm: turbine.map((v) => v + slipRpm),
      output_rpm: output,
      vehicle_kmh: t.map(() => 70),
      gear_commanded: t.map(() => 4),
      engine_torque_nm: t.map(() => 150),
      tcc_command: t.map(() => 0),
      fluid_c: t.map(fluidC),
    });
  };
  it("slip power is T·Δω, its energy that times the time", () => {
    const { heat } = drive(() => 90);
    const kw = (150 * 200 * 2 * Math.PI) / 60 / 1000;
    expect(heat?.meanSlipPowerKw).toBeCloseTo(kw, 2);
    expect(heat?.slipEnergyKj).toBeCloseTo(kw * 600, -1);
  });
  it("time above 110, 120 and 135 °C, and how fast it rises", () => {
    const { heat, findings } = drive((s) => 90 + s / 10);
    expect(heat?.secondsAbove.map(Math.round)).toEqual([400, 300, 150]);
    expect(heat?.fastestRiseKPerMin).toBeCloseTo(6, 1);
    expect(findings.find((f) => f.kind === "heat")?.severity).toBe("fault");
  });
  it("a drive ages the fluid as the formula says: twice as fast every 10 °C above 90 °C", () => {
    const aged = (fluidC: (s: number) => number) => {
      const spells = drive(fluidC).heat?.spells ?? [];
      const hours = spells.reduce((sum, s) => sum + s.hours, 0);
      return equivalentHours(spells) / hours;
    };
    expect(aged(() => 80)).toBeCloseTo(1, 6);
    expect(aged(() => 108)).toBeCloseTo(2 ** 1.8, 6);
    expect(aged((s) => (s < 300 ? 85 : 122))).toBeCloseTo((1 + 2 ** 3.2) / 2, 1);
    // rising evenly from 90 to 150 °C: the mean of the rate is the integral of 2^(x/10) over it
    expect(aged((s) => 90 + s / 10) / ((2 ** 6 - 1) / (6 * Math.LN2))).toBeCloseTo(1, 1);
    // 110 °C itself is not above it
    expect(shareAbove(drive(() => 110).heat?.spells ?? [], 110)).toBe(0);
    expect(shareAbove(drive(() => 110.1).heat?.spells ?? [], 110)).toBe(1);
  });
  it.each([
    ["cools", (s: number) => 100 - s / 60, "cools"],
    ["holds", () => 95, "holds"],
    ["loses", (s: number) => 90 + s / 20, "loses"],
  ] as const)("a cooler that %s is told by easy cruising", (_name, curve, verdict) => {
    expect(drive(curve, 10).heat?.cooler).toBe(verdict);
  });
  it("hard slip says nothing of the cooler", () => {
    expect(drive((s) => 90 + s / 20, 400).heat?.cooler).toBe("not driven");
  });
});

describe("learned values", () => {
  it("are held against the limits of the unit file", () => {
    const [first] = unit.adaptations ?? [];
    if (!first) throw new Error("the unit has no adaptations");
    const at = (share: number) =>
      analyseDrive(
        steadyDrive(
          unit,
          () => 0,
          (c, t) => ({
            ...c,
            [`adapt_${first.id}`]: t.map(
              (s) => first.newValue + (s / 120) * share * (first.limits[1] - first.newValue),
            ),
          }),
        ),
        unit,
      );
    expect(at(0.5).adaptations[0]?.used).toBeCloseTo(0.5, 2);
    expect(at(0.5).findings.map((f) => f.kind)).not.toContain("adaptation");
    expect(at(0.95).findings.find((f) => f.kind === "adaptation")?.severity).toBe("notice");
    expect(at(1.05).findings.find((f) => f.kind === "adaptation")?.severity).toBe("fault");
  });
});

describe("quality", () => {
  const noise = (i: number) => (((i * 7919) % 101) / 50 - 1) * 60;
  /** a sound drive of which one reading shakes */
  const shaken = (id: string, shake: (i: number) => number) =>
    analyseDrive(
      steadyDrive(
        unit,
        () => 0,
        (c) => ({ ...c, [id]: (c[id] as Float64Array).map((v, i) => v + shake(i)) }),
      ),
      unit,
    );
  it("a sensor that ripples while what it is geared to runs smoothly is named, and the shaft is not", () => {
    const a = shaken("turbine_rpm", noise);
    expect(a.findings.filter((f) => f.kind === "sensor-ripple").map((f) => f.subject.component)).toEqual([
      "sen_turbine",
    ]);
  });
  it.each(["turbine_rpm", "output_rpm"])("%s that ripples is the only fault: no gear slips, nothing flares", (id) => {
    const a = shaken(id, noise);
    expect(new Set(a.findings.filter((f) => f.severity === "fault").map((f) => f.kind))).toEqual(
      new Set(["sensor-ripple"]),
    );
  });
  it("of a turbine speed that ripples nothing is said of how the converter clutch holds; what it is told stands", () => {
    const told = (shake: (i: number) => number) => {
      const tables: string[] = [];
      const a = shaken("turbine_rpm", shake);
      converter.evidence?.(unit, a, (table) => tables.push(table));
      return tables;
    };
    expect(told(() => 0)).toEqual(["converter-clutch", "hunting"]);
    expect(told(noise)).toEqual(["hunting"]);
  });
  it("slip in the moments in which the controller lets all clutches go is laid to no clutch", () => {
    const at = [30, 50, 70, 90];
    const drive = (powerLosses: boolean) =>
      analyseDrive(
        steadyDrive(
          unit,
          () => 0,
          (c, t) => {
            const during = (from: number, to: number) => (s: number) => at.some((x) => s > x + from && s < x + to);
            const slips = during(0.1, 1.2);
            const off = during(0, 0.4);
            return {
              ...c,
              turbine_rpm: (c.turbine_rpm as Float64Array).map((v, i) => v + (slips(t[i] as number) ? 300 : 0)),
              ...Object.fromEntries(
                unit.solenoids.map(({ id }) => [id, t.map((s) => (powerLosses && off(s) ? 0 : 50))]),
              ),
            };
          },
        ),
        unit,
      ).findings.map((f) => f.kind);
    expect(drive(true)).toContain("power-loss");
    expect(drive(true)).not.toContain("slip");
    expect(drive(false)).toContain("slip");
  });
  it("each channel says up to which frequency it shows anything; a wrong tyre is noticed", () => {
    const a = analyseDrive(
      steadyDrive(
        unit,
        () => 0,
        (c) => ({ ...c, vehicle_kmh: (c.vehicle_kmh as Float64Array).map((v) => v * 1.12) }),
      ),
      unit,
    );
    const road = a.quality.find((q) => q.channel === "vehicle_kmh");
    expect(road?.nyquistHz).toBeCloseTo(10, 6);
    expect(road?.flags.join()).toMatch(/12 % over what output speed, final drive and tyre give/);
  });
});

describe("coverage", () => {
  it("names what was not driven, and nothing that was", () => {
    const { coverage } = analyseDrive(steadyDrive(unit), unit);
    expect(coverage.gears.map((g) => g.gear)).toEqual(["1", "2", "3", "4", "5", "6"]);
    for (const g of coverage.gears) expect(g.seconds.reduce((a, b) => a + b, 0)).toBeGreaterThan(15);
    expect(coverage.next.join()).toMatch(/reverse/);
    expect(coverage.next.join()).not.toMatch(/gear 4: hold it/);
    expect(coverage.share).toBeGreaterThan(0.3);
    expect(coverage.share).toBeLessThan(1);
  });
  it("a log of nothing covers nothing", () => {
    const t = timesOf(30, 10);
    const still = {
      engine_rpm: t.map(() => 800),
      turbine_rpm: t.map(() => 800),
      output_rpm: t.map(() => 0),
      gear_commanded: t.map(() => 0),
    };
    const { coverage } = judge(t, { ...still, tcc_command: t.map(() => 0) });
    expect(coverage.share).toBe(0);
    expect(coverage.next[0]).toMatch(/gear \d: hold it/);
  });
});

describe("preselection of a dual clutch", () => {
  it.each([
    [2, 2],
    [0.6, 0.6],
    [-1, 0],
  ])("the next gear engaged %d s before the command stood ready for %d s", (early, ready) => {
    const t = timesOf(60, 20);
    const output = t.map(() => 600);
    const engine = t.map((s) =>
      s < 30
        ? 600 * ratioOfGear(dual, 2)
        : Math.max(600 * ratioOfGear(dual, 3), 600 * ratioOfGear(dual, 2) - 900 * (s - 30.2)),
    );
    const a = judge(
      t,
      {
        engine_rpm: engine,
        output_rpm: output,
        // before it the idle shaft turns with the first gear
        k1_rpm: t.map((s) => 600 * ratioOfGear(dual, s < 30 - early ? 1 : 3)),
        k2_rpm: t.map(() => 600 * ratioOfGear(dual, 2)),
        gear_commanded: t.map((s) => (s < 30 ? 2 : 3)),
        engine_torque_nm: t.map(() => 80),
      },
      dual,
    );
    expect(a.shifts[0]?.name).toBe("2-3");
    expect(a.shifts[0]?.preselectedS).toBeCloseTo(ready, 1);
  });
});
