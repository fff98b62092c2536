// Guards: how much has to be driven without a fault before it is called gone: as often as it takes to have shown with 95 %.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { occasionsNeeded, secondsNeeded, shownShare } from "./proof.ts";

describe("occasions", () => {
  it("one in three asks for eight: (2/3)^7 is 0.059, (2/3)^8 0.039", () => {
    expect(occasionsNeeded(1 / 3)).toBe(8);
  });
  it.each([
    [0.5, 5],
    [0.45, 6],
    [0.99, 5],
    [0.1, 29],
  ])("shown in %s of the times: %d", (share, needed) => {
    expect(occasionsNeeded(share)).toBe(needed);
  });
  it("what is asked for would have shown it with 95 %, one less would not", () => {
    fc.assert(
      fc.property(fc.double({ min: 0.01, max: 0.4, noNaN: true }), (p) => {
        const n = occasionsNeeded(p);
        expect((1 - p) ** n).toBeLessThanOrEqual(0.05 + 1e-9);
        expect((1 - p) ** (n - 1)).toBeGreaterThan(0.05 - 1e-9);
      }),
    );
  });
  it("nothing shows quite always, and three of three say less than thirty of thirty", () => {
    expect(shownShare(3, 3)).toBeCloseTo(0.875, 9);
    expect(shownShare(30, 30)).toBeGreaterThan(shownShare(3, 3));
    expect(shownShare(0, 10)).toBeGreaterThan(0);
  });
});

describe("events", () => {
  it("exp(−λT) = 0.05: ten in 300 s ask for 90 s", () => {
    expect(secondsNeeded(10, 300)).toBeCloseTo(30 * Math.log(20), 9);
    expect(Math.exp((-10 / 300) * secondsNeeded(10, 300))).toBeCloseTo(0.05, 12);
  });
});
