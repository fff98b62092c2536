// Guards: vehicles that do not move, gears that never come, engines that give less than they say, hunting, play in the driveline; each against a closed form.
import { describe, expect, it } from "@jest/globals";
import { ratioOfGear } from "../../testing/drives.ts";
import { recordingOf, timesOf } from "../../testing/recordings.ts";
import { libraryUnit } from "../../testing/units.ts";
import { type Converter, converterTorques, stallSpeedRpm } from "../../unit/index.ts";
import { analyseDrive, neverTakesHold, usualVibrationRpm } from "../index.ts";

const unit = libraryUnit("brae-p6");
const dual = libraryUnit("machair-d6");
const converter = unit.converter as Converter;
type Made = Record<string, Float64Array>;
const judge = (t: Float64Array, channels: Made, of = unit) => analyseDrive(recordingOf(t, channels), of);
const finding = (a: ReturnType<typeof judge>, kind: string) => a.findings.find((f) => f.kind === kind);

describe("a vehicle that stands under power", () => {
  const stand = ({ turbineShare = 0, pedal = 40, brake = 0, kmh = 0, forS = 8 } = {}) => {
    const t = timesOf(40, 20);
    const pulls = (s: number) => s >= 10 && s < 10 + forS;
    return judge(t, {
      engine_rpm: t.map((s) => (pulls(s) ? 2000 : 800)),
      turbine_rpm: t.map((s) => (pulls(s) ? 2000 * turbineShare : 0)),
      output_rpm: t.map(() => 0),
      vehicle_kmh: t.map((s) => (pulls(s) ? kmh : 0)),
      gear_commanded: t.map(() => 1),
      brake_on: t.map((s) => (pulls(s) ? brake : 1)),
      pedal_pct: t.map((s) => (pulls(s) ? pedal : 0)),
      engine_torque_nm: t.map((s) => (pulls(s) ? 180 : 15)),
      tcc_command: t.map(() => 0),
    });
  };
  it.each([
    [0, "held"],
    [0.97, "free"],
    [0.5, undefined],
  ])("turbine at %d of the engine: the input is %s", (turbineShare, input) => {
    const a = stand({ turbineShare });
    expect(a.immobile).toHaveLength(1);
    expect(a.immobile[0]).toMatchObject({ gear: "1", input, torqueNm: 180 });
    expect((a.immobile[0]?.endS ?? 0) - (a.immobile[0]?.startS ?? 0)).toBeCloseTo(8, 0);
    expect(finding(a, "no-drive")?.measures[0].value).toBeCloseTo(8, 0);
  });
  it.each([
    ["held on the brake", { brake: 1 }],
    ["with a light foot", { pedal: 15 }],
    ["for a moment", { forS: 2 }],
    ["while the road speed says that it rolls", { kmh: 12 }],
  ])("%s it says nothing", (_, how) => {
    expect(stand(how).immobile).toEqual([]);
  });
});

describe("a gear that never comes", () => {
  /** Forward at one output speed with the pedal light, in the gears given by time. */
  const drive = (gearAt: (s: number) => number, outputRpm: number, pedal = 20) => {
    const t = timesOf(120, 20);
    const sync = (s: number) => outputRpm * ratioOfGear(dual, gearAt(s));
    return judge(
      t,
      {
        engine_rpm: t.map(sync),
        k1_rpm: t.map((s) => outputRpm * ratioOfGear(dual, gearAt(s) % 2 ? gearAt(s) : 1)),
        k2_rpm: t.map((s) => outputRpm * ratioOfGear(dual, gearAt(s) % 2 ? 2 : gearAt(s))),
        output_rpm: t.map(() => outputRpm),
        gear_commanded: t.map(gearAt),
        pedal_pct: t.map(() => pedal),
        engine_torque_nm: t.map(() => 60),
      },
      dual,
    );
  };
  it("is called for as long as the engine would turn comfortably in it", () => {
    const output = 2000 / ratioOfGear(dual, 4);
    const { reach } = drive((s) => (s < 60 ? 2 : 3), output);
    const of = (gear: string) => reach.find((r) => r.gear === gear);
    expect(of("2")?.seconds).toBeCloseTo(60, 0);
    expect(of("3")?.seconds).toBeCloseTo(60, 0);
    expect(of("3")?.wantedSeconds).toBeCloseTo(60, 0);
    expect(of("4")).toMatchObject({ seconds: 0 });
    expect(of("4")?.wantedSeconds).toBeCloseTo(120, 0);
  });
  it("is not called for by a heavy foot or a slow drive", () => {
    for (const { reach } of [
      drive(() => 3, 2000 / ratioOfGear(dual, 4), 80),
      drive(() => 3, 1200 / ratioOfGear(dual, 4)),
    ])
      expect(reach.find((r) => r.gear === "4")).toEqual({ gear: "4", seconds: 0, wantedSeconds: 0 });
  });
});

