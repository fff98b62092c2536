// Guards: the parts that the powertrain is fed by: friction curves, pistons, fluid, engine, each against its own closed form.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { seededRandom } from "../random.ts";
import { load } from "../testing/units.ts";
import { Engine } from "./engine.ts";
import { Fluid, flowTimeFactor } from "./fluid.ts";
import { FILL_KPA, Hydraulics, type Pack, pressureFor } from "./hydraulics.ts";
import { DESIGN_FRICTION, judderFactor, runOutFactor, wetFriction } from "./lining.ts";

const share = fc.double({ min: 0, max: 1, noNaN: true });
const slip = fc.double({ min: 0, max: 200, noNaN: true });

describe("lining", () => {
  it("sound: grips at rest with what it is laid out for or more, and rises with slip, which damps", () => {
    expect(wetFriction(0, 0, 0)).toBeGreaterThanOrEqual(DESIGN_FRICTION);
    fc.assert(
      fc.property(slip, slip, (a, b) => {
        if (a < b) expect(wetFriction(b, 0, 0)).toBeGreaterThanOrEqual(wetFriction(a, 0, 0));
      }),
    );
  });
  it("in spoiled fluid: falls with slip, which drives, and stays above zero", () => {
    fc.assert(
      fc.property(slip, slip, (a, b) => {
        if (a < b) expect(wetFriction(b, 1, 0)).toBeLessThanOrEqual(wetFriction(a, 1, 0));
        expect(wetFriction(b, 1, 0)).toBeGreaterThan(0);
      }),
    );
  });
  it("worn: nothing left at rest when all is gone, more with slip, never more than sound", () => {
    expect(wetFriction(0, 0, 1)).toBe(0);
    fc.assert(
      fc.property(slip, share, (v, wear) => expect(wetFriction(v, 0, wear)).toBeLessThanOrEqual(wetFriction(v, 0, 0))),
    );
  });
  it("faces that run out of true grip as much as sound ones on average, once a turn more and less", () => {
    const turn = Array.from({ length: 360 }, (_, i) => runOutFactor((i * Math.PI) / 180, 1));
    expect(turn.reduce((s, x) => s + x, 0) / turn.length).toBeCloseTo(1, 9);
    expect(Math.max(...turn) - 1).toBeCloseTo(1 - Math.min(...turn), 9);
    expect(Math.max(...turn)).toBeGreaterThan(1.1);
    expect(runOutFactor(2, 0)).toBe(1);
  });
  it("judder takes half of the grip at most, over the whole launch", () => {
    expect(judderFactor(0, 1)).toBe(1);
    fc.assert(fc.property(slip, share, (v, j) => expect(judderFactor(v, j)).toBeGreaterThan(0.5)));
  });
});

describe("pistons", () => {
  const unit = load("brae-p6");
  const make = (fluidC = 70) => {
    const h = new Hydraulics(unit);
    h.setFluid(fluidC, 0);
    h.lineCommandKpa = 1000;
    for (let n = 0; n < 500; n++) h.step(0.001, 2000);
    return h;
  };
  /** time from a command until the piston touches, s */
  const fillS = (h: Hydraulics) => {
    h.commandKpa[0] = FILL_KPA;
    for (let n = 1; n < 3000; n++) {
      h.step(0.001, 2000);
      if ((h.stroke[0] as number) >= 1) return n * 0.001;
    }
    return Number.POSITIVE_INFINITY;
  };
  it("pressure for a torque gives just that torque", () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 900, noNaN: true }), (nm) => {
        const h = new Hydraulics(unit);
        h.pressureKpa[0] = pressureFor(h.packs[0] as Pack, nm);
        expect(h.capacityNm(0, DESIGN_FRICTION)).toBeCloseTo(nm, 9);
      }),
    );
  });
  it("fill in their time at 70 °C, later when cold, later with more to fill", () => {
    const { fillS: asLaidOut } = make().packs[0] as Pack;
    expect(fillS(make())).toBeCloseTo(asLaidOut, 2);
    expect(fillS(make(0)) / fillS(make())).toBeCloseTo(flowTimeFactor(0) / flowTimeFactor(70), 1);
    const worn = make();
    worn.health.fillExtra[0] = 1;
    expect(fillS(worn)).toBeCloseTo(2 * asLaidOut, 2);
  });
  it("carry nothing until they touch, follow the command then, and let go without it", () => {
    const h = make();
    h.commandKpa[0] = FILL_KPA;
    for (let n = 0; n < 60; n++) h.step(0.001, 2000);
    expect(h.capacityNm(0, DESIGN_FRICTION)).toBe(0);
    h.commandKpa[0] = 700;
    for (let n = 0; n < 500; n++) h.step(0.001, 2000);
    expect(h.pressureKpa[0]).toBeCloseTo(700, 0);
    h.commandKpa[0] = 0;
    for (let n = 0; n < 500; n++) h.step(0.001, 2000);
    expect(h.capacityNm(0, DESIGN_FRICTION)).toBe(0);
    expect(h.stroke[0]).toBe(0);
  });
  it("never get more than the line has, nor the line more than the pump brings", () => {
    const h = make();
    h.commandKpa[0] = 5000;
    for (let n = 0; n < 800; n++) h.step(0.001, 2000);
    expect(h.pressureKpa[0]).toBeLessThanOrEqual(h.lineKpa + 1e-6);
    h.health.pumpScale = 0.05;
    for (let n = 0; n < 800; n++) h.step(0.001, 760);
    expect(h.lineKpa).toBeLessThan(200);
  });
  it("lose pressure by a leak when hot, hardly when cold", () => {
    const at = (fluidC: number) => {
      const h = make(fluidC);
      h.health.leak[0] = 0.5;
      h.commandKpa[0] = 700;
      for (let n = 0; n < 1500; n++) h.step(0.001, 2000);
      return h.pressureKpa[0] as number;
    };
    expect(at(100)).toBeLessThan(360);
    expect(at(20)).toBeGreaterThan(600);
  });
});

