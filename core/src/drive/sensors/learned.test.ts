// Guards: learned values that a whole vehicle has in common are its build; one that stands out, and a learning out of place, are not.
import { describe, expect, it } from "@jest/globals";
import { learnedBeyond, learnedOutcomes } from "./adaptations.measure.ts";

/** By how much of the way to the limit each value has gone, signed. */
const values = (shares: number[]) => shares.map((s) => ({ newValue: 100, last: 100 + 50 * s, used: Math.abs(s) }));
const of = (...shares: number[]) => learnedBeyond(values(shares)).map((x) => Math.round(x * 1000) / 1000);
const outcomes = (...shares: number[]) => learnedOutcomes(values(shares)).join(" ");

describe("learned values beyond what the vehicle has in common", () => {
  it("all alike: nothing is left, up to 45 % of the way; what goes beyond stays", () => {
    expect(of(-0.4, -0.4, -0.4, -0.4)).toEqual([0, 0, 0, 0]);
    expect(of(0.45, 0.45, 0.45)).toEqual([0, 0, 0]);
    expect(of(-1, -1, -1, -1)).toEqual([-0.55, -0.55, -0.55, -0.55]);
  });
  it("one that stands out stays out, whichever way the others lie", () => {
    expect(of(-0.2, -0.2, 0.6, -0.2, -0.2)).toEqual([0, 0, 0.8, 0, 0]);
  });
  it("of one or two values nothing is in common", () => {
    expect(of(0.4)).toEqual([0.4]);
    expect(of(0.4, 0.4)).toEqual([0.4, 0.4]);
  });
});

describe("which way a value has gone", () => {
  it("three tenths of the way are far", () => {
    expect(outcomes(0, 0, 0.29, 0, 0)).toBe("usual usual usual usual usual");
    expect(outcomes(0, 0, 0.31, 0, 0)).toBe("usual usual high usual usual");
    expect(outcomes(0, 0, -0.31, 0, 0)).toBe("usual usual low usual usual");
    expect(outcomes(0.31)).toBe("high");
  });
  it("beside values that are spread wide, two and a half times as far as they", () => {
    // the others lie 0.2 about what all have in common
    expect(outcomes(0.2, -0.2, 0.49, -0.2, 0.2, 0, 0)).toBe("usual usual usual usual usual usual usual");
    expect(outcomes(0.2, -0.2, 0.51, -0.2, 0.2, 0, 0)).toBe("usual usual high usual usual usual usual");
  });
});