describe("an output shaft that turns in vain", () => {
  const drive = (kmh: number) => {
    const t = timesOf(40, 20);
    const output = t.map((s) => (s < 5 ? 0 : 1500));
    return judge(t, {
      engine_rpm: output.map((o) => Math.max(800, o * ratioOfGear(unit, 4))),
      turbine_rpm: output.map((o) => o * ratioOfGear(unit, 4)),
      output_rpm: output,
      vehicle_kmh: t.map((s) => (s < 5 ? 0 : kmh)),
      gear_commanded: t.map(() => 4),
      pedal_pct: t.map(() => 20),
    });
  };
  it("is behind the gearbox when the vehicle stands", () => {
    const a = drive(0);
    expect(a.immobile).toHaveLength(1);
    expect(a.immobile[0]?.input).toBe("output");
    expect(a.immobile[0]?.startS).toBeCloseTo(5, 1);
    expect(finding(a, "no-drive")?.title).toMatch(/output shaft turns/);
  });
  it("moves the vehicle otherwise", () => {
    expect(drive(60).immobile).toEqual([]);
  });
});

describe("idle at rest of a dual clutch", () => {
  /** Four stops of twenty seconds, the first in neutral. Of every five readings one lies under the others. */
  const rest = (dipRpm: number, neutralRpm: number, of = dual, pedal = 0, neutral = true) => {
    const t = timesOf(100, 20);
    const inNeutral = (s: number) => neutral && s < 20;
    return judge(
      t,
      {
        engine_rpm: t.map((s, i) => 760 - (i % 5 === 0 ? (inNeutral(s) ? neutralRpm : dipRpm) : 0)),
        turbine_rpm: t.map(() => 0),
        k1_rpm: t.map(() => 0),
        output_rpm: t.map((s) => (s % 25 < 20 ? 0 : 100)),
        gear_commanded: t.map((s) => (inNeutral(s) ? 0 : 1)),
        pedal_pct: t.map((s) => (s % 25 < 20 ? pedal : 20)),
      },
      of,
    );
  };
  it.each([
    // 2.2 times that in neutral, and 5 rpm
    [15.9, 5, false],
    [16.1, 5, true],
    [60, 26, false],
  ])("dips of %d rpm where neutral has %d", (dip, neutral, found) => {
    const a = rest(dip, neutral);
    expect(a.idle?.usualRpm).toBeCloseTo(760, 6);
    expect(a.idle?.dipRpm).toBeCloseTo(dip, 0);
    expect(finding(a, "idle")?.limit?.source).toBe(found ? "this drive" : undefined);
  });
  it.each([
    [29, false],
    [31, true],
  ])("dips of %d rpm where it never stood in neutral: the typical limit, and said so", (dip, found) => {
    expect(finding(rest(dip, 0, dual, 0, false), "idle")?.limit?.source).toBe(found ? "typical" : undefined);
  });
  it("is not judged with the foot down, nor behind a converter", () => {
    expect(rest(20, 2, dual, 10).idle).toBeUndefined();
    expect(rest(20, 2, unit).idle).toBeUndefined();
  });
});

