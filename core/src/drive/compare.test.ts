// Guards: before against after for every kind of finding: a verdict only inside like conditions, "not exercised" elsewhere.
import { describe, expect, it } from "@jest/globals";
import { type Channels, ratioOfGear, steadyDrive } from "../testing/drives.ts";
import { recordingOf, timesOf } from "../testing/recordings.ts";
import { libraryUnit } from "../testing/units.ts";
import type { Unit } from "../unit/index.ts";
import { type Analysis, analyseDrive, compareDrives, type FindingKind } from "./index.ts";

const unit = libraryUnit("brae-p6");
const judge = (...args: Parameters<typeof steadyDrive> extends [unknown, ...infer Rest] ? Rest : never) =>
  analyseDrive(steadyDrive(unit, ...args), unit);
const compared = (kind: FindingKind, before: Analysis, ...after: Analysis[]) => {
  expect(before.findings.map((f) => f.kind)).toContain(kind);
  return compareDrives([before], after).findings[before.findings.findIndex((f) => f.kind === kind)];
};
const verdict = (kind: FindingKind, before: Analysis, ...after: Analysis[]) =>
  compared(kind, before, ...after)?.verdict;
/** Another drive that went just so: the same log twice would count once. */
const more = (a: Analysis, n: number): Analysis[] =>
  Array.from({ length: n }, (_, i) => ({ ...a, durationS: a.durationS + i + 1 }));
/** The same drive without a gear in it: nothing is exercised. */
const idle = judge(
  () => 0,
  (c, t) => ({ ...c, gear_commanded: t.map(() => 0) }),
);
const sound = judge();

describe("slip", () => {
  const slipping = (k: number) => judge((g, torque) => (g >= 4 ? k * Math.max(0, torque - 140) : 0));
  it.each([
    [2, 0, "gone"],
    [2, 1.2, "better"],
    [2, 2, "same"],
    [1.5, 2.6, "worse"],
  ])("%d rpm/N·m then %d is %s", (before, after, expected) => {
    const { findings } = compareDrives([slipping(before)], [slipping(after), ...more(slipping(after), 1)]);
    expect(new Set(findings.map((f) => f.verdict))).toEqual(new Set([expected]));
    for (const f of findings) for (const g of f.groups) expect(g.secondsAfter).toBeGreaterThan(1.5);
  });
  it("that was not driven again is not exercised, never gone", () => {
    expect(verdict("slip", slipping(2), idle)).toBe("not exercised");
    const gentle = judge(
      () => 0,
      (c) => ({ ...c, engine_torque_nm: (c.engine_torque_nm as Float64Array).map((v) => Math.min(v, 60)) }),
    );
    expect(verdict("slip", slipping(2), gentle)).toBe("not exercised");
  });
  it("says what is new, and how much of the rest is gone", () => {
    const { fresh, sentence } = compareDrives([sound], [slipping(2)]);
    expect(fresh.map((f) => f.id)).toEqual(["slip:4", "slip:5", "slip:6"]);
    expect(sentence).toMatch(/^The first log had no finding to compare; 3 new: .*\.$/);
    expect(compareDrives([slipping(2)], [sound, ...more(sound, 1)]).sentence).toMatch(/^All 3 findings .* gone/);
  });
});

/** Shifts 2-3 every 12 s, as straight lines, after a flare. */
function shifts(delayS: number, inertiaS: number, flareRpm: number, made = true, of = unit, rateHz = 20): Analysis {
  const t = timesOf(72, rateHz);
  const output = t.map(() => 900);
  const phase = (s: number) => s % 12;
  const [old, next] = [ratioOfGear(unit, 2) * 900, ratioOfGear(unit, 3) * 900];
  const input = t.map((s) => {
    const since = phase(s) - 6;
    if (since < 0) return old;
    if (since < delayS) return old + flareRpm * Math.sin((Math.PI * since) / delayS);
    return made ? old + (next - old) * Math.min(1, (since - delayS) / inertiaS) : old;
  });
  return analyseDrive(
    recordingOf(t, {
      turbine_rpm: input,
      output_rpm: output,
      gear_commanded: t.map((s) => (phase(s) < 6 ? 2 : 3)),
      engine_torque_nm: t.map(() => 120),
      fluid_c: t.map(() => 80),
    }),
    of,
  );
}

