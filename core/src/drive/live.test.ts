// Guards: what a drive has exercised so far, from readings as they come; slip and heat are warned of just over their limits and not just
// under; a gap counts for nothing; memory stays small.
import { describe, expect, it } from "@jest/globals";
import { libraryUnit } from "../testing/units.ts";
import type { AskedFor } from "./asked.ts";
import { TYPICAL } from "./limits.ts";
import { LiveDrive } from "./live.ts";

const unit = libraryUnit("brae-p6");
const ratioOf = (gear: number) => Math.abs(unit.gears.find((g) => Number(g.name) === gear)?.ratio ?? Number.NaN);
const SLIP_RPM = Number(unit.limits.slipRpm);

interface Held {
  readonly gear: number;
  readonly seconds: number;
  readonly slipRpm?: number;
  readonly outputRpm?: number;
  readonly torqueNm?: number;
  readonly fluidC?: number;
  readonly stepS?: number;
}

/** Drives on in steps of 0.1 s. */
class Drive {
  readonly live: LiveDrive;
  timeS = 0;
  constructor(asked: readonly AskedFor[] = []) {
    this.live = new LiveDrive(unit, asked);
  }
  hold({ gear, seconds, slipRpm = 0, outputRpm = 1200, torqueNm = 150, fluidC = 80, stepS = 0.1 }: Held): this {
    const line = gear === 0 ? 800 : ratioOf(gear) * outputRpm;
    const turbine = line + slipRpm;
    for (const end = this.timeS + seconds - 1e-9; this.timeS < end; ) {
      this.timeS += stepS;
      this.live.take(
        this.timeS,
        new Map([
          ["gear_commanded", gear],
          ["engine_rpm", turbine + 300],
          ["turbine_rpm", turbine],
          ["output_rpm", outputRpm],
          ["engine_torque_nm", torqueNm],
          ["fluid_c", fluidC],
        ]),
      );
    }
    return this;
  }
  get state() {
    return this.live.state();
  }
}
const secondsOf = (drive: Drive, gear: string) => drive.state.coverage.gears.find((g) => g.gear === gear)?.seconds;

describe("coverage of a drive that is under way", () => {
  it("counts a gear by load once it is in, and lists what is missing", () => {
    const drive = new Drive().hold({ gear: 3, seconds: 6 }).hold({ gear: 3, seconds: 4, torqueNm: 300 });
    const [coast, light, medium, hard] = secondsOf(drive, "3") ?? [];
    expect(coast).toBe(0);
    expect(light).toBe(0);
    // the first 1.2 s of a gear are its shift
    expect(medium).toBeCloseTo(6 - 1.2, 0);
    expect(hard).toBeCloseTo(4, 5);
    expect(drive.state.gear).toBe("3");
    expect(drive.state.coverage.next.join()).toMatch(/gear 1: hold it for 3 s/);
    expect(drive.state.coverage.next.join()).not.toMatch(/gear 3: hold/);
  });
  it("a shift was made when the new gear holds; one that does not hold was not", () => {
    const drive = new Drive()
      .hold({ gear: 2, seconds: 4 })
      .hold({ gear: 3, seconds: 4 })
      .hold({ gear: 4, seconds: 4, slipRpm: 400 });
    const counts = Object.fromEntries(drive.state.coverage.shifts.map((s) => [s.name, s.count]));
    expect(counts["2-3"]).toBe(1);
    expect(counts["3-4"]).toBe(0);
  });
  it("out of neutral at rest is an engagement once the turbine is pulled down", () => {
    const drive = new Drive().hold({ gear: 0, seconds: 2, outputRpm: 0 });
    expect(drive.state.coverage.next.join()).toMatch(/out of neutral into D/);
    drive.hold({ gear: 1, seconds: 1, outputRpm: 0 });
    expect(drive.state.coverage.next.join()).not.toMatch(/out of neutral into D/);
    expect(drive.state.coverage.next.join()).toMatch(/out of neutral into R/);
  });
  it("a gap in the readings counts for nothing", () => {
    const drive = new Drive().hold({ gear: 3, seconds: 5 });
    const before = secondsOf(drive, "3")?.[2] ?? 0;
    drive.timeS += 600;
    drive.hold({ gear: 3, seconds: 3 });
    expect((secondsOf(drive, "3")?.[2] ?? 0) - before).toBeLessThan(3);
    expect(drive.state.ribbon).toHaveLength(2);
  });
  it("without a commanded gear nothing is claimed", () => {
    const live = new LiveDrive(unit);
    for (let t = 0; t < 10; t += 0.1) live.take(t, new Map([["engine_rpm", 1500]]));
    expect(live.state()).toMatchObject({ gear: undefined, ribbon: [], warnings: [] });
    expect(live.state().coverage.share).toBe(0);
  });
  it("converter clutch: counted while engine and turbine are together under load", () => {
    const closed = new LiveDrive(unit);
    const output = 1500;
    for (let t = 0.1; t < 8; t += 0.1)
      closed.take(
        t,
        new Map([
          ["gear_commanded", 5],
          ["engine_rpm", output + 20],
          ["turbine_rpm", output],
          ["output_rpm", output],
          ["engine_torque_nm", 120],
        ]),
      );
    expect(closed.state().coverage.gears.find((g) => g.gear === "5")?.lockupSeconds).toBeGreaterThan(5);
    const open = new Drive().hold({ gear: 5, seconds: 8 });
    expect(open.state.coverage.gears.find((g) => g.gear === "5")?.lockupSeconds).toBe(0);
  });
  it("holds no readings: an hour of shifts leaves a ribbon of sixty spans", () => {
    const drive = new Drive();
    for (let i = 0; i < 200; i++) drive.hold({ gear: 2 + (i % 3), seconds: 3 });
    expect(drive.state.ribbon).toHaveLength(60);
    expect(drive.state.ribbon.at(-1)?.endS).toBeCloseTo(drive.timeS, 6);
  });
});

