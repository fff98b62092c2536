// Guards: editing a unit file: values by path, the check of an unfinished draft, and what the solver says meanwhile.
import { readdirSync, readFileSync } from "node:fs";
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import {
  chartFromApplication,
  type Draft,
  EMPTY_UNIT,
  judge,
  nodeNames,
  ratiosFromTrain,
  toggleApplied,
  valueAt,
  withValue,
} from "./edit-model.ts";
import { parseField, showField } from "./field-text.ts";
import { SECTIONS, sectionOf } from "./sections.ts";

const LIBRARY = new URL("../../../library/units/", import.meta.url);

const brae = (): Draft => JSON.parse(readFileSync(new URL("brae-p6.unit.json", LIBRARY), "utf8"));

describe("values by path", () => {
  it("come back as they were put, and leave the rest and the original alone", () => {
    const key = fc.constantFrom("a", "b", "0", "1");
    fc.assert(
      fc.property(fc.array(key, { minLength: 1, maxLength: 4 }), fc.integer(), (keys, value) => {
        const start = { a: { b: [1, 2] }, other: "kept" };
        const before = structuredClone(start);
        fc.pre(!(keys[0] === "a" && keys[1] === "b" && keys[2] !== undefined && !/^\d$/.test(keys[2])));
        const next = withValue(start as Draft, keys.join("."), value);
        expect(valueAt(next, keys.join("."))).toBe(value);
        expect(start).toEqual(before);
        expect(next.other).toBe("kept");
      }),
    );
  });
  it("keep a field's place in the file", () => {
    expect(Object.keys(withValue({ a: 1, b: 2, c: 3 } as Draft, "b", 9))).toEqual(["a", "b", "c"]);
  });
  it("undefined takes a field away, and what is left empty with it", () => {
    expect(withValue({ x: { y: { z: 1 } }, k: 1 } as Draft, "x.y.z", undefined)).toEqual({ k: 1 });
    expect(withValue({ x: { y: 1, z: 2 } } as Draft, "x.z", undefined)).toEqual({ x: { y: 1 } });
  });
});

describe("judging a draft", () => {
  it("a file of the library has nothing wrong, and the ratios of its teeth", () => {
    const { problems, states, unit } = judge(brae());
    expect(problems).toEqual([]);
    expect(unit?.id).toBe("brae-p6");
    expect(states?.find((s) => s.gear === "2")?.state).toMatchObject({
      kind: "gear",
      ratio: expect.closeTo(1 + 79 / 53, 9),
    });
  });
  it("a changed tooth count shows its ratios at once, beside what is wrong with it", () => {
    // 53 + 82 = 135 stands evenly for three planets; 82 − 53 is odd
    const { problems, states, unit } = judge(withValue(brae(), "gearTrain.sets.0.ringTeeth", 82));
    expect(states?.find((s) => s.gear === "2")?.state).toMatchObject({ ratio: expect.closeTo(1 + 82 / 53, 9) });
    expect(problems.map((p) => p.path)).toEqual(
      expect.arrayContaining(["gearTrain.sets.0.ringTeeth", "gears.1.ratio"]),
    );
    expect(unit).toBeUndefined();
  });
  it("the train answers although other parts are unfinished", () => {
    const { problems, states } = judge(withValue(brae(), "fluid.spec", undefined));
    expect(problems.map((p) => p.path)).toEqual(["fluid.spec"]);
    expect(states).toHaveLength(7);
  });
  it("a gear without a ratio still gets that of its teeth offered", () => {
    const draft = withValue(brae(), "gears.2.ratio", undefined);
    const { problems, states } = judge(draft);
    expect(problems.map((p) => p.path)).toEqual(["gears.2.ratio"]);
    expect(judge(ratiosFromTrain(draft, states ?? [])).problems).toEqual([]);
  });
  it("text where a number belongs is named, not lost", () => {
    const draft = withValue(brae(), "gears.0.ratio", "3,8x");
    expect(judge(draft).problems[0]).toMatchObject({ path: "gears.0.ratio" });
    expect(valueAt(draft, "gears.0.ratio")).toBe("3,8x");
  });
  it("an empty unit names what is missing, and becomes whole by what a form can type", () => {
    expect(judge(EMPTY_UNIT).problems.map((p) => p.path)).toEqual(
      expect.arrayContaining(["id", "name", "maxInputTorqueNm", "fluid.spec"]),
    );
  });
  it("a unit without its train is taken: ratios only", () => {
    let draft = withValue(brae(), "gearTrain", undefined);
    for (let i = 0; i < 5; i++) draft = withValue(draft, `elements.${i}.joins`, undefined);
    expect(judge(draft)).toMatchObject({ problems: [], states: undefined });
  });
});

