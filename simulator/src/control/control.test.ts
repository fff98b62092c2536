// Guards: the parts of the made-up controller: gear choice, shifts, lock-up, launch, adaptation, codes.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { Hydraulics, packsOf } from "../physics/hydraulics.ts";
import { load } from "../testing/units.ts";
import { Adaptation } from "./adaptation.ts";
import { type GearRow, gearRows, linePressureFor } from "./gear-table.ts";
import { Launch } from "./launch.ts";
import { Lockup, type LockupInput } from "./lockup.ts";
import { CodeMemory, codeFor, Timer } from "./monitors.ts";
import { GearChoice, USUAL_SCHEDULE } from "./schedule.ts";
import { Shift, type ShiftInput } from "./shift.ts";

const UNITS = ["tarn-f4", "brae-p6", "holm-c6", "ness-x6", "fell-e8", "crag-t10", "corran-w7", "machair-d6"];
const rowsOf = (id: string) => {
  const unit = load(id);
  const packs = packsOf(unit);
  return { unit, packs, gears: gearRows(unit, packs) };
};
const forwardOf = (id: string): GearRow[] => [...rowsOf(id).gears.values()].filter((g) => g.code > 0);

describe.each(UNITS)("gear choice of %s", (id) => {
  const forward = forwardOf(id);
  const pedal = fc.double({ min: 0, max: 1, noNaN: true });
  const output = fc.double({ min: 30, max: 5500, noNaN: true });
  const gear = fc.integer({ min: 1, max: forward.length });
  it("moves one gear at a time and stays among its gears", () => {
    fc.assert(
      fc.property(gear, output, pedal, (g, rpm, p) => {
        const next = new GearChoice(forward, USUAL_SCHEDULE, 760).next(0, g, rpm, p);
        expect(Math.abs(next - g)).toBeLessThanOrEqual(1);
        expect(next).toBeGreaterThanOrEqual(1);
        expect(next).toBeLessThanOrEqual(forward.length);
      }),
    );
  });
  it("does not hunt: what it has just chosen it keeps at the same speed and pedal", () => {
    fc.assert(
      fc.property(gear, output, pedal, (g, rpm, p) => {
        const next = new GearChoice(forward, USUAL_SCHEDULE, 760).next(0, g, rpm, p);
        if (next === g) return;
        expect(new GearChoice(forward, USUAL_SCHEDULE, 760).next(0, next, rpm, p)).not.toBe(g);
      }),
    );
  });
  it("without its hysteresis it does", () => {
    let hunts = 0;
    for (let rpm = 100; rpm < 5000; rpm += 20)
      for (let g = 1; g <= forward.length; g++) {
        const restless = () => Object.assign(new GearChoice(forward, USUAL_SCHEDULE, 760), { restless: 1 });
        const next = restless().next(0, g, rpm, 0.2);
        if (next !== g && restless().next(0, next, rpm, 0.2) === g) hunts++;
      }
    expect(hunts).toBeGreaterThan(0);
  });
});

describe.each(UNITS)("gears of %s", (id) => {
  const { unit, packs, gears } = rowsOf(id);
  it("have the elements of the chart and ask for pressure that grows with torque", () => {
    for (const g of gears.values()) {
      packs.forEach((p, i) => {
        const listed = (unit.application[g.name] ?? []).some((a) => a.element === p.id);
        expect(Boolean(g.applied[i])).toBe(listed);
      });
      expect(linePressureFor(packs, g, 200)).toBeGreaterThan(linePressureFor(packs, g, 50));
      expect(linePressureFor(packs, g, -200)).toBe(linePressureFor(packs, g, 200));
    }
  });
  it("can be held at the torque of the vehicle by a pressure that there is", () => {
    const most = new Hydraulics(unit).highestKpa;
    for (const g of gears.values()) {
      if (g.code < 0) continue;
      const stall = g.code === 1 ? (unit.converter?.stallTorqueRatio ?? 1) : 1;
      expect(linePressureFor(packs, g, 0.86 * unit.maxInputTorqueNm * stall)).toBeLessThan(most);
    }
  });
});