describe("fluid", () => {
  const after = (seconds: number, lossW: number, set?: (f: Fluid) => void, startC = 90) => {
    const f = new Fluid(9, startC, 14);
    for (let n = 0; n < seconds * 10; n++) {
      set?.(f);
      f.step(0.1, lossW, 1500, 0);
    }
    return f;
  };
  it("warms towards where losses equal what cooler and case take", () => {
    const f = after(20_000, 2000);
    // 450 W/1000 rpm churned; 170 W/K to coolant of 88 °C, 14 W/K to air of 14 °C
    const balanceC = (2000 + 675 + 170 * 88 + 14 * 14) / (170 + 14);
    expect(f.temperatureC).toBeCloseTo(balanceC, 1);
  });
  it("with a blocked cooler follows the closed form of heating against the case alone", () => {
    const blocked = after(600, 3000, (f) => {
      f.health.coolerShare = 0;
    });
    const [toC, timeS] = [14 + 3675 / 14, (5200 * 9) / 14];
    expect(blocked.temperatureC).toBeCloseTo(toC + (90 - toC) * Math.exp(-600 / timeS), 1);
    expect(blocked.temperatureC).toBeGreaterThan(after(600, 3000).temperatureC + 15);
  });
  it("right: no air; a quarter too little or too much: air in the pump; and it goes again", () => {
    const level = (litres: number) =>
      after(10, 500, (f) => {
        f.health.levelL = litres;
      });
    expect(level(0).air).toBe(0);
    expect(level(-2.3).air).toBeGreaterThan(0.2);
    const foaming = level(2.3);
    expect(foaming.air).toBeGreaterThan(0.2);
    foaming.health.levelL = 0;
    for (let n = 0; n < 200; n++) foaming.step(0.1, 500, 1500, 0);
    expect(foaming.air).toBe(0);
  });
});

describe("engine", () => {
  const STEADY = { idleRpm: 760, neutralIdleRpm: 0, idleWanderRpm: 0 };
  const inertia = 0.24;
  /** lets it run by itself. @returns speed at the end and its vibration over the last two seconds, rpm */
  const run = (seconds: number, pedal: number, loadNm: number, set?: (e: Engine) => void) => {
    const e = new Engine(300, STEADY, seededRandom(3));
    set?.(e);
    let rpm = 760;
    let [low, high] = [Infinity, -Infinity];
    for (let n = 0; n < seconds * 1000; n++) {
      rpm = Math.max(0, rpm + ((e.step(0.001, rpm, pedal, 1) - loadNm) / inertia) * 0.001 * (60 / (2 * Math.PI)));
      if (n > (seconds - 2) * 1000) {
        low = Math.min(low, rpm);
        high = Math.max(high, rpm);
      }
    }
    return { rpm, vibration: high - low };
  };
  it("idles at its idle speed, with a load too, and runs out of breath at the top", () => {
    expect(run(20, 0, 0).rpm).toBeCloseTo(760, -1);
    expect(Math.abs(run(20, 0, 25).rpm - 760)).toBeLessThan(40);
    const top = run(20, 1, 0).rpm;
    expect(top).toBeGreaterThan(5500);
    expect(top).toBeLessThan(6700);
  });
  it("gives what is asked for: all of it at full pedal in its best range, less by a request, drag without pedal", () => {
    const at = (pedal: number, request: number, scale = 1) => {
      const e = new Engine(300, STEADY, seededRandom(3));
      e.health.torqueScale = scale;
      let nm = 0;
      for (let n = 0; n < 1000; n++) nm = e.step(0.001, 3000, pedal, request);
      return nm;
    };
    expect(at(1, 1)).toBeCloseTo(300, 0);
    expect(at(1, 1, 0.6)).toBeCloseTo(180, 0);
    expect(at(1, 0.5)).toBeLessThan(160);
    expect(at(0, 1)).toBeLessThan(0);
  });
  it("a dead cylinder shakes it, a sound one does not", () => {
    const sound = run(10, 0.3, 70).vibration;
    const missing = run(10, 0.3, 70, (e) => {
      e.health.misfire = 1;
    }).vibration;
    expect(missing).toBeGreaterThan(sound + 40);
  });
});
