// Guards: the way to drive names every stretch in the order of a drive, what is done leaves it, complaint and earlier findings lie where
// they are met.
import { describe, expect, it } from "@jest/globals";
import { libraryUnit } from "../testing/units.ts";
import type { AskedFor } from "./asked.ts";
import type { SameCondition } from "./companion.ts";
import { STRETCHES } from "./coverage.ts";
import { drivePlan } from "./plan.ts";

const unit = libraryUnit("brae-p6");
type Driving = Parameters<typeof drivePlan>[1];
const driving = (
  groups: Driving["groups"] = [],
  shifts: readonly string[] = [],
  ranges: readonly ("D" | "R")[] = [],
): Driving => ({
  groups,
  shifts: shifts.map((name) => {
    const [from = "", to = ""] = name.split("-");
    return { name, from, to, completed: true, load: 0.2, fluidC: 70 };
  }),
  held: {
    groups: groups as Driving["held"]["groups"],
    gears: groups.map(({ gear, seconds }) => ({ gear, seconds })),
  },
  engagements: ranges.map((range) => ({ range })),
});
const on = (plan: ReturnType<typeof drivePlan>, stretch: string) =>
  plan.find((p) => p.stretch === stretch)?.items ?? [];

describe("before anything is driven", () => {
  const plan = drivePlan(unit, driving());
  it("leads through every stretch in the order of a drive", () => {
    expect(plan.map((p) => p.stretch)).toEqual(STRETCHES);
  });
  it("names gears, loads, shifts up and down, both ranges, reverse, the over-run, cold and hot", () => {
    const gears = ["1", "2", "3", "4", "5", "6"];
    expect(on(plan, "standing")[0]?.left).toEqual(["D", "R"]);
    expect(on(plan, "level")[0]).toMatchObject({ what: "hold the gear", left: gears, done: false });
    expect(on(plan, "uphill")[0]?.left).toEqual(gears);
    expect(on(plan, "downhill")[0]).toMatchObject({ what: expect.stringMatching(/foot off/), left: gears });
    expect(on(plan, "town")[0]?.left).toEqual(["1-2", "2-3", "3-4", "4-5", "5-6"]);
    expect(on(plan, "downhill")[1]?.left).toEqual(["2-1", "3-2", "4-3", "5-4", "6-5"]);
    expect(on(plan, "yard")[0]).toMatchObject({ what: expect.stringMatching(/reverse/), left: [], done: false });
    for (const stretch of ["cold", "hot"]) expect(on(plan, stretch)[0]?.done).toBe(false);
  });
  it("asks a dual clutch for no engagement against the brake", () => {
    expect(drivePlan(libraryUnit("machair-d6"), driving()).map((p) => p.stretch)).not.toContain("standing");
  });
});

describe("on the way", () => {
  it("what was driven is left out, just from three seconds", () => {
    const held = (seconds: number) =>
      drivePlan(unit, driving([{ gear: "4", load: "light", temperature: "warm", seconds }], ["2-3"], ["D"]));
    expect(on(held(3), "level")[0]?.left).toEqual(["1", "2", "3", "5", "6"]);
    expect(on(held(2.9), "level")[0]?.left).toContain("4");
    expect(on(held(3), "town")[0]?.left).not.toContain("2-3");
    expect(on(held(3), "standing")[0]?.left).toEqual(["R"]);
    expect(on(held(3), "uphill")[0]?.left).toContain("4");
  });
  it("without a reading of the fluid cold and hot are not asked for", () => {
    const plan = drivePlan(unit, driving([{ gear: "4", load: "light", temperature: "unknown", seconds: 5 }]));
    expect(plan.map((p) => p.stretch)).not.toContain("hot");
  });
});

describe("what is asked for besides", () => {
  const complaint = (more: Partial<AskedFor>): AskedFor => ({ where: ["4"], load: "any", temperature: "any", ...more });
  it.each([
    [{ load: "hard" }, "uphill"],
    [{ load: "coast" }, "downhill"],
    [{ load: "steady" }, "level"],
    [{ where: ["2-3"], load: "light" }, "town"],
    [{ load: "hard", temperature: "hot" }, "hot"],
    [{ temperature: "cold" }, "cold"],
  ] as const)("a complaint with %j lies on the stretch %s, before the usual round", (more, stretch) => {
    const [first] = on(drivePlan(unit, driving(), [complaint(more)]), stretch);
    expect(first).toMatchObject({ why: "complaint", done: false });
  });
  it("is done once it was driven, and told once where complaint and finding say the same", () => {
    const wanted: SameCondition[] = [{ where: "4", load: "hard", temperature: "hot", needed: 6 }];
    const asked = [complaint({ load: "hard", temperature: "hot" })];
    const own = (groups: Driving["groups"], a: AskedFor[] = asked) =>
      drivePlan(unit, driving(groups), a, wanted).flatMap((p) => p.items.filter((i) => i.why !== "usual"));
    const hot = (seconds: number) => [{ gear: "4", load: "hard", temperature: "hot", seconds }];
    expect(own([])).toHaveLength(1);
    for (const a of [asked, []]) {
      expect(own(hot(6), a).map((i) => i.done)).toEqual([true]);
      expect(own(hot(5.9), a).map((i) => i.done)).toEqual([false]);
    }
  });
});