describe("a shift", () => {
  const { packs, gears } = rowsOf("brae-p6");
  const [two, three] = [gears.get("2"), gears.get("3")] as [GearRow, GearRow];
  const input = (more: Partial<ShiftInput> = {}): ShiftInput => ({
    inputRpm: 2800,
    outputRpm: 2800 / two.ratio,
    torqueNm: 150,
    demandNm: 150,
    fluidC: 70,
    lineKpa: 700,
    ...more,
  });
  const fill = new Float64Array(packs.length).fill(0.115);
  const index = (element: string) => packs.findIndex((p) => p.id === element);
  it("under power upwards is pulled by the on-coming element: fill, hand over, then the input moves", () => {
    const shift = new Shift(packs, two, three, input(), fill, 0.2);
    expect(shift.pulls).toBe(true);
    const kpa = new Float64Array(packs.length);
    const seen: number[][] = [];
    // the input follows as if the on-coming element worked
    for (let n = 0; n < 200 && !shift.done; n++) {
      const t = n * 0.01;
      const x = Math.min(1, Math.max(0, (t - 0.22) / 0.3));
      const outputRpm = input().outputRpm;
      shift.tick(0.01, input({ inputRpm: outputRpm * (two.ratio + (three.ratio - two.ratio) * x) }), kpa);
      seen.push([...kpa]);
    }
    expect(shift.done).toBe(true);
    const at = (t: number, element: string) => seen[Math.round(t / 0.01)]?.[index(element)] ?? Number.NaN;
    // TC is in both gears, LB goes, LC comes, nothing else is touched
    expect(at(0.05, "TC")).toBe(700);
    expect(at(0.05, "LB")).toBeGreaterThan(100);
    expect(at(0.4, "LB")).toBe(0);
    expect(at(0.4, "LC")).toBeGreaterThan(60);
    expect(seen.at(-1)?.[index("LC")]).toBeCloseTo(700, 0);
    expect(Math.max(...seen.map((k) => k[index("HC")] ?? 0))).toBe(0);
    const lesson = shift.takeLesson();
    expect(lesson?.pack).toBe(index("LC"));
    expect(lesson?.flareRpm).toBeLessThan(1);
    expect(shift.takeLesson()).toBeUndefined();
  });
  it("is released, not pulled, where the engine moves the input by itself", () => {
    const down = input({ inputRpm: 1500, outputRpm: 1500 / three.ratio });
    expect(new Shift(packs, three, two, down, fill, 0.2).pulls).toBe(false);
    expect(new Shift(packs, three, two, { ...down, torqueNm: -25 }, fill, 0.2).pulls).toBe(true);
    expect(new Shift(packs, two, three, input({ torqueNm: -25 }), fill, 0.2).pulls).toBe(false);
  });
  it("that is not made is given up, and the gear is commanded all the same", () => {
    const shift = new Shift(packs, two, three, input(), fill, 0.2);
    const kpa = new Float64Array(packs.length);
    let seconds = 0;
    while (!shift.done && seconds < 10) {
      shift.tick(0.01, input(), kpa);
      seconds += 0.01;
    }
    expect(seconds).toBeLessThan(3.5);
    expect(kpa[index("LC")]).toBeCloseTo(700, 0);
    expect(shift.takeLesson()).toBeUndefined();
  });
});

describe("lock-up", () => {
  const unit = load("brae-p6");
  const cruise: LockupInput = {
    gear: "4",
    shifting: false,
    vehicleKmh: 60,
    pedal: 0.3,
    slipRpm: 80,
    fluidC: 80,
    holdKpa: 200,
  };
  const run = (lockup: Lockup, s: LockupInput, seconds: number) => {
    let kpa = 0;
    for (let n = 0; n < seconds * 100; n++) kpa = lockup.tick(0.01, s);
    return kpa;
  };
  const make = () => new Lockup(unit.converter as NonNullable<typeof unit.converter>);
  it("waits after a shift, lays on, then works against the slip that is too much", () => {
    const lockup = make();
    expect(run(lockup, cruise, 1)).toBe(0);
    expect(run(lockup, cruise, 2)).toBeGreaterThan(150);
    expect(lockup.holding).toBe(true);
    const before = run(lockup, cruise, 0.1);
    expect(run(lockup, cruise, 1)).toBeGreaterThan(before);
  });
  it.each([
    ["in a gear without it", { gear: "1" }],
    ["in a shift", { shifting: true }],
    ["slow", { vehicleKmh: 15 }],
    ["with the pedal up", { pedal: 0 }],
    ["with the pedal down", { pedal: 0.95 }],
    ["cold", { fluidC: 5 }],
  ])("lets go %s", (_name, more) => {
    const lockup = make();
    run(lockup, cruise, 4);
    expect(run(lockup, { ...cruise, ...more }, 0.1)).toBe(0);
    expect(lockup.on).toBe(false);
  });
  it("is not used again once barred", () => {
    const lockup = make();
    lockup.barred = true;
    expect(run(lockup, cruise, 5)).toBe(0);
  });
});

describe("launch", () => {
  const first = rowsOf("corran-w7").gears.get("1") as GearRow;
  const run = (s: { engineRpm: number; engineNm: number; pedal: number; brake: boolean }, shaftRpm: number) => {
    const launch = new Launch(0.22, 760);
    let nm = 0;
    for (let n = 0; n < 200; n++) nm = launch.tick(0.01, s, first, shaftRpm);
    return { nm, closed: launch.closed };
  };
  it("is open against the brake, creeps without, and carries the engine's torque under pedal", () => {
    expect(run({ engineRpm: 760, engineNm: 5, pedal: 0, brake: true }, 0).nm).toBeCloseTo(0, 6);
    const creep = run({ engineRpm: 760, engineNm: 15, pedal: 0, brake: false }, 100).nm;
    expect(creep).toBeGreaterThan(8);
    expect(creep).toBeLessThan(30);
    // at the launch speed it carries just what the engine gives
    expect(run({ engineRpm: 1320, engineNm: 120, pedal: 0.3, brake: false }, 400).nm).toBeCloseTo(120, 0);
  });
  it("closes with a margin when shaft and engine are alike, and opens before the engine is dragged down", () => {
    const closed = run({ engineRpm: 1500, engineNm: 100, pedal: 0.3, brake: false }, 1490);
    expect(closed.closed).toBe(true);
    expect(closed.nm).toBeGreaterThan(130);
    const launch = new Launch(0.22, 760);
    launch.take(first, { engineRpm: 1500, engineNm: 20 });
    expect(launch.closed).toBe(true);
    launch.tick(0.01, { engineRpm: 730, engineNm: 5, pedal: 0, brake: false }, first, 700);
    expect(launch.closed).toBe(false);
  });
});