describe("the complaint", () => {
  const asked = [{ where: ["4", "3-4"], load: "hard" as const, temperature: "hot" as const }];
  const drive = (held: Held[]) => {
    const d = new Drive(asked);
    for (const h of held) d.hold(h);
    return d.state.complaint;
  };
  const hard = { torqueNm: 300, fluidC: 95 };
  it("is named until its gear was held under its load, as hot as it was felt, for three seconds", () => {
    expect(drive([{ gear: 4, seconds: 1 }])).toEqual(["gear 4, hard load, hot", "shift 3-4, hard load, hot"]);
    // the first 1.2 s of a gear are its shift
    expect(drive([{ gear: 4, seconds: 1.2 + 2.8, ...hard }])).toContain("gear 4, hard load, hot");
    expect(drive([{ gear: 4, seconds: 1.2 + 3.3, ...hard }])).not.toContain("gear 4, hard load, hot");
    expect(drive([{ gear: 4, seconds: 20, torqueNm: 300, fluidC: 89 }])).toContain("gear 4, hard load, hot");
    expect(drive([{ gear: 4, seconds: 20, torqueNm: 200, fluidC: 95 }])).toContain("gear 4, hard load, hot");
  });
  it("a shift is named until it was made three times so", () => {
    const pair = [
      { gear: 3, seconds: 3, ...hard },
      { gear: 4, seconds: 3, ...hard },
    ];
    expect(drive([...pair, ...pair])).toContain("shift 3-4, hard load, hot");
    expect(drive([...pair, ...pair, ...pair])).not.toContain("shift 3-4, hard load, hot");
  });
});

describe("warnings", () => {
  const warned = (held: Held) => new Drive().hold(held).state.warnings.map((w) => w.kind);
  it("slip just over the limit of the unit under load is warned of, just under it, at no load or for a moment it is not", () => {
    const most = Math.max(SLIP_RPM, ratioOf(4) * 1200 * 0.02);
    expect(warned({ gear: 4, seconds: 5, slipRpm: most + 1 })).toEqual(["slip"]);
    expect(warned({ gear: 4, seconds: 5, slipRpm: most - 1 })).toEqual([]);
    expect(warned({ gear: 4, seconds: 5, slipRpm: most + 1, torqueNm: 10 })).toEqual([]);
    const drive = new Drive()
      .hold({ gear: 4, seconds: 4 })
      .hold({ gear: 4, seconds: 0.4, slipRpm: 200 })
      .hold({ gear: 4, seconds: 2 });
    expect(drive.state.warnings).toEqual([]);
    const told = new Drive().hold({ gear: 4, seconds: 5, slipRpm: 300 }).state.warnings;
    expect(told).toHaveLength(1);
    expect(told[0]).toMatchObject({ kind: "slip", gear: "4", value: expect.closeTo(300, 3) });
  });
  it("a dual clutch that pulls away slips; one that goes on slipping is warned of", () => {
    const dual = libraryUnit("corran-w7");
    const first = Math.abs(dual.gears[0]?.ratio as number);
    const after = (seconds: number) => {
      const live = new LiveDrive(dual);
      const drive = (t: number, output: number) =>
        live.take(
          t,
          new Map([
            ["gear_commanded", 1],
            ["engine_rpm", first * output + 500],
            ["output_rpm", output],
            ["engine_torque_nm", 150],
          ]),
        );
      for (let t = 0.1; t <= 3; t += 0.1) drive(t, 0);
      for (let t = 3.1; t <= 3 + seconds; t += 0.1) drive(t, 300);
      return live.state().warnings.map((w) => w.kind);
    };
    expect(after(5.9)).toEqual([]);
    expect(after(7)).toEqual(["slip"]);
  });
  it("hot fluid is told once it is over the limit, and not again while it stays", () => {
    expect(warned({ gear: 4, seconds: 5, fluidC: TYPICAL.fluidC })).toEqual([]);
    const drive = new Drive().hold({ gear: 4, seconds: 5, fluidC: TYPICAL.fluidC + 0.1 });
    const [first] = drive.state.warnings;
    expect(first).toMatchObject({ kind: "hot", value: TYPICAL.fluidC + 0.1 });
    drive
      .hold({ gear: 4, seconds: 5, fluidC: TYPICAL.fluidC - 1 })
      .hold({ gear: 4, seconds: 5, fluidC: TYPICAL.fluidC + 1 });
    expect(drive.state.warnings).toEqual([first]);
    drive
      .hold({ gear: 4, seconds: 5, fluidC: TYPICAL.fluidC - 3 })
      .hold({ gear: 4, seconds: 5, fluidC: TYPICAL.fluidC + 2 });
    expect(drive.state.warnings).toHaveLength(1);
    expect(drive.state.warnings[0]?.value).toBe(TYPICAL.fluidC + 2);
  });
});
