// Guards: whoever fills as the fill asks ends inside the unit's window, with a measured drain and with an unknown one, and no pump
// runs in air; by the simulator's fluid, which knows nothing of the asking.

import { describe, expect, it } from "@jest/globals";
import { drawFill } from "./index.ts";
import { units } from "./testing/library.ts";

describe("drawn fills", () => {
  it.each([true, false])("end in the window; drain measured: %s", (measured) => {
    const scores = Array.from({ length: 200 }, (_, i) =>
      drawFill(units[i % units.length] as (typeof units)[number], 500 + i, measured),
    );
    const right = scores.filter((s) => s.finished && s.inWindow).length;
    expect(right / scores.length).toBeGreaterThanOrEqual(measured ? 0.99 : 0.97);
    expect(scores.filter((s) => s.starvedS > 3).map((s) => [s.unitId, s.starvedS])).toEqual([]);
    expect(scores.some((s) => s.dry)).toBe(true);
  });
});
