// Guards: reading of scope files, the dip in a solenoid's current, pulses of a tooth wheel; against signals of known shape.
import { describe, expect, it } from "@jest/globals";
import { seededRandom } from "../chance/index.ts";
import { channelOf, currentRamp, readScope, ScopeError, toothSignal } from "./index.ts";

const csv = (head: string, rows: number, row: (i: number) => string) =>
  [head, ...Array.from({ length: rows }, (_, i) => row(i))].join("\n");

describe("a scope file", () => {
  it("is read with its units and any number of channels", () => {
    const two = readScope(csv("time (ms),A (V),B (A)", 60, (i) => `${i},${i / 10},${2 * i}`));
    expect(two.timeS[10]).toBeCloseTo(0.01, 12);
    expect(two.channels.map((c) => c.name)).toEqual(["A (V)", "B (A)"]);
    expect(channelOf(two, "B (A)")[3]).toBe(6);
    expect(() => channelOf(two)).toThrow(/2 channels: choose one of A \(V\), B \(A\)/);
    expect(() => channelOf(two, "C")).toThrow(/no channel "C"/);
    const bare = readScope(csv("time;current", 50, (i) => `${i / 1000};${i},5`).replaceAll(",", "."));
    expect(channelOf(bare)[2]).toBe(2.5);
  });
  it.each([
    ["", /empty/],
    ["time,A\nx,y", /No line begins with a time/],
    [csv("time (s)", 60, (i) => `${i}`), /Line 2 has a time and no channel/],
    [csv("time (s),A", 49, (i) => `${i},1`), /49 rows, at least 50/],
    [csv("time (s),A", 60, (i) => (i === 30 ? "29,1" : `${i},1`)), /Line 32: time goes back/],
    [csv("time (s),A", 60, (i) => (i === 30 ? "30,ten" : `${i},1`)), /Line 32, column 2 \(A\): "ten" isn’t a number/],
    [csv("time (s),A", 60, (i) => (i === 30 ? "later,1" : `${i},1`)), /Line 32: "later" isn’t a time/],
  ])("that cannot be read is named by its place: %#", (text, says) => {
    expect(() => readScope(text)).toThrow(says);
    expect(() => readScope(text)).toThrow(ScopeError);
  });
});

/** i = I·(1 − e^(−t/τ)), less a dip of a known depth that is deepest at a known time. */
function ramp({ finalA = 1, tauMs = 8, dipA = 0.12, dipMs = 9, noiseA = 0.002, startMs = 5 }) {
  const random = seededRandom(5);
  const timeS = Array.from({ length: 4000 }, (_, i) => i * 2.5e-5);
  const currentA = timeS.map((t) => {
    const ms = 1000 * t - startMs;
    const rise = ms < 0 ? 0 : finalA * (1 - Math.exp(-ms / tauMs));
    const dip = ms < 0 ? 0 : dipA * Math.exp(-(((ms - dipMs) / 0.7) ** 2));
    return rise - dip + noiseA * (2 * random() - 1);
  });
  return currentRamp(timeS, currentA);
}

describe("a current ramp", () => {
  it("tells its end and when the plunger lands", () => {
    const r = ramp({});
    expect(r.finalA).toBeCloseTo(1, 2);
    expect(r.pullInMs).toBeGreaterThan(8);
    expect(r.pullInMs).toBeLessThan(9.6);
    expect(r.dipA).toBeGreaterThan(0.04);
    const late = ramp({ dipMs: 14 });
    expect((late.pullInMs ?? 0) - (r.pullInMs ?? 0)).toBeGreaterThan(4);
  });
  it("without a dip is a plunger that does not move", () => {
    expect(ramp({ dipA: 0 })).toMatchObject({ pullInMs: undefined, dipA: 0 });
    expect(ramp({ dipA: 0, noiseA: 0.02 })).toMatchObject({ pullInMs: undefined });
  });
  it("without current is refused", () => {
    expect(() => ramp({ finalA: 0, dipA: 0 })).toThrow(/No current rises/);
  });
});

/** A wheel of teeth that runs up from one speed to another. */
function wheel({ teeth = 36, turns = 6, from = 10, to = 10, missing = false, runOut = 0, coil = false, noise = 0.01 }) {
  const random = seededRandom(9);
  const timeS: number[] = [];
  const volts: number[] = [];
  let turned = 0;
  const dt = 1 / (from * teeth * 60);
  for (let t = 0; turned < turns; t += dt) {
    const speed = from + ((to - from) * turned) / turns;
    turned += speed * dt;
    const tooth = Math.floor(turned * teeth) % teeth;
    const swing = (coil ? speed / from : 1) * (1 + runOut * Math.sin(2 * Math.PI * turned));
    const gone = missing && tooth === 7;
    timeS.push(t);
    volts.push((gone ? -0.5 * swing : swing * Math.sin(2 * Math.PI * turned * teeth)) + noise * (2 * random() - 1));
  }
  return toothSignal(timeS, volts, teeth);
}

describe("a tooth signal", () => {
  it("of a sound wheel misses none and runs true", () => {
    const s = wheel({});
    expect(s.missing).toBe(0);
    expect(s.runOutPct).toBeLessThan(2);
    expect(s.growth).toBeUndefined();
    expect(s.hz[0]).toBeGreaterThan(340);
    expect(s.hz[1]).toBeLessThan(380);
  });
  it("tells a tooth that is missing every turn", () => {
    expect(wheel({ missing: true }).missing).toBe(1);
  });
  it("tells run-out as its share of the swing", () => {
    const s = wheel({ runOut: 0.3 });
    expect(s.runOutPct).toBeGreaterThan(25);
    expect(s.runOutPct).toBeLessThan(33);
    expect(s.missing).toBe(0);
  });
  it("tells a coil, whose swing grows with speed, from a Hall sensor, whose does not", () => {
    expect(wheel({ to: 25, coil: true }).growth).toBeCloseTo(2, 0);
    expect(wheel({ to: 25, coil: true, runOut: 0.3 }).runOutPct).toBeGreaterThan(20);
    expect(wheel({ to: 25 }).growth).toBeCloseTo(1, 0);
  });
  it("of less than two turns is refused", () => {
    expect(() => wheel({ turns: 1.5 })).toThrow(/less than two turns of a wheel with 36 teeth/);
  });
});
