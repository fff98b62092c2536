// Guards: a speed that stands still while the shaft turns on is told from one that is steady, coarse, slow or at rest.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { seededRandom } from "../../chance/index.ts";
import { frozenRuns } from "./frozen.ts";

const alive = () => true;
/** A speed that moves between 1000 and 2000 rpm, with noise, read to so many rpm. */
const speed = (n: number, roundTo = 0.25, noiseRpm = 2, seed = 1) => {
  const random = seededRandom(seed);
  return Float64Array.from({ length: n }, (_, i) => {
    const v = 1500 + 500 * Math.sin(i / 60) + noiseRpm * (random() + random() - 1);
    return Math.round(v / roundTo) * roundTo;
  });
};
const freeze = (values: Float64Array, at: number, readings: number) =>
  values.map((v, i) => (i >= at && i < at + readings ? (values[at] as number) : v));

describe("a frozen speed", () => {
  it("is found with its first and last reading, wherever it freezes", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 100, max: 1800 }),
        fc.integer({ min: 20, max: 60 }),
        fc.integer({ min: 1, max: 9 }),
        (at, readings, seed) => {
          const found = frozenRuns(freeze(speed(2000, 0.25, 2, seed), at, readings), alive);
          expect(found).toHaveLength(1);
          // a neighbour may read the same by chance
          expect(Math.abs((found[0]?.start ?? 0) - at)).toBeLessThan(3);
          expect(Math.abs((found[0]?.end ?? 0) - (at + readings - 1))).toBeLessThan(3);
        },
      ),
    );
  });
  it.each([0.25, 1])("none is found where nothing froze, read to %s rpm", (roundTo) => {
    for (let seed = 1; seed < 30; seed++) expect(frozenRuns(speed(3000, roundTo, 2, seed), alive)).toEqual([]);
  });
  it.each([
    [3, 0],
    [4, 1],
  ])("%d equal readings before a leap: %d", (readings, found) => {
    const values = speed(400, 0.25, 2).map((v, i) => (i > 200 ? v + 120 : v));
    expect(frozenRuns(freeze(values, 201 - readings, readings), alive)).toHaveLength(found);
  });
  it("a column that the tool repeats is slow, not frozen", () => {
    const values = speed(2000);
    expect(
      frozenRuns(
        values.map((_, i) => values[i - (i % 5)] as number),
        alive,
      ),
    ).toEqual([]);
  });
  it("a shaft at rest isn't frozen, and neither is one whose neighbours stand as well", () => {
    expect(
      frozenRuns(
        speed(600).map((v, i) => (i > 200 && i < 260 ? 0 : v)),
        alive,
      ),
    ).toEqual([]);
    expect(frozenRuns(freeze(speed(600), 200, 40), () => false)).toEqual([]);
  });
});
