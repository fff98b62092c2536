// Guards: where strips stand, and the values that the crosshair reads.

import { buildPyramid } from "@gearsense/core/log";
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { AXIS_PX, RIBBON_PX, type Strip, stripTops, valueAt } from "./painter.ts";

const strip = (weight: number): Strip => ({
  label: "x",
  unit: "rpm",
  lines: [],
  low: 0,
  high: 1,
  toShown: (v) => v,
  weight,
  leastSpan: 0,
});

describe("strips", () => {
  it("stand below each other on whole pixels between ribbon and axis, and share the height by weight", () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom(1, 1.7), { minLength: 1, maxLength: 8 }),
        fc.integer({ min: 400, max: 1400 }),
        (weights, height) => {
          const tops = stripTops(weights.map(strip), height);
          const total = weights.reduce((a, b) => a + b, 0);
          let above = RIBBON_PX;
          tops.forEach(({ top, size }, i) => {
            expect(Number.isInteger(top) && Number.isInteger(size)).toBe(true);
            expect(top).toBeGreaterThanOrEqual(above);
            const share = ((height - RIBBON_PX - 6 - AXIS_PX) * (weights[i] as number)) / total;
            expect(Math.abs(size + 6 - share)).toBeLessThanOrEqual(1);
            above = top + size;
          });
          expect(above).toBeLessThanOrEqual(height - AXIS_PX);
        },
      ),
    );
  });
});

describe("value under the crosshair", () => {
  const line = buildPyramid(Float64Array.of(0, 1, 2, 3, 4), Float64Array.of(0, 10, 20, Number.NaN, 40));
  it.each([
    [0, false, 0],
    [0.5, false, 5],
    [1.25, false, 12.5],
    [1.25, true, 10],
    [2, false, 20],
    [4, false, 40],
    [2.5, false, 20],
  ])("at %d s, held %s: %d", (t, step, expected) => {
    expect(valueAt(line, t, step)).toBeCloseTo(expected, 6);
  });
  it("after a missing reading there is none", () => {
    expect(valueAt(line, 3.5, true)).toBeNaN();
  });
});