describe("shifts", () => {
  const good = shifts(0.2, 0.4, 0);
  const quick = (inertiaS: number, of: Unit) =>
    shifts(0.2, inertiaS, 0, true, of, 100).findings.find((f) => f.kind === "quick-shift");
  it("one that is over in less than half its usual time is harsh, and a fault when far under it", () => {
    const usualS = unit.usual?.shifts?.["2-3"]?.inertia?.warmS as number;
    expect(quick(usualS / 2 + 0.004, unit)).toBeUndefined();
    expect(quick(usualS / 2 - 0.004, unit)).toMatchObject({ severity: "notice", limit: { value: usualS / 2 } });
    expect(quick(usualS / 2 / 1.4 + 0.004, unit)?.severity).toBe("notice");
    expect(quick(usualS / 2 / 1.4 - 0.004, unit)?.severity).toBe("fault");
  });
  it("where nothing is known of the unit the lower limit counts", () => {
    const { usual: _, ...bare } = unit;
    const lowest = unit.limits.shifts?.["2-3"]?.inertiaS[0] as number;
    expect(quick(lowest + 0.004, bare)).toBeUndefined();
    expect(quick(lowest - 0.004, bare)?.limit).toMatchObject({ value: lowest, source: "unit file" });
    const { limits, ...unlimited } = bare;
    const { shifts: _own, shiftDefault: _all, ...others } = limits;
    expect(quick(0.154, { ...unlimited, limits: others })).toBeUndefined();
    expect(quick(0.146, { ...unlimited, limits: others })?.limit).toMatchObject({ value: 0.15, source: "typical" });
  });
  it.each([
    ["flare", shifts(0.4, 0.4, 220)],
    ["slow-shift", shifts(0.2, 1.6, 0)],
    ["late-shift", shifts(0.9, 0.4, 0)],
    ["quick-shift", shifts(0.2, 0.06, 0)],
    ["failed-shift", shifts(0.2, 0.4, 0, false)],
  ] as const)("%s is gone, the same, or not exercised", (kind, bad) => {
    expect(verdict(kind, bad, good)).toBe("gone");
    expect(verdict(kind, bad, bad)).toBe("same");
    expect(verdict(kind, bad, idle)).toBe("not exercised");
  });
});

describe("wrong gear", () => {
  it("is compared in the gear that was commanded", () => {
    const stuck = shifts(0.2, 0.4, 0, false);
    expect(verdict("wrong-gear", stuck, shifts(0.2, 0.4, 0))).toBe("gone");
    expect(verdict("wrong-gear", stuck, idle)).toBe("not exercised");
  });
});

/** Converter clutch applied from the fourth gear on, with the engine so much over the turbine. */
const applied = (slip: (s: number) => number) => (c: Channels, t: Float64Array) => ({
  ...c,
  tcc_command: t.map((s) => (s > 65 ? 85 : 0)),
  engine_rpm: (c.turbine_rpm as Float64Array).map((v, i) => v + ((t[i] as number) > 65 ? slip(t[i] as number) : 150)),
});
/** The same clutch with the turbine, and the shafts behind it, vibrating against the engine. */
const shaken = (slip: (s: number) => number) => (c: Channels, t: Float64Array) => {
  const calm = c.turbine_rpm as Float64Array;
  const turbine = calm.map((v, i) => v - ((t[i] as number) > 65 ? slip(t[i] as number) : 0));
  return {
    ...c,
    tcc_command: t.map((s) => (s > 65 ? 85 : 0)),
    engine_rpm: calm.map((v, i) => v + ((t[i] as number) > 65 ? 0 : 150)),
    turbine_rpm: turbine,
    output_rpm: (c.output_rpm as Float64Array).map((o, i) => (o * (turbine[i] as number)) / (calm[i] as number)),
  };
};
const wave = (hz: number, peakToPeakRpm: number) => (s: number) =>
  10 + (peakToPeakRpm / 2) * Math.sin(2 * Math.PI * hz * s);

