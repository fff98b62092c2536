// Guards: learned values that a whole vehicle has in common are its build; one that stands out, and a learning out of place, are not.
import { describe, expect, it } from "@jest/globals";
import { learnedBeyond } from "./adaptations.measure.ts";

/** By how much of the way to the limit each value has gone, signed. */
const of = (...shares: number[]) =>
  learnedBeyond(shares.map((s) => ({ newValue: 100, last: 100 + 50 * s, used: Math.abs(s) }))).map(
    (x) => Math.round(x * 1000) / 1000,
  );

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
