// Guards: what is shipped is sound; every rule of the check refuses one case and takes its sound twin; traits and limits follow
// the unit file.
import { describe, expect, it } from "@jest/globals";
import {
  cautionsOf,
  checkProcedures,
  fits,
  HAZARDS,
  hazardsOf,
  limitOf,
  type Procedure,
  type ProcedureStep,
  TRAITS,
  traitsOf,
} from "./index.ts";
import { NAMES, PROCEDURES, UNITS, unitOf } from "./testing/library.ts";

const step = (more: Partial<ProcedureStep> = {}): ProcedureStep => ({
  id: "do",
  title: "Do it",
  place: "bench",
  minutes: [1, 2, 3],
  ...more,
});
const procedure = (steps: readonly ProcedureStep[], more: Partial<Procedure> = {}): Procedure => ({
  format: "gearsense-procedure",
  version: 1,
  id: "own",
  title: "Own",
  end: "own-end",
  steps,
  ...more,
});
const problems = (p: Procedure) =>
  checkProcedures([...PROCEDURES, p], UNITS, NAMES).map((x) => `${x.place}: ${x.reason}`);
const hold = { ask: "Is it so?", reason: "Because." };

describe("what is shipped", () => {
  it("is sound on all eight units", () => {
    expect(checkProcedures(PROCEDURES, UNITS, NAMES)).toEqual([]);
  });
  it("is missed when one of its ends is taken away", () => {
    const without = PROCEDURES.filter((p) => p.end !== "filled");
    expect(checkProcedures(without, UNITS, NAMES)).toContainEqual({
      place: "drain",
      reason: 'no procedure leads to "filled"',
    });
  });
  it("tells a hazard of working beneath by itself", () => {
    expect(hazardsOf(step({ place: "under" }))).toEqual(["under-vehicle"]);
    expect(cautionsOf(step({ place: "under", cautions: ["hot-fluid"] }))).toEqual(["under-vehicle", "hot-fluid"]);
    expect(cautionsOf(step())).toEqual([]);
  });
  it("has a caution for every hazard", () => {
    for (const answers of Object.values(HAZARDS))
      for (const c of answers) expect(Object.keys(NAMES.cautions)).toContain(c);
  });
});

describe("a procedure is refused", () => {
  it.each<[string, Procedure, string | undefined]>([
    ["sound as it is", procedure([step()]), undefined],
    ["a trait that no unit has", procedure([step({ when: ["!hybrid"] })]), 'own/do: no unit has a trait "!hybrid"'],
    ["the same of the whole", procedure([step()], { when: ["hybrid"] }), 'own: no unit has a trait "hybrid"'],
    [
      "a caution that isn’t there",
      procedure([step({ cautions: ["beware"] })]),
      'own/do: no caution is called "beware"',
    ],
    [
      "a hazard without its caution",
      procedure([step({ hazards: ["springs"] })]),
      'own/do: hazard "springs" stands without its caution: springs',
    ],
    ["a hazard with it", procedure([step({ hazards: ["springs"], cautions: ["springs"] })]), undefined],
    [
      "a caution that needs a tick, without one",
      procedure([step({ cautions: ["unit-down"] })]),
      'own/do: caution "unit-down" needs a tick, and the step has no hold',
    ],
    ["the same with one", procedure([step({ cautions: ["unit-down"], hold })]), undefined],
    [
      "minutes below zero",
      procedure([step({ minutes: [-1, 2, 3] })]),
      "own/do: minutes: best, likely, worst, none below zero",
    ],
    ["none at all", procedure([step({ minutes: [0, 0, 0] })]), undefined],
    [
      "minutes out of order",
      procedure([step({ minutes: [1, 4, 3] })]),
      "own/do: minutes: best, likely, worst, none below zero",
    ],
    [
      "a wait out of order",
      procedure([step({ wait: { what: "soak", minutes: [2, 1, 3], why: "x" } })]),
      "own/do: minutes of the wait: best, likely, worst, none below zero",
    ],
    ["a step of that id twice", procedure([step(), step()]), "own/do: there are two steps of this id"],
    ["an id that is taken", procedure([step()], { id: "drain" }), "drain: there are two procedures of this id"],
    ["an unknown repair", procedure([step()], { repairs: ["paint"] }), 'own: no repair is called "paint"'],
    ["an unknown end", procedure([step()], { includes: ["paint?"] }), 'own: no procedure leads to "paint?"'],
    ["an unknown step before it", procedure([step({ after: ["x/y"] })]), 'own/do: no step is called "x/y"'],
    ["one by the end of its procedure", procedure([step({ after: ["pan-down/pan-on"] })]), undefined],
    ["what nothing opens", procedure([step({ needs: ["box"] })]), 'own/do: no step opens "box"'],
    [
      "a limit that isn’t there",
      procedure([step({ record: [{ id: "a", name: "A", quantity: "length", limit: "colour" }] })]),
      'own/do: no limit is called "colour"',
    ],
    [
      "a choice of one",
      procedure([step({ record: [{ id: "a", name: "A", quantity: "choice", options: ["b"] }] })]),
      'own/do: "a": a choice has two options at least, and nothing else has any',
    ],
    [
      "a hold that nothing opens",
      procedure([step({ hold: { ...hold, opensBy: "depth" } })]),
      'own/do: the hold is opened by "depth", which is not recorded here',
    ],
    [
      "a hold that a value opens",
      procedure([
        step({ hold: { ...hold, opensBy: "depth" }, record: [{ id: "depth", name: "Depth", quantity: "length" }] }),
      ]),
      undefined,
    ],
    [
      "fasteners that no unit has",
      procedure([step({ fasteners: ["wing-nut"] })]),
      'own/do: no unit that it is for has fasteners "wing-nut"',
    ],
    [
      "fasteners of another kind of unit",
      procedure([step({ fasteners: ["clutch-cover"], when: ["planetary"] })]),
      'own/do: no unit that it is for has fasteners "clutch-cover"',
    ],
    [
      "fasteners of its own kind",
      procedure([step({ fasteners: ["clutch-cover"] })], { when: ["dual-clutch"] }),
      undefined,
    ],
    [
      "a refit that takes off",
      procedure([step({ id: "off", removes: true }), step({ undoes: "off", removes: true })]),
      "own/do: a step that undoes another takes nothing off itself",
    ],
    [
      "a removal without its refit",
      procedure([step({ removes: true })], { when: ["dry"] }),
      "own/do: nothing undoes it: it would be left over (Machair D6, on the way of own)",
    ],
    [
      "a refit that this unit does not have",
      procedure([step({ id: "off", removes: true }), step({ undoes: "off", when: ["converter"] })], { when: ["dry"] }),
      "own/off: nothing undoes it: it would be left over (Machair D6, on the way of own)",
    ],
    [
      "a circle",
      procedure([step({ after: ["b"] }), step({ id: "b", after: ["do"] })], { when: ["dry"] }),
      "own/do → own/b → own/do: goes in a circle (Machair D6, on the way of own)",
    ],
    [
      "an end that the unit has no way to",
      procedure([step()], { when: ["dry"], includes: ["cooler-clean"] }),
      'own: Machair D6 has no way to "cooler-clean" (Machair D6, on the way of own)',
    ],
    [
      "the same where it may be missing",
      procedure([step()], { when: ["dry"], includes: ["cooler-clean?"] }),
      undefined,
    ],
    [
      "no step for a unit that it is for",
      procedure([step({ when: ["converter"] })], { when: ["dry"] }),
      "own: Machair D6 has no step of it",
    ],
  ])("%s", (_, p, reason) => {
    expect(problems(p)).toEqual(reason === undefined ? [] : expect.arrayContaining([reason]));
  });
});

