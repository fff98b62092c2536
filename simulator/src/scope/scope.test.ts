// Guards: the stand-ins for a scope behave as the real things do, and the bench reads out of them what was put in.
import { channelOf, currentRamp, readScope, toothSignal } from "@gearsense/core/bench";
import { describe, expect, it } from "@jest/globals";
import { scopeCsv, solenoidRecording, wheelRecording } from "./index.ts";

const seeds = Array.from({ length: 12 }, (_, i) => i + 1);

describe("a solenoid's current", () => {
  const read = (fault: Parameters<typeof solenoidRecording>[1], seed: number, ohm = 5.2) => {
    const made = solenoidRecording(ohm, fault, seed);
    const file = readScope(scopeCsv(made));
    return { made, ramp: () => currentRamp(file.timeS, channelOf(file)) };
  };
  it("ends at V/R", () => {
    for (const ohm of [4.8, 5.6, 12]) expect(read("none", 1, ohm).ramp().finalA).toBeCloseTo(13.2 / ohm, 1);
  });
  it("dips where the plunger lands, within a tenth and 0.7 ms", () => {
    for (const fault of ["none", "slow"] as const)
      for (const seed of seeds) {
        const { made, ramp } = read(fault, seed);
        const { pullInMs } = ramp();
        expect(made.landsMs).toBeDefined();
        expect(Math.abs((pullInMs ?? 0) - (made.landsMs ?? 0))).toBeLessThan(0.7 + 0.1 * (made.landsMs ?? 0));
      }
  });
  it("of a slow one dips later, of a stuck one not at all, without current there is none to read", () => {
    for (const seed of seeds) {
      expect(read("slow", seed).ramp().pullInMs).toBeGreaterThan(1.3 * (read("none", seed).ramp().pullInMs ?? 99));
      expect(read("stuck", seed).ramp().pullInMs).toBeUndefined();
      expect(() => read("no-current", seed).ramp()).toThrow(/No current rises/);
    }
  });
});

describe("a wheel of teeth", () => {
  const read = (kind: "coil" | "hall", fault: Parameters<typeof wheelRecording>[2], seed: number) => {
    const file = readScope(scopeCsv(wheelRecording(36, kind, fault, seed)));
    return toothSignal(file.timeS, channelOf(file), 36);
  };
  it.each(["coil", "hall"] as const)("of a %s that is sound misses none and runs true", (kind) => {
    for (const seed of seeds) {
      const s = read(kind, "none", seed);
      expect(s.missing).toBe(0);
      expect(s.runOutPct).toBeLessThan(20);
      expect((s.growth ?? 0) > 1.4).toBe(kind === "coil");
    }
  });
  it.each(["coil", "hall"] as const)("of a %s with a tooth gone misses one a turn", (kind) => {
    for (const seed of seeds) expect(read(kind, "missing-tooth", seed).missing).toBe(1);
  });
  it("that runs out is told by a coil", () => {
    for (const seed of seeds) expect(read("coil", "run-out", seed).runOutPct).toBeGreaterThan(25);
  });
});
