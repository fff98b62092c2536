// Guards: intervals cover as often as they say; effect sizes against counted pairs.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { changeOf, cliffsDelta } from "../index.ts";

/** Normal numbers by Box and Muller from a small generator. */
function normals(seed: number): () => number {
  let state = seed * 2654435761 + 1;
  const uniform = () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return (state + 0.5) / 4294967296;
  };
  return () => Math.sqrt(-2 * Math.log(uniform())) * Math.cos(2 * Math.PI * uniform());
}

describe("change between two drives", () => {
  it("the 95 % interval of a median covers the true change in about 95 of 100 drives", () => {
    let covered = 0;
    const trials = 200;
    for (let k = 0; k < trials; k++) {
      const next = normals(k + 1);
      const before = Array.from({ length: 30 }, () => 100 + 10 * next());
      const after = Array.from({ length: 25 }, () => 80 + 10 * next());
      const { interval } = changeOf(before, after, 0.5);
      if (interval && interval[0] <= -20 && interval[1] >= -20) covered++;
    }
    expect(covered / trials).toBeGreaterThan(0.89);
    expect(covered / trials).toBeLessThan(0.995);
  });
  it("the same drives give the same interval, and too few samples none", () => {
    const [a, b] = [
      [1, 2, 3, 4, 9],
      [2, 2, 1],
    ];
    expect(changeOf(a, b, 0.5)).toEqual(changeOf(a, b, 0.5));
    expect(changeOf([1, 2], [3, 4, 5], 0.5).interval).toBeUndefined();
    expect(changeOf([1, 2], [3, 4, 5], 0.5).value).toBe(2.5);
  });
  it("the interval lies within what was seen, and holds the change of a constant exactly", () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -50, max: 50 }), { minLength: 3, maxLength: 20 }),
        fc.integer({ min: -9, max: 9 }),
        (list, by) => {
          const { interval } = changeOf(
            list,
            list.map((v) => v + by),
            0.5,
          );
          const range = Math.max(...list) - Math.min(...list);
          expect(interval?.[0]).toBeGreaterThanOrEqual(by - range - 1e-9);
          expect(interval?.[1]).toBeLessThanOrEqual(by + range + 1e-9);
        },
      ),
      { numRuns: 30 },
    );
    expect(changeOf([5, 5, 5], [8, 8, 8, 8], 0.9).interval).toEqual([3, 3]);
  });
});

describe("Cliff's delta", () => {
  it.each([
    [[1, 2, 3], [4, 5, 6], 1],
    [[4, 5, 6], [1, 2, 3], -1],
    [[1, 2], [1, 2], 0],
    // pairs: 1<2, 1<4, 3>2, 3<4 → (3 − 1)/4
    [[1, 3], [2, 4], 0.5],
  ])("%j against %j is %d", (before, after, delta) => {
    expect(cliffsDelta(before, after)).toBeCloseTo(delta, 12);
  });
  it("turned round it changes its sign", () => {
    const list = fc.array(fc.integer({ min: 0, max: 9 }), { minLength: 1, maxLength: 12 });
    fc.assert(fc.property(list, list, (a, b) => expect(cliffsDelta(a, b)).toBeCloseTo(-cliffsDelta(b, a), 12)));
  });
});