describe("adaptation", () => {
  const { unit, packs } = rowsOf("brae-p6");
  const make = () => new Adaptation(unit, packs);
  it("starts with the values of the unit file and never leaves its limits, whatever it is taught", () => {
    const lesson = fc.record({
      pack: fc.integer({ min: 0, max: packs.length - 1 }),
      flareRpm: fc.double({ min: 0, max: 600, noNaN: true }),
      lateS: fc.double({ min: -0.3, max: 0.6, noNaN: true }),
    });
    fc.assert(
      fc.property(fc.array(lesson, { maxLength: 200 }), (lessons) => {
        const a = make();
        for (const x of unit.adaptations ?? []) expect(a.read(unit, packs)[x.id]).toBe(x.newValue);
        for (const l of lessons) a.learn(l, 120, 80);
        const values = a.read(unit, packs);
        for (const x of unit.adaptations ?? []) {
          expect(values[x.id]).toBeGreaterThanOrEqual(x.limits[0]);
          expect(values[x.id]).toBeLessThanOrEqual(x.limits[1]);
        }
      }),
    );
  });
  it("learns longer from a flare, shorter from an early shift, nothing cold or without load", () => {
    const after = (flareRpm: number, lateS: number, torqueNm: number, fluidC: number, shifts = 2) => {
      const a = make();
      for (let i = 0; i < shifts; i++) a.learn({ pack: 0, flareRpm, lateS }, torqueNm, fluidC);
      return Math.sign((a.fillS[0] as number) - (make().fillS[0] as number));
    };
    expect(after(150, 0, 120, 80)).toBe(1);
    expect(after(0, -0.2, 120, 80)).toBe(-1);
    // one may be chance
    expect(after(150, 0, 120, 80, 1)).toBe(0);
    expect(after(150, 0, 120, 20)).toBe(0);
    expect(after(150, 0, 5, 80)).toBe(0);
  });
  it("shifts that ask for this and that in turn teach nothing", () => {
    const a = make();
    for (const lateS of [0.2, -0.2, 0.2, -0.2, 0.2]) a.learn({ pack: 0, flareRpm: 0, lateS }, 120, 80);
    expect(a.fillS[0]).toBe(make().fillS[0]);
  });
  it("says when the pressure can be raised no more", () => {
    const a = make();
    let seconds = 0;
    while (!a.raiseLine(0.01) && seconds < 100) seconds += 0.01;
    expect(seconds).toBeGreaterThan(1);
    expect(seconds).toBeLessThan(60);
  });
});

describe("codes", () => {
  it.each([
    ["brae-p6", { about: "sensor", sensor: "sen_output" }, "P0722"],
    ["brae-p6", { about: "circuit", solenoid: "sol_TCC" }, "P0743"],
    ["brae-p6", { about: "ratio" }, "P0730"],
    ["brae-p6", { about: "converter-clutch" }, "P0741"],
    ["brae-p6", { about: "pressure" }, "P0746"],
    ["corran-w7", { about: "clutch" }, "P0810"],
    ["corran-w7", { about: "supply" }, "P0871"],
    ["corran-w7", { about: "ratio" }, undefined],
  ] as const)("%s in doubt of %j: %s, from the unit file", (id, doubt, code) => {
    expect(codeFor(load(id), doubt)?.code).toBe(code);
  });
  it("are stored once, with the freeze frame of the first time, until cleared", () => {
    const memory = new CodeMemory(load("brae-p6"));
    expect(memory.set({ about: "ratio" }, 12, { engine_rpm: 1800 })).toBe(true);
    expect(memory.set({ about: "ratio" }, 99, { engine_rpm: 4000 })).toBe(true);
    expect(memory.set({ about: "sensor", sensor: "none" }, 1, {})).toBe(false);
    expect(memory.stored).toMatchObject([{ code: "P0730", timeS: 12, freezeFrame: { engine_rpm: 1800 } }]);
    memory.clear();
    expect(memory.stored).toEqual([]);
  });
  it("a timer counts only what lasts without a break", () => {
    const timer = new Timer();
    const states = [true, true, false, true, true, true];
    expect(states.map((is) => timer.tick(0.2, is, 0.59))).toEqual([false, false, false, false, false, true]);
  });
});
