// Guards: every vehicle is one of a family: drawn by its seed, inside what working vehicles have, and in another world otherwise.
import { describe, expect, it } from "@jest/globals";
import { asDrawn, type Build, drawBuild, firstRatio, strayCodes } from "./build.ts";
import { componentsFor, faultKind, faultKindsFor } from "./faults/kinds.ts";
import { OUTSIDE_KINDS } from "./faults/outside.ts";
import { Engine } from "./physics/engine.ts";
import { Hydraulics } from "./physics/hydraulics.ts";
import { Powertrain } from "./physics/powertrain.ts";
import { seededRandom } from "./random.ts";
import { simulateDrive } from "./record.ts";
import { load } from "./testing/units.ts";
import { vehicleFor } from "./vehicle-data.ts";

const SEEDS = Array.from({ length: 300 }, (_, i) => i);
const mean = (list: readonly number[]) => list.reduce((a, b) => a + b, 0) / list.length;

describe("a family of vehicles", () => {
  it("the same seed is the same vehicle, another one another", () => {
    expect(drawBuild(5, 3)).toEqual(drawBuild(5, 3));
    expect(drawBuild(5, 3)).not.toEqual(drawBuild(5, 4));
    expect(drawBuild(5, 3, 1)).toEqual(drawBuild(5, 3, 1));
    expect(drawBuild(5, 3, 1)).not.toEqual(drawBuild(5, 3, 2));
  });
  it("stays inside its ranges and fills them", () => {
    const builds = SEEDS.map((s) => drawBuild(5, s));
    const inside = (of: (b: Build) => number, low: number, high: number) => {
      const values = builds.map(of);
      expect(Math.min(...values)).toBeGreaterThanOrEqual(low);
      expect(Math.max(...values)).toBeLessThanOrEqual(high);
      expect(Math.max(...values) - Math.min(...values)).toBeGreaterThan(0.9 * (high - low));
    };
    inside((b) => b.windUpDeg, 9, 16);
    inside((b) => b.massShare, 0.85, 1.25);
    inside((b) => b.tyreShare, 0.978, 1.002);
    inside((b) => b.style.inertiaS, 0.28, 0.42);
    inside((b) => b.packFill[4] ?? Number.NaN, 0.88, 1.14);
  });
  it("another world has other ranges: wider, and its mean elsewhere", () => {
    const of = (world: number) => SEEDS.map((s) => drawBuild(5, s, world).windUpDeg);
    const [own, other] = [of(0), of(1)];
    const width = (list: readonly number[]) => Math.max(...list) - Math.min(...list);
    expect(width(other)).toBeGreaterThan(1.2 * width(own));
    const moved = Array.from({ length: 8 }, (_, w) => Math.abs(mean(of(w + 1)) - mean(own)));
    expect(Math.max(...moved)).toBeGreaterThan(1);
    for (const v of other) expect(v).toBeGreaterThan(0.6 * 9 - 1e-9);
  });
  it("the half-shafts turn by so many degrees at the wheel under the engine's largest torque in first", () => {
    const unit = load("brae-p6");
    const build = { ...asDrawn(5), windUpDeg: 12 };
    const data = vehicleFor(unit, build);
    const outputNm = build.engineShare * unit.maxInputTorqueNm * firstRatio(unit);
    const wheelDeg = ((outputNm / data.shaftStiffnessNmPerRad / unit.finalDrive) * 180) / Math.PI;
    expect(wheelDeg).toBeCloseTo(12, 9);
  });
});

describe("codes of another day", () => {
  const unit = load("brae-p6");
  it("stand in one vehicle of sixteen, always the same, any code of the unit", () => {
    const found = Array.from({ length: 4000 }, (_, seed) => strayCodes(unit, seed));
    const some = found.filter((c) => c.length > 0);
    expect(some.length / found.length).toBeGreaterThan(0.05);
    expect(some.length / found.length).toBeLessThan(0.075);
    expect(new Set(some.flat())).toEqual(new Set(unit.codes.map((c) => c.code)));
    expect(Array.from({ length: 4000 }, (_, seed) => strayCodes(unit, seed))).toEqual(found);
  });
  it("are stored on every drive of the vehicle, beside what the drive itself sets", () => {
    const vehicleSeed = SEEDS.find((s) => strayCodes(unit, s).length > 0) as number;
    for (const seed of [1, 2]) {
      const { truth } = simulateDrive({ unit, seed, vehicleSeed, profile: "mixed", durationS: 5, faults: [] });
      expect(truth.strayCodes).toEqual(strayCodes(unit, vehicleSeed));
      expect(truth.codes).toEqual([]);
    }
  });
});

