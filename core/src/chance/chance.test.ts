// Guards: the generator repeats itself, and the triangular quantile against its closed forms.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { draw, seededRandom, triangular, triangularMean } from "./index.ts";

describe("seeded", () => {
  it("numbers repeat with the seed, lie in [0, 1) and average one half", () => {
    const [a, b] = [seededRandom(7), seededRandom(7)];
    let sum = 0;
    for (let i = 0; i < 20_000; i++) {
      const x = a();
      expect(x).toBe(b());
      sum += x;
    }
    expect(sum / 20_000).toBeCloseTo(0.5, 2);
    expect(seededRandom(8)()).not.toBe(seededRandom(7)());
  });
  it("draws come as often as their weights", () => {
    const random = seededRandom(1);
    const counts = [0, 0, 0];
    for (let i = 0; i < 30_000; i++) {
      const k = draw([0.2, 0.5, 0.3], random);
      counts[k] = (counts[k] ?? 0) + 1;
    }
    expect(counts.map((c) => c / 30_000)).toEqual([0.2, 0.5, 0.3].map((p) => expect.closeTo(p, 1)));
  });
});

describe("triangular", () => {
  const three = fc
    .tuple(
      fc.double({ min: 0, max: 50, noNaN: true }),
      fc.double({ min: 0, max: 50, noNaN: true }),
      fc.double({ min: 0, max: 50, noNaN: true }),
    )
    .map((x) => x.toSorted((a, b) => a - b) as [number, number, number]);
  it("quantiles rise from best to worst, and the share below the likely is (m − a) / (b − a)", () => {
    fc.assert(
      fc.property(
        three,
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (t, u, v) => {
          const [low, high] = [triangular(t, Math.min(u, v)), triangular(t, Math.max(u, v))];
          expect(low).toBeLessThanOrEqual(high + 1e-9);
          expect(low).toBeGreaterThanOrEqual(t[0] - 1e-9);
          expect(high).toBeLessThanOrEqual(t[2] + 1e-9);
          if (t[2] - t[0] > 1e-6) expect(triangular(t, (t[1] - t[0]) / (t[2] - t[0]))).toBeCloseTo(t[1], 6);
        },
      ),
    );
  });
  it("averages (a + m + b) / 3", () => {
    const t = [2, 3, 10] as const;
    let sum = 0;
    for (let i = 0; i < 10_000; i++) sum += triangular(t, (i + 0.5) / 10_000);
    expect(sum / 10_000).toBeCloseTo(triangularMean(t), 3);
  });
});