describe("traits of a unit", () => {
  it("come from its file", () => {
    expect([...traitsOf(unitOf("tarn-f4"))].sort()).toEqual(
      ["longitudinal", "planetary", "converter", "dipstick", "cooler", "filter", "drain-plug", "gasket"].sort(),
    );
    expect([...traitsOf(unitOf("machair-d6"))].sort()).toEqual(
      ["transverse", "dual-clutch", "dry", "sight-hole", "drain-plug", "accumulator", "forks", "gasket"].sort(),
    );
    const bare = { ...unitOf("tarn-f4"), fasteners: [], fluid: { ...unitOf("tarn-f4").fluid, panSeal: undefined } };
    expect(traitsOf(bare).has("drain-plug")).toBe(false);
    expect(traitsOf(bare).has("seal-unknown")).toBe(true);
  });
  it("each occurs among the shipped units, but for what their files all say", () => {
    const all = new Set(UNITS.flatMap((u) => [...traitsOf(u)]));
    expect(TRAITS.filter((t) => !all.has(t))).toEqual(["seal-unknown"]);
  });
  it("are asked for and asked not to be", () => {
    const traits = traitsOf(unitOf("tarn-f4"));
    expect(fits(traits, ["planetary", "!dry"])).toBe(true);
    expect(fits(traits, ["planetary", "!dipstick"])).toBe(false);
    expect(fits(traits, ["wet"])).toBe(false);
    expect(fits(traits, undefined)).toBe(true);
  });
});

describe("limits of what is recorded", () => {
  const unit = unitOf("brae-p6");
  it("are those of the unit file", () => {
    expect(limitOf(unit, "level-window")).toMatchObject({ least: 35, most: 45 });
    expect(limitOf(unit, "safe-drain")).toMatchObject({ least: undefined, most: 60 });
    expect(limitOf(unit, "fluid-total")).toMatchObject({ most: 9.2 });
    const drain = limitOf(unit, "pan-drain");
    expect(drain?.least).toBeCloseTo(4.1 * 0.9, 9);
    expect(drain?.most).toBeCloseTo(4.1 * 1.1, 9);
  });
  it("are none where nothing is known", () => {
    expect(limitOf(unit, "depth")).toBeUndefined();
  });
});