describe("what was drawn, in the vehicle", () => {
  it("a valve with play does not follow a command that turns round within it", () => {
    const unit = load("brae-p6");
    const at = (play: number) => {
      const h = new Hydraulics(unit, { ...asDrawn(5), packPlayKpa: [play, 0, 0, 0, 0] });
      h.lineCommandKpa = 1500;
      const settle = (kpa: number) => {
        h.commandKpa[0] = kpa;
        for (let n = 0; n < 2000; n++) h.step(0.001, 2000);
        return h.pressureKpa[0] as number;
      };
      settle(600);
      return [settle(800), settle(790), settle(700)] as const;
    };
    const [up, back, down] = at(20);
    expect(up).toBeCloseTo(780, 0);
    expect(back).toBeCloseTo(780, 0);
    expect(down).toBeCloseTo(720, 0);
    expect(at(0)[1]).toBeCloseTo(790, 0);
  });
  it("an idle wanders by its standard deviation about its speed, and is higher in neutral", () => {
    const engine = new Engine(300, { idleRpm: 760, neutralIdleRpm: 50, idleWanderRpm: 6 }, seededRandom(4));
    const aims: number[] = [];
    for (let n = 0; n < 400_000; n++) {
      engine.step(0.001, 760, 0, 1);
      aims.push(engine.idleRpm);
    }
    const middle = mean(aims);
    expect(middle).toBeGreaterThan(757);
    expect(middle).toBeLessThan(763);
    const deviation = Math.sqrt(mean(aims.map((a) => (a - middle) ** 2)));
    expect(deviation / 6).toBeGreaterThan(0.7);
    expect(deviation / 6).toBeLessThan(1.3);
    const before = engine.idleRpm;
    engine.inNeutral = true;
    expect(engine.idleRpm - before).toBeCloseTo(50, 9);
  });
  it("a tyre that pulls creeps: the output turns faster than the wheels roll by force over grip", () => {
    const unit = load("brae-p6");
    const p = new Powertrain(unit);
    const c = p.idleControls();
    p.roll(15);
    unit.application["3"]?.forEach((a) => {
      c.capacityNm[p.elements.indexOf(a.element)] = 5000;
    });
    c.pedal = 0.6;
    for (let n = 0; n < 4000; n++) p.step(0.001, c);
    const rolling = (p.vehicleMS * unit.finalDrive) / unit.tyreRadiusM;
    const creep = (p.outputRpm * Math.PI) / 30 / rolling - 1;
    const forceN = (p.shaftNm * unit.finalDrive) / unit.tyreRadiusM;
    expect(creep / (forceN / p.vehicle.tyreGripN)).toBeCloseTo(1, 1);
  });
  it("drives of one vehicle are alike where those of two are not", () => {
    const drive = (seed: number, vehicleSeed: number) =>
      simulateDrive({ unit: load("brae-p6"), seed, vehicleSeed, durationS: 5, profile: "town", faults: [] }).vehicle
        .build;
    expect(drive(1, 9)).toEqual(drive(2, 9));
    expect(drive(1, 9)).not.toEqual(drive(1, 8));
  });
});

describe("faults that the catalogue does not know", () => {
  const unit = load("brae-p6");
  const speedAfter = (kind?: string) => {
    const { columns } = simulateDrive({
      unit,
      seed: 3,
      durationS: 60,
      profile: "coast-to-stop",
      rateHz: 10,
      faults: kind ? [{ kind, severity: 1 }] : [],
    });
    return columns;
  };
  it("are not offered", () => {
    const offered = faultKindsFor(unit).map((k) => k.id);
    for (const k of OUTSIDE_KINDS) {
      expect(offered).not.toContain(k.id);
      expect(faultKind(k.id)).toBe(k);
      expect(componentsFor(unit, k)).toEqual([]);
    }
  });
  it("do what they say: a brake binds, the road speed reads off, the engine surges", () => {
    const distance = (c: ReadonlyMap<string, Float64Array>) =>
      (c.get("output_rpm") ?? new Float64Array()).reduce((a, b) => a + b, 0);
    const sound = speedAfter();
    expect(distance(speedAfter("brake-binds"))).toBeLessThan(0.97 * distance(sound));
    const off = speedAfter("speed-reads-off");
    const ratio = (c: ReadonlyMap<string, Float64Array>) =>
      Math.max(...(c.get("vehicle_kmh") ?? [])) / Math.max(...(c.get("output_rpm") ?? []));
    expect(ratio(off) / ratio(sound)).toBeGreaterThan(1.1);
    const pulls = (c: ReadonlyMap<string, Float64Array>) => Math.max(...(c.get("pedal_pct") ?? []));
    expect(pulls(speedAfter("engine-surges"))).toBeGreaterThanOrEqual(pulls(sound));
  });
});
