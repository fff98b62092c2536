// Guards: conversions against the exact definitions, the round trip, and how numbers are written.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { formatHours, formatQuantity, formatRange, fromDisplay, type Quantity, toDisplay } from "./index.ts";

describe("conversion", () => {
  it.each([
    ["temperature", 100, 212, 1e-9],
    ["temperature", -40, -40, 1e-9],
    ["distance", 1.609344, 1, 1e-12],
    ["pressure", 6.894757293168, 1, 1e-9],
    ["vacuum", 3.386389, 1, 1e-9],
    ["torque", 1.3558179483314, 1, 1e-9],
    ["volume", 0.946352946, 1, 1e-9],
    ["length", 25.4, 1, 1e-12],
  ] as const)("%s: %d is %d in the imperial unit", (quantity, metric, imperial, tolerance) => {
    expect(Math.abs(toDisplay(metric, quantity, "imperial") - imperial)).toBeLessThan(tolerance);
  });

  it("comes back to the same value", () => {
    const quantities: Quantity[] = ["torque", "pressure", "temperature", "distance", "volume", "length", "speed-rpm"];
    fc.assert(
      fc.property(fc.constantFrom(...quantities), fc.double({ min: -1e5, max: 1e5, noNaN: true }), (quantity, v) => {
        expect(fromDisplay(toDisplay(v, quantity, "imperial"), quantity, "imperial")).toBeCloseTo(v, 6);
      }),
    );
  });
});

describe("writing", () => {
  it("groups thousands, keeps the sign, and never shows minus zero", () => {
    expect(formatQuantity(148260, "distance", "metric").text).toBe("148\u202f260\u00a0km");
    expect(formatQuantity(-12.4, "speed-rpm", "metric").text).toBe("\u221212\u00a0rpm");
    expect(formatQuantity(-0.2, "speed-rpm", "metric").text).toBe("0\u00a0rpm");
    expect(formatQuantity(Number.NaN, "torque", "metric").value).toBe("–");
  });
  it("hours of labour stand to a tenth, as they are booked", () => {
    expect([13.866666666666667, 9, 0.04, 1.25].map(formatHours)).toEqual(["13.9", "9", "0", "1.3"]);
  });
  it("collapses a range whose ends read alike", () => {
    expect(formatRange(210.1, 210.3, "torque", "metric")).toBe("210\u00a0N·m");
    expect(formatRange(210, 310, "torque", "metric")).toContain("210\u2009–\u2009310");
  });
});
