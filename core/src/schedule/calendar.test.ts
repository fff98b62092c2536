// Guards: working time is neither lost nor made: what is begun ends after so many working minutes, over nights and days off.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { both, calendarOf, nextWorking, type Spans, without, workedUntil, workingBetween } from "./index.ts";

/** Two days of four hours. */
const days: Spans = [
  [480, 720],
  [1920, 2160],
];
const spans = fc
  .uniqueArray(fc.integer({ min: 0, max: 5000 }), { minLength: 2, maxLength: 12 })
  .map((x) => x.sort((a, b) => a - b))
  .map((x): Spans => Array.from({ length: x.length >> 1 }, (_, i) => [x[2 * i] as number, x[2 * i + 1] as number]));
const length = (s: Spans) => s.reduce((sum, [a, b]) => sum + b - a, 0);

describe("working time", () => {
  it("begins at once inside a span, else with the next; never after the last", () => {
    const c = calendarOf(days);
    expect([0, 480, 719, 720, 2159, 2160].map((t) => nextWorking(c, t))).toEqual([
      480,
      480,
      719,
      1920,
      2159,
      Number.POSITIVE_INFINITY,
    ]);
  });
  it("goes on after the night: closed form", () => {
    const c = calendarOf(days);
    expect(workedUntil(c, 480, 240)).toBe(720);
    expect(workedUntil(c, 480, 241)).toBe(1921);
    expect(workedUntil(c, 700, 60)).toBe(1960);
    expect(workedUntil(c, 480, 480)).toBe(2160);
    expect(workedUntil(c, 480, 481)).toBe(Number.POSITIVE_INFINITY);
  });
  it("between begin and end is just what was to be worked", () => {
    fc.assert(
      fc.property(spans, fc.integer({ min: 0, max: 5000 }), fc.integer({ min: 1, max: 3000 }), (s, from, minutes) => {
        const c = calendarOf(s);
        const start = nextWorking(c, from);
        if (!Number.isFinite(start)) return;
        const end = workedUntil(c, start, minutes);
        if (Number.isFinite(end)) expect(workingBetween(c, start, end)).toBeCloseTo(minutes, 6);
        else expect(workingBetween(c, start, 1e9)).toBeLessThan(minutes);
      }),
    );
  });
  it("of two is what both have; without days off it is the rest", () => {
    fc.assert(
      fc.property(spans, spans, (a, b) => {
        expect(length(both(a, b)) + length(without(a, b))).toBeCloseTo(length(a), 6);
        expect(both(a, b)).toEqual(both(b, a));
      }),
    );
  });
  it("that overlaps or runs backwards is refused", () => {
    expect(() => calendarOf([[10, 5]])).toThrow(/backwards/);
    expect(() =>
      calendarOf([
        [0, 10],
        [9, 12],
      ]),
    ).toThrow(/overlaps/);
  });
});
