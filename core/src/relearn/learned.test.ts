// Guards: learned values as gauges of wear: how far on the way, at what pace, how far to go; a reset begins anew.
import { describe, expect, it } from "@jest/globals";
import { libraryUnit } from "../testing/units.ts";
import { learnedGauges, learnedUsed } from "./index.ts";

const brae = libraryUnit("brae-p6");
const TC = brae.adaptations?.find((a) => a.id === "fill_TC") as NonNullable<typeof brae.adaptations>[number];
// 60 … 105 (new) … 180 ms
const read = (odometerKm: number, fill_TC: number) => ({
  at: `2026-01-01T${String(odometerKm / 1000).padStart(2, "0")}`,
  odometerKm,
  values: { fill_TC },
});
const gauge = (readings: ReturnType<typeof read>[], resets: string[] = []) => {
  const g = learnedGauges(brae, readings, resets).find((x) => x.adaptation.id === "fill_TC");
  if (!g) throw new Error("no gauge");
  return g;
};

it("the way to the nearer limit, on either side of the new value", () => {
  expect(TC).toMatchObject({ newValue: 105, limits: [60, 180] });
  expect([105, 142.5, 180, 82.5, 60].map((v) => learnedUsed(TC, v))).toEqual([0, 0.5, 1, 0.5, 1]);
  expect(learnedUsed({ ...TC, newValue: 180 }, 180)).toBe(0);
  expect(learnedUsed({ ...TC, newValue: 180 }, 181)).toBe(Number.POSITIVE_INFINITY);
});

it.each([
  [138.7, "as-new"],
  [138.8, "worn"],
  [172.4, "worn"],
  [172.5, "near"],
  [179.9, "near"],
  [180, "at-limit"],
  [60, "at-limit"],
])("%d ms: %s", (value, state) => {
  expect(gauge([read(10_000, value)]).state).toBe(state);
});

describe("the pace", () => {
  it("is that of a line through all readings, and leads to the limit", () => {
    const g = gauge([read(30_000, 130), read(10_000, 110), read(20_000, 120)]);
    expect(g.points.map((p) => p.value)).toEqual([110, 120, 130]);
    expect(g.per10000Km).toBeCloseTo(10, 9);
    expect(g.kmLeft).toBeCloseTo(50_000, 3);
  });
  it("is told from half a thousand kilometres on, and from the last reset", () => {
    expect(gauge([read(10_000, 110), read(10_499, 120)]).per10000Km).toBeUndefined();
    expect(gauge([read(10_000, 110), read(10_500, 120)]).per10000Km).toBeCloseTo(200, 6);
    const reset = gauge([read(10_000, 175), read(20_000, 106), read(30_000, 108)], ["2026-01-01T15"]);
    expect(reset.per10000Km).toBeCloseTo(2, 6);
  });
  it("that leads nowhere near forecasts nothing; a value at its limit has nothing left", () => {
    expect(gauge([read(10_000, 110), read(20_000, 110)]).kmLeft).toBeUndefined();
    expect(gauge([read(10_000, 110), read(20_000, 111)]).kmLeft).toBeUndefined();
    expect(gauge([read(10_000, 170), read(20_000, 180)]).kmLeft).toBe(0);
    expect(gauge([read(10_000, 110)]).kmLeft).toBeUndefined();
    expect(gauge([]).points).toEqual([]);
  });
});
