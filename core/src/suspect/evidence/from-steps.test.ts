// Guards: what was measured at a step moves the odds as the same check would, once, and a coil is not called out for its temperature.
import { describe, expect, it } from "@jest/globals";
import { type EntryBodies, type EntryKind, foldJob } from "../../job/index.ts";
import { madeEntry } from "../../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../../testing/units.ts";
import { believe, collectEvidence, levelKnown, SuspectModel, siftEvidence } from "../index.ts";

const unit = libraryUnit("brae-p6");
const knowledge = libraryKnowledge();
let seq = 0;
const entry = <K extends EntryKind>(kind: K, body: EntryBodies[K]) => madeEntry(++seq, kind, body);
const step = (key: string, id: string, value: string) =>
  entry("step", {
    step: key,
    title: key,
    minutes: null,
    values: [{ id, name: id, value }],
    trouble: [],
    note: "",
    overridden: "",
  });
const decided = (repairId: string) =>
  entry("decision", {
    ...{ repairId, title: "", reason: "", expectedCost: 0, cures: 0.5, modelVersion: 1, odds: [], levelKnown: true },
  });
const state = (...entries: ReturnType<typeof entry>[]) => foldJob(entries as never);
const seen = (...entries: ReturnType<typeof entry>[]) => collectEvidence(unit, state(...entries), [], knowledge.debris);
const solenoid = unit.solenoids.find((s) => s.id === "sol_TC") as (typeof unit.solenoids)[number];

describe("measured while working", () => {
  it("the level of the plan is the level, unless the first look has read it", () => {
    const read = step("before-work/level-overflow", "level", "low");
    expect(seen(read)).toMatchObject([{ table: "fluid-level", outcome: "low", abnormal: true }]);
    expect(levelKnown(unit, state(read))).toBe(true);
    expect(seen(step("before-work/level-overflow", "level", "cannot be read"))).toEqual([]);
    expect(levelKnown(unit, state(step("before-work/level-overflow", "level", "cannot be read")))).toBe(false);
    const first = entry("level", {
      ...{ state: "ok", method: "plug", fluidC: 40, litresFromFull: null, engineRunning: true, note: "" },
    });
    expect(seen(first, read).map((e) => e.outcome)).toEqual(["ok"]);
  });
  it("the coil that came out is in or out by the unit file, whatever the bench's temperature: just in and just out", () => {
    const [least, most] = solenoid.resistanceOhmAt20C;
    const at = (ohm: number) => seen(decided("solenoid:sol_TC"), step("solenoids/compare", "old", ohm.toFixed(3)))[0];
    const cold = 1 + 0.00393 * -10;
    const warm = 1 + 0.00393 * 50;
    expect(at(least * cold - 0.01)).toMatchObject({ checkId: "resistance:sol_TC", outcome: "out", abnormal: true });
    expect(at(least * cold + 0.01)).toMatchObject({ outcome: "in-window", weight: 0.5 });
    expect(at(most * warm - 0.01)).toMatchObject({ outcome: "in-window", weight: 0.5 });
    expect(at(most * warm + 0.01)).toMatchObject({ outcome: "out" });
  });
  it("of a set of solenoids, or one that was checked already, nothing is counted", () => {
    const old = step("solenoids/compare", "old", "1");
    expect(seen(decided("solenoid:sol_TC+solenoid:sol_HC"), old)).toEqual([]);
    const check = entry("check", {
      ...{ checkId: "resistance:sol_TC", component: "sol_TC", title: "", outcome: "in-window", outcomeLabel: "" },
      ...{ abnormal: false, minutes: null, note: "" },
    });
    expect(seen(decided("solenoid:sol_TC"), old, check).map((e) => e.outcome)).toEqual(["in-window"]);
  });
  it("the flow of the cooler: just under and just over a litre in half a minute", () => {
    const at = (l: string) => seen(step("cooler-flush/flow", "flow", l))[0];
    expect(at("0,99")).toMatchObject({ checkId: "cooler-flow", outcome: "low", abnormal: true });
    expect(at("1.0")).toMatchObject({ outcome: "good", abnormal: false });
  });
  it("moves the odds towards the solenoid that is out", () => {
    const model = new SuspectModel(unit, knowledge);
    const odds = (...entries: ReturnType<typeof entry>[]) => {
      const { used } = siftEvidence(model, seen(...entries));
      const belief = believe(model, used).marginals();
      return model.faults.reduce((sum, f, i) => sum + (f.component === "sol_TC" ? (belief[i] as number) : 0), 0);
    };
    const old = (ohm: string) => odds(decided("solenoid:sol_TC"), step("solenoids/compare", "old", ohm));
    const prior = odds(decided("solenoid:sol_TC"));
    expect(old("0.4")).toBeGreaterThan(prior);
    expect(old(String(solenoid.resistanceOhmAt20C[0] * 1.05))).toBeLessThan(prior);
  });
});
