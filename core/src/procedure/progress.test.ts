// Guards: a step is ticked only when all before it is done, with values that are values; a hold is opened by its value inside its
// limits, or overridden with a reason; a tick is not taken back under what was done because of it.
import { describe, expect, it } from "@jest/globals";
import { START_SHARE } from "../fluid/index.ts";
import {
  compose,
  emptyStart,
  holdClosed,
  insideLimit,
  numberIn,
  type PlanStep,
  planTo,
  tickProblem,
  untickProblem,
  valueProblem,
} from "./index.ts";
import { PROCEDURES, unitOf } from "./testing/library.ts";

const unit = unitOf("brae-p6");
const plan = compose(PROCEDURES, unit, ["converter"]);
const step = (key: string) => plan.steps.find((s) => s.key === key) as PlanStep;
const allBefore = (key: string): Set<string> => {
  const found = new Set<string>();
  const add = (k: string) => {
    for (const b of step(k).before)
      if (!found.has(b)) {
        found.add(b);
        add(b);
      }
  };
  add(key);
  return found;
};
const UNIT_IN = "unit-out-longitudinal-alone/unit-in";

describe("numbers", () => {
  it.each([
    ["41.5", 41.5],
    ["41,5", 41.5],
    ["−3", -3],
    ["", Number.NaN],
    ["4x", Number.NaN],
  ])("%p is %p", (text, value) => {
    expect(numberIn(text)).toBe(value);
  });
});

describe("values", () => {
  const temperature = step("drain/temperature");
  const level = step("before-work/level-overflow");
  it("are numbers, or one of the list, or not recorded", () => {
    expect(valueProblem(temperature, "temperature", "58,5")).toBeUndefined();
    expect(valueProblem(temperature, "temperature", "")).toBeUndefined();
    expect(valueProblem(temperature, "temperature", "hot")).toMatch(/a number, such as/);
    expect(valueProblem(level, "level", "low")).toBeUndefined();
    expect(valueProblem(level, "level", "lowish")).toMatch(/choose one of the list/);
    expect(valueProblem(level, "depth", "3")).toMatch(/not recorded at this step/);
  });
  it.each([
    ["60", true],
    ["60.1", false],
    ["-10", true],
    ["", undefined],
  ])("a fluid of %p °C is let out: %p", (text, inside) => {
    expect(insideLimit(unit, temperature, "temperature", text)).toBe(inside);
  });
  it.each([
    ["34.9", false],
    ["35", true],
    ["45", true],
    ["45.1", false],
  ])("a level at %p °C is inside the window: %p", (text, inside) => {
    expect(insideLimit(unit, step("fill/set-overflow"), "temperature", text)).toBe(inside);
  });
  it("without a limit are neither inside nor outside", () => {
    expect(insideLimit(unit, level, "level", "low")).toBeUndefined();
  });
});

describe("a hold", () => {
  it("that a value opens is opened by it", () => {
    const out = step(UNIT_IN);
    expect(holdClosed(unit, out, {})).toMatch(/opens the hold and is not recorded/);
    expect(holdClosed(unit, out, { gap: "0.06" })).toMatch(/outside its limits/);
    expect(holdClosed(unit, out, { gap: "0.05" })).toBeUndefined();
  });
  it("whose value has no limit in the unit file is opened by any", () => {
    const home = step("unit-out-longitudinal-alone/home");
    const bare = { ...unit, converter: unit.converter && { ...unit.converter, homeDepthMm: undefined } } as typeof unit;
    expect(holdClosed(bare, home, { depth: "31" })).toBeUndefined();
  });
  it("of the converter is opened inside the window of the unit file: just in and just out, either end", () => {
    const home = step("unit-out-longitudinal-alone/home");
    const [from, to] = unit.converter?.homeDepthMm ?? [0, 0];
    const open = [from - 0.1, from, to, to + 0.1].map(
      (d) => holdClosed(unit, home, { depth: String(d) }) === undefined,
    );
    expect(open).toEqual([false, true, true, false]);
  });
  it("of a tick alone is none of this", () => {
    expect(holdClosed(unit, step("battery/off"), {})).toBeUndefined();
  });
});