describe("engine against converter", () => {
  const pull = (share: number, locked = false) => {
    const t = timesOf(60, 20);
    const rpm = stallSpeedRpm(converter, 200);
    const turbine = rpm * 0.6;
    const taken = converterTorques(converter, rpm, turbine).pumpNm;
    return judge(t, {
      engine_rpm: t.map(() => rpm),
      turbine_rpm: t.map(() => turbine),
      output_rpm: t.map(() => turbine / ratioOfGear(unit, 2)),
      gear_commanded: t.map(() => 2),
      pedal_pct: t.map(() => 40),
      engine_torque_nm: t.map(() => taken / share),
      tcc_command: t.map(() => (locked ? 60 : 0)),
    });
  };
  it.each([1, 0.9, 0.6])("a converter that takes %d of what is reported", (share) => {
    const a = pull(share);
    expect(a.pull?.share).toBeCloseTo(share, 6);
    const f = finding(a, "engine-pull");
    if (share > 0.85) expect(f).toBeUndefined();
    else expect(f?.measures[0].value).toBeCloseTo((1 - share) * 100, 4);
  });
  it("with its clutch applied it tells nothing", () => {
    expect(pull(0.6, true).pull).toBeUndefined();
  });
});

describe("a converter clutch that is told to hold", () => {
  /** Slips a share of what the open converter slips at this torque; both sides from the pump's and turbine's balance. */
  const commanded = (share: number) => {
    const t = timesOf(60, 20);
    const turbine = 1400;
    const open = (rpm: number) => converterTorques(converter, rpm, turbine).pumpNm;
    const engine = turbine + share * 500;
    return judge(t, {
      engine_rpm: t.map(() => engine),
      turbine_rpm: t.map(() => turbine),
      output_rpm: t.map(() => turbine / ratioOfGear(unit, 4)),
      gear_commanded: t.map(() => 4),
      pedal_pct: t.map(() => 30),
      // the pump's torque at the slip that it would have with the clutch let go
      engine_torque_nm: t.map(() => open(turbine + 500)),
      tcc_command: t.map((s) => (s > 10 ? 90 : 0)),
    });
  };
  it.each([
    [1, true],
    [0.6, false],
    [0.3, false],
    [0.02, false],
  ])("and slips %d of what it would let go", (share, never) => {
    const { converter: clutch } = commanded(share);
    expect(clutch?.episodes[0]?.openSlipRpm).toBeDefined();
    expect(neverTakesHold(clutch ?? { episodes: [] })).toBe(never);
  });
  it("without a torque to tell the open slip by, nothing is said", () => {
    expect(neverTakesHold({ episodes: [] })).toBe(false);
  });
});

describe("hunting between gears", () => {
  const hunt = (everyS: number, pedal: (s: number) => number = () => 25) => {
    const t = timesOf(90, 20);
    const gear = (s: number) => (s > 20 && s < 60 && Math.floor(s / everyS) % 2 === 1 ? 3 : 4);
    return judge(t, {
      engine_rpm: t.map((s) => 1200 * ratioOfGear(unit, gear(s)) * 1.05),
      turbine_rpm: t.map((s) => 1200 * ratioOfGear(unit, gear(s))),
      output_rpm: t.map(() => 1200),
      gear_commanded: t.map(gear),
      pedal_pct: t.map(pedal),
      engine_torque_nm: t.map(() => 60),
      tcc_command: t.map(() => 0),
    });
  };
  it("is a change that is taken back with the foot still", () => {
    const a = hunt(2);
    expect(a.gearHunting.length).toBeGreaterThan(5);
    expect(a.gearHunting[0]?.between).toBe("3-4");
    expect(finding(a, "gear-hunting")?.measures[0].value).toBe(a.gearHunting.length);
  });
  it.each([
    ["kept for long", () => hunt(9)],
    ["asked for by the foot", () => hunt(2, (s) => (Math.floor(s / 2) % 2 === 1 ? 70 : 20))],
  ])("%s it is none", (_, made) => {
    expect(made().gearHunting).toEqual([]);
  });
});