it.each([
  ["gearTrain.sets.0.ringTeeth", "train"],
  ["gearTrain", "train"],
  ["elements.2.joins", "elements"],
  ["application.3", "gears"],
  ["gears.0.ratio", "gears"],
  ["solenoidChart.R", "solenoids"],
  ["limp.gear", "identity"],
  ["converter", "converter"],
  ["fluid.level.windowC", "service"],
  ["nets.0.connects", "wiring"],
  ["formatVersion", undefined],
])("what is wrong at %s is mended in section %s", (path, id) => {
  expect(sectionOf(path)?.id).toBe(id);
});

it("nodes to choose from are those of the sets and pairs as far as they are typed", () => {
  expect(nodeNames(EMPTY_UNIT)).toEqual(["input", "output", "case"]);
  const draft = withValue(EMPTY_UNIT, "gearTrain", {
    sets: [{ id: "P1" }, { id: "" }],
    pairs: [{ id: "a", driver: "shaft1" }],
  });
  expect(nodeNames(draft)).toEqual(["input", "output", "case", "P1.sun", "P1.ring", "P1.carrier", "shaft1"]);
});

describe("help with charts", () => {
  it("the ratios of the teeth make a changed unit consistent again", () => {
    // 88 − 44 is even, 44 + 88 a multiple of three; second gear is that set with its ring held: 1 + 88/44
    let draft = withValue(withValue(brae(), "gearTrain.sets.0.sunTeeth", 44), "gearTrain.sets.0.ringTeeth", 88);
    expect(judge(draft).problems.length).toBeGreaterThan(0);
    draft = ratiosFromTrain(draft, judge(draft).states ?? []);
    expect(judge(draft).problems).toEqual([]);
    expect(valueAt(draft, "gears.1.ratio")).toBe(3);
  });
  it("the solenoid chart of the library is what the application chart makes of it", () => {
    const draft = brae();
    expect(chartFromApplication(draft).solenoidChart).toEqual(draft.solenoidChart);
  });
  it("taking an element in and out again leaves the chart as it was", () => {
    const draft = brae();
    const once = toggleApplied(draft, "1", { id: "HC", kind: "clutch" });
    expect(judge(once).problems.some((p) => p.path === "application.1")).toBe(true);
    expect(toggleApplied(once, "1", { id: "HC", kind: "clutch" })).toEqual(draft);
  });
});

describe("fields of the form", () => {
  const files = readdirSync(LIBRARY).map((f): Draft => JSON.parse(readFileSync(new URL(f, LIBRARY), "utf8")));
  it("show every value of every library file, and read it back unchanged", () => {
    let judged = 0;
    for (const file of files)
      for (const s of SECTIONS) {
        const fields = [
          ...(s.fields ?? []).map((spec) => ({ spec, path: spec.path })),
          ...(s.rows ?? []).flatMap((r) =>
            ((valueAt(file, r.path) as unknown[] | undefined) ?? []).flatMap((_, i) =>
              r.columns.map((spec) => ({ spec, path: `${r.path}.${i}.${spec.path}` })),
            ),
          ),
        ];
        for (const { spec, path } of fields) {
          const value = valueAt(file, path);
          if (value === undefined) continue;
          judged++;
          expect({ path, value: parseField(spec, showField(spec, value)) }).toEqual({ path, value });
        }
      }
    expect(judged).toBeGreaterThan(2000);
  });
  it("leave out no field of the library files but the charts, which are grids, and what the program writes itself", () => {
    const known = SECTIONS.flatMap((s) => [
      ...(s.fields ?? []).map((f) => f.path),
      ...(s.rows ?? []).flatMap((r) => r.columns.map((c) => `${r.path}.#.${c.path}`)),
    ]);
    const shape = (value: unknown, path: string): string[] => {
      if (known.includes(path) || known.some((k) => k === path.replace(/\.\d+$/, ""))) return [];
      if (Array.isArray(value))
        return value.flatMap((v, i) => shape(v, known.includes(`${path}.${i}`) ? `${path}.${i}` : `${path}.#`));
      if (typeof value === "object" && value !== null)
        return Object.entries(value).flatMap(([k, v]) => shape(v, path ? `${path}.${k}` : k));
      return [path];
    };
    const left = new Set(files.flatMap((f) => shape(f, "")).map((p) => p.split(".")[0]));
    expect([...left].sort()).toEqual(["application", "format", "formatVersion", "solenoidChart", "version"]);
  });
  it.each([
    ["number", "3,25", 3.25],
    ["number", "−4", -4],
    ["number", "3.x", "3.x"],
    ["list", "a, b;c", ["a", "b", "c"]],
    ["list", "all", "all"],
    ["positions", "1: wheel1, output\nR: wheelR, output", { "1": ["wheel1", "output"], R: ["wheelR", "output"] }],
    ["positions", "1: wheel1", "1: wheel1"],
    ["json", "[[1,", "[[1,"],
  ] as const)("%s %j", (type, text, expected) => {
    expect(parseField({ path: "x", label: "x", type }, text)).toEqual(expected);
  });
});