describe("a tick", () => {
  const done = allBefore(UNIT_IN);
  it("waits for what comes before it, by name", () => {
    const less = new Set([...done].filter((k) => !k.endsWith("/home")));
    expect(tickProblem(unit, plan, less, UNIT_IN, { gap: "0" }, "")).toBe(
      "“Unit up by hand on its dowels, faces meet” waits for: Converter home: depth measured",
    );
    expect(tickProblem(unit, plan, new Set(), UNIT_IN, { gap: "0" }, "")).toMatch(
      /waits for: .*; .*; .* and \d+ more$/,
    );
  });
  it("is taken when all is there", () => {
    expect(tickProblem(unit, plan, done, UNIT_IN, { gap: "0" }, "")).toBeUndefined();
  });
  it("on hold needs the value, or a reason", () => {
    expect(tickProblem(unit, plan, done, UNIT_IN, { gap: "1" }, "")).toMatch(/is on hold: .*outside its limits/);
    expect(tickProblem(unit, plan, done, UNIT_IN, { gap: "1" }, " ")).toMatch(/is on hold/);
    expect(tickProblem(unit, plan, done, UNIT_IN, { gap: "1" }, "dowel longer, maker agrees")).toBeUndefined();
  });
  it("with a wrong value, or of a step that isn’t there, is refused", () => {
    expect(tickProblem(unit, plan, done, UNIT_IN, { gap: "none" }, "")).toMatch(/a number/);
    expect(tickProblem(unit, plan, done, "x/y", {}, "")).toMatch(/isn’t a step of this job’s plan/);
  });
  it("is taken back only when nothing rests on it", () => {
    expect(untickProblem(plan, done, "battery/off")).toMatch(/^Take back first what was done after it: /);
    expect(untickProblem(plan, new Set([...done, UNIT_IN]), UNIT_IN)).toBeUndefined();
    const two = new Set(["before-work/identify", "before-work/codes"]);
    expect(untickProblem(plan, two, "before-work/identify")).toBe(
      "Take back first what was done after it: Read and keep codes and learned values",
    );
  });
  it("names three of what it waits for, and counts the rest", () => {
    const start = allBefore("before-work/level-overflow");
    start.delete("before-work/identify");
    expect(tickProblem(unit, plan, start, "before-work/level-overflow", { level: "low" }, "")).toBe(
      "“Read the fluid level” waits for: Identify vehicle and unit",
    );
    const all = step(UNIT_IN).before.length;
    expect(tickProblem(unit, plan, new Set(), UNIT_IN, { gap: "0" }, "")).toMatch(new RegExp(`and ${all - 3} more$`));
  });
});

describe("the first start on a fresh fill", () => {
  const need = START_SHARE * unit.fluid.panDrainL;
  const first = (filled: string) => [{ step: "fill/first-overflow", values: [{ id: "filled", value: filled }] }];
  it("is held until enough is written down at the first fill: just under and just over", () => {
    expect(emptyStart(unit, undefined, first(String(need - 0.11)))).toMatch(/pump would run in air/);
    expect(emptyStart(unit, undefined, first(String(need - 0.09)))).toBeUndefined();
  });
  it("goes by the fill where there is one, and by the tick alone where nobody wrote anything", () => {
    expect(emptyStart(unit, { inPanL: 0.5 }, first("4"))).toMatch(/only 0\.5 l/);
    expect(emptyStart(unit, { inPanL: 4 }, first("0"))).toBeUndefined();
    expect(emptyStart(unit, undefined, [])).toBeUndefined();
  });
});

describe("the flow of the cooler", () => {
  it("opens its hold from a litre in half a minute on: just under and just over", () => {
    const flush = planTo(PROCEDURES, unit, ["cooler-clean"]).steps.find(
      (s) => s.key === "cooler-flush/flow",
    ) as PlanStep;
    expect(holdClosed(unit, flush, { flow: "0.9" })).toMatch(/outside its limits/);
    expect(holdClosed(unit, flush, { flow: "1" })).toBeUndefined();
  });
});