describe("electrics that fall out", () => {
  /** Driving in gear 3; range and solenoids as given by time. */
  const drive = (
    range: (s: number) => number,
    powered: (s: number) => boolean,
    gear: (s: number) => number = () => 3,
  ) => {
    const t = timesOf(60, 40);
    const output = 1200;
    return judge(t, {
      engine_rpm: t.map((s) => output * ratioOfGear(unit, gear(s)) * 1.03),
      turbine_rpm: t.map((s) => output * ratioOfGear(unit, gear(s))),
      output_rpm: t.map(() => output),
      vehicle_kmh: t.map(() => (output / unit.finalDrive) * 2 * Math.PI * unit.tyreRadiusM * 0.06),
      gear_commanded: t.map(gear),
      range: t.map(range),
      engine_torque_nm: t.map(() => 60),
      tcc_command: t.map(() => 0),
      sol_LC: t.map((s) => (powered(s) ? 100 : 0)),
      sol_TC: t.map((s) => (powered(s) ? 100 : 0)),
      sol_HC: t.map((s) => (powered(s) ? 100 : 0)),
    });
  };
  const during = (from: number, forS: number) => (s: number) => s >= from && s < from + forS;
  it("a range that leaves D on the road is a drop-out of its sensor, with its span", () => {
    const falls = during(20, 0.5);
    const a = drive(
      (s) => (falls(s) ? 3 : 4),
      () => true,
    );
    expect(a.dropouts).toHaveLength(1);
    expect(a.dropouts[0]).toMatchObject({ channel: "range", gear: "3", kind: "not D while driving" });
    expect(a.dropouts[0]?.startS).toBeCloseTo(20, 1);
    expect(finding(a, "drop-out")?.severity).toBe("fault");
  });
  it("a lever that is moved and left is not counted", () => {
    expect(
      drive(
        (s) => (s < 20 ? 4 : 3),
        () => true,
      ).dropouts,
    ).toEqual([]);
  });
  it("moments without any current are counted; a single one and a shift are not", () => {
    const lost = [10, 20, 30].map((at) => during(at, 0.2));
    const a = drive(
      () => 4,
      (s) => !lost.some((l) => l(s)),
    );
    expect(a.powerLosses?.map((l) => Math.round(l.startS))).toEqual([10, 20, 30]);
    expect(finding(a, "power-loss")?.measures[0].value).toBe(3);
    expect(
      finding(
        drive(
          () => 4,
          (s) => !during(10, 0.2)(s),
        ),
        "power-loss",
      ),
    ).toBeUndefined();
    const shifting = drive(
      () => 4,
      (s) => !lost.some((l) => l(s)),
      (s) => 2 + (Math.floor((s + 0.1) / 10) % 2),
    );
    expect(shifting.powerLosses).toEqual([]);
  });
});

describe("load reversal", () => {
  /** The foot comes on at 10, 20, … s and goes off five seconds later; at every so many seconds the output vibrates at 4 Hz. */
  const reverse = (vibrationRpm: number, vibratesEveryS: number, rateHz = 40, gear = 4) => {
    const t = timesOf(95, rateHz);
    const output = (s: number) => {
      const since = s % vibratesEveryS;
      return 1500 + (since < 1 && s > 4 ? (vibrationRpm / 2) * Math.sin(2 * Math.PI * 4 * since) : 0);
    };
    return judge(t, {
      engine_rpm: t.map((s) => output(s) * ratioOfGear(unit, gear) * 1.03),
      turbine_rpm: t.map((s) => output(s) * ratioOfGear(unit, gear)),
      output_rpm: t.map(output),
      gear_commanded: t.map(() => gear),
      pedal_pct: t.map((s) => (s % 10 < 5 ? 25 : 0)),
      engine_torque_nm: t.map((s) => (s % 10 < 5 ? 90 : -15)),
      tcc_command: t.map(() => 0),
    });
  };
  it.each([
    [6, undefined],
    [8 * unit.finalDrive, /Rocks/],
    [30 * unit.finalDrive, /Knocks/],
  ])("a vibration of %d rpm of the output", (vibration, title) => {
    const on = reverse(vibration, 10).loadReversals.filter((r) => (r.torqueStepNm ?? 0) > 0);
    expect(on.length).toBeGreaterThan(6);
    expect(usualVibrationRpm(on)).toBeGreaterThan((0.85 * vibration) / unit.finalDrive);
    expect(usualVibrationRpm(on)).toBeLessThan((1.25 * vibration) / unit.finalDrive);
    const f = finding(reverse(vibration, 5), "load-reversal");
    if (title) expect(f?.title).toMatch(title);
    else expect(f).toBeUndefined();
  });
  it("is not judged in a low gear, in which sound shafts wind up as far", () => {
    expect(ratioOfGear(unit, 1)).toBeGreaterThan(2);
    expect(reverse(100, 5, 40, 1).loadReversals).toEqual([]);
    expect(reverse(100, 5, 40, 5).loadReversals.length).toBeGreaterThan(6);
  });
  it("is not judged at ten readings a second", () => {
    expect(reverse(100, 5, 10).loadReversals).toEqual([]);
  });
});