const neverApplied = judge(
  () => 0,
  (c) => ({
    ...c,
    tcc_command: (c.tcc_command as Float64Array).map(() => 0),
    engine_rpm: (c.turbine_rpm as Float64Array).map((v) => v + 500),
  }),
);

describe("converter clutch", () => {
  const quiet = judge(
    () => 0,
    applied(() => 8),
  );
  it("slip", () => {
    const slipping = judge(
      () => 0,
      applied(() => 140),
    );
    // one application each: the clutch took hold once, and five are asked for
    expect(verdict("converter-slip", slipping, quiet, quiet, quiet, quiet, quiet)).toBe("not shown yet");
    expect(compared("converter-slip", slipping, quiet)).toMatchObject({
      verdict: "not shown yet",
      drive: expect.stringMatching(/4 times more/),
    });
    expect(verdict("converter-slip", slipping, quiet, ...more(quiet, 4))).toBe("gone");
    expect(
      verdict(
        "converter-slip",
        slipping,
        judge(
          () => 0,
          applied(() => 80),
        ),
      ),
    ).toBe("better");
    expect(verdict("converter-slip", slipping, neverApplied)).toBe("not exercised");
  });
  it("shudder", () => {
    const shuddering = judge(() => 0, shaken(wave(6, 70)));
    expect(verdict("shudder", shuddering, quiet)).toBe("gone");
    expect(
      verdict(
        "shudder",
        shuddering,
        judge(() => 0, shaken(wave(6, 130))),
      ),
    ).toBe("worse");
    expect(verdict("shudder", shuddering, neverApplied)).toBe("not exercised");
  });
});

describe("signals", () => {
  const lost = judge(
    () => 0,
    (c, t) => ({
      ...c,
      output_rpm: (c.output_rpm as Float64Array).map((v, i) => ((t[i] as number) % 30 > 28.5 ? 0 : v)),
    }),
  );
  it("drop-out: an hour in the garage proves nothing", () => {
    expect(verdict("drop-out", lost, sound)).toBe("gone");
    expect(verdict("drop-out", lost, lost)).toBe("same");
    expect(verdict("drop-out", lost, idle)).toBe("not exercised");
  });
  it("limp", () => {
    const limp = judge(
      () => 0,
      (c, t) => {
        const output = (c.output_rpm as Float64Array).map((v, i) => ((t[i] as number) > 70 ? 500 : v));
        return {
          ...c,
          output_rpm: output,
          gear_commanded: (c.gear_commanded as Float64Array).map((g, i) => ((t[i] as number) > 70 ? 4 : g)),
          turbine_rpm: (c.turbine_rpm as Float64Array).map((v, i) =>
            (t[i] as number) > 70 ? 500 * ratioOfGear(unit, 4) : v,
          ),
          line_pressure_kpa: t.map((s) => (s > 70 ? 1700 : 600)),
        };
      },
    );
    // it came after 70 s: without it three times as long has to be driven, and the pressure has to be seen
    const withPressure = judge(
      () => 0,
      (c, t) => ({ ...c, line_pressure_kpa: t.map(() => 600) }),
    );
    expect(compared("limp", limp, sound)).toMatchObject({
      verdict: "not exercised",
      reason: expect.stringMatching(/line pressure was not recorded/),
    });
    expect(verdict("limp", limp, withPressure)).toBe("not shown yet");
    expect(verdict("limp", limp, withPressure, ...more(withPressure, 2))).toBe("gone");
    expect(
      verdict(
        "limp",
        limp,
        judge(
          () => 0,
          (c, t) => ({ ...c, line_pressure_kpa: t.map(() => 600), gear_commanded: t.map(() => 0) }),
        ),
      ),
    ).toBe("not exercised");
  });
});

