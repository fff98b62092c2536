// Guards: a vehicle after a repair goes through its standing routine, and the figures count what they say.
import { describe, expect, it } from "@jest/globals";
import { drawRelearn, type RelearnScore, summariseRelearns } from "./relearns.ts";
import { units } from "./testing/library.ts";

const planetary = units.filter((u) => u.kind === "planetary");
const score = (more: Partial<RelearnScore>): RelearnScore => ({
  ...{ unitId: "x", repair: "rebuild", furthest: 0, before: [], after: [], advised: "leave", end: "done", say: "" },
  ...more,
});

describe("vehicles after a repair", () => {
  it("go through the routine, the same for the same seed", () => {
    const one = drawRelearn(planetary, 3);
    expect(one.end).toBe("done");
    expect(drawRelearn(planetary, 3)).toEqual(one);
  });
});

it("counts vehicles with shifts outside, those that were mended, and advice that nobody needed", () => {
  const f = summariseRelearns([
    score({ before: ["2-3"], advised: "required" }),
    score({ repair: "control-unit", before: ["2-3"], after: ["2-3"], advised: "required" }),
    score({ repair: "valve body", advised: "required" }),
    score({ repair: "fluid service", before: ["1-2"] }),
    score({ repair: "sensor", end: "failed", say: "x" }),
  ]);
  expect(f).toMatchObject({ inside: 3, outsideBefore: 2, insideAfter: 1, unneeded: 2, advisedUnneeded: 1 });
  expect(f.notDone).toHaveLength(1);
});