describe("what a proof asks for", () => {
  /** Slip under load in gear 4, in so many of twelve pulls. */
  const pulls = (slips: number) => {
    let pull = -1;
    let before = 0;
    return judge((g, torque) => {
      if (g === 4 && torque > 150 && before <= 150) pull++;
      before = torque;
      return g === 4 && torque > 150 && pull < slips ? 160 : 0;
    });
  };
  it("driven half as fast a log that was read at twenty proves nothing", () => {
    const slow = (by: number) => {
      const r = steadyDrive(unit);
      const channels = new Map(
        [...r.channels].map(([id, c]) => [
          id,
          {
            ...c,
            timeS: c.timeS.filter((_, i) => i % by === 0),
            values: c.values.filter((_, i) => i % by === 0),
            rateHz: c.rateHz / by,
          },
        ]),
      );
      // all channels go on sharing their time
      const [first] = channels.values();
      return analyseDrive(
        { ...r, channels: new Map([...channels].map(([id, c]) => [id, { ...c, timeS: (first as typeof c).timeS }])) },
        unit,
      );
    };
    const slipping = pulls(12);
    expect(compared("slip", slipping, slow(2))?.reason).toMatch(/10 readings a second and 16 are needed/);
    expect(verdict("slip", slipping, slow(1))).toBe("gone");
  });
  it("without a speed that stands in for another nothing is proved", () => {
    const derived = judge(
      () => 0,
      ({ output_rpm: _, ...rest }) => rest,
    );
    expect(compared("slip", pulls(12), derived)).toMatchObject({
      verdict: "not exercised",
      reason: expect.stringMatching(/output speed was not recorded/),
    });
  });
  it("a sensor that has become ragged spoils the proof", () => {
    const ragged = judge(
      () => 0,
      (c) => ({ ...c, output_rpm: (c.output_rpm as Float64Array).map((v, i) => v + (i % 2 ? 30 : -30)) }),
    );
    expect(ragged.findings.map((f) => f.kind)).toContain("sensor-ripple");
    expect(compared("slip", pulls(12), ragged)?.reason).toMatch(/ripples on its own/);
  });
  it("other roads prove nothing: lighter, colder, slower", () => {
    const slipping = pulls(12);
    const light = judge(
      () => 0,
      (c) => ({ ...c, engine_torque_nm: (c.engine_torque_nm as Float64Array).map((nm) => 0.4 * nm) }),
    );
    const cold = judge(
      () => 0,
      (c, t) => ({ ...c, fluid_c: t.map(() => 60) }),
    );
    const slow = judge(
      () => 0,
      (c) => ({ ...c, vehicle_kmh: (c.vehicle_kmh as Float64Array).map((v) => 0.5 * v) }),
    );
    for (const other of [light, cold, slow]) expect(verdict("slip", slipping, other)).toBe("not exercised");
  });
  it("says which conditions of the complaint were not driven", () => {
    const asked = (where: string[], load: "any" | "steady" = "any", temperature: "any" | "hot" | "cold" = "any") =>
      compareDrives([sound], [sound], [{ where, load, temperature }]).complaintNotDriven;
    expect(asked(["4"], "steady")).toEqual([]);
    expect(asked(["4"], "steady", "hot")).toEqual(["gear 4, steady load, hot"]);
    // every shift was made once, three are asked for
    expect(asked(["2-3"])).toEqual(["shift 2-3"]);
    expect(
      compareDrives([sound], [sound, ...more(sound, 2)], [{ where: ["2-3"], load: "any", temperature: "any" }])
        .complaintNotDriven,
    ).toEqual([]);
    expect(
      compareDrives([sound], [sound], [{ where: [], load: "any", temperature: "any", speedKmh: [300, 310] }])
        .complaintNotDriven,
    ).toEqual(["300 to 310 km/h"]);
  });
});
