// Guards: the consistency checks of unit files, and reading the application chart for a fault.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { libraryUnit } from "../testing/units.ts";
import {
  checkUnit,
  elementsIn,
  type GearOutcome,
  gearCode,
  gearName,
  gearsUsing,
  ratioTable,
  readChart,
  siblingsOnNets,
  type Unit,
} from "./index.ts";

const planetary = libraryUnit("brae-p6");
const dual = libraryUnit("corran-w7");

describe("library units", () => {
  it.each([planetary, dual])("$name is consistent", (unit) => {
    expect(checkUnit(unit)).toEqual([]);
  });

  // input on the sun of the first set (53/79), output on its carrier and on the third's (31/89), whose ring the brake holds
  it.each([
    ["1", (31 + 89) / 31],
    ["2", (53 + 79) / 53],
    ["5", 1],
    ["R", (53 + 79 - (79 * (31 + 89)) / 31) / 53],
  ])("gear %s of the planetary unit has the ratio of its tooth counts", (gear, ratio) => {
    expect(planetary.gears.find((g) => g.name === gear)?.ratio).toBeCloseTo(ratio, 3);
  });
});

describe("a pack on the bench", () => {
  const with1 = (bench: object) => {
    const elements = planetary.elements.map((e) => (e.id === "TC" ? { ...e, bench: { ...e.bench, ...bench } } : e));
    return checkUnit({ ...planetary, elements } as Unit).map((p) => `${p.path}: ${p.reason}`);
  };
  const b = planetary.elements.find((e) => e.id === "TC")?.bench;
  it.each([
    [{ frictionPlateNewMm: b?.frictionPlateMinMm }, /elements\.1\.bench: a new friction plate is thicker/],
    [{ steelPlateNewMm: (b?.steelPlateMinMm ?? 0) - 0.01 }, /a new steel is not thinner/],
    [{ clearanceMm: [1.8, 0.9] }, /from the smaller to the larger/],
    [{ targetMm: (b?.clearanceMm[1] ?? 0) + 0.01 }, /the target lies inside/],
    [{ outerRadiusMm: b?.innerRadiusMm }, /outer radius is larger/],
    [{ innerRadiusMm: (b?.innerRadiusMm ?? 0) - 3 }, /its radii give a mean radius of 78\.\d mm, the file says 80/],
    // seven rings from 1.8 to 3.0 mm: with the deepest drum yet the thickest leaves 1.95, a hair more is too much
    [{ depthMm: 19.8 + 3 + 1.951 }, /no selective part brings the clearance into its window/],
    [{ depthMm: 19.8 + 1.8 + 0.749 }, /no selective part/],
  ])("%j is named", (bench, says) => {
    expect(with1(bench).join("; ")).toMatch(says);
  });
  it.each([
    [{ steelPlateNewMm: b?.steelPlateMinMm, depthMm: undefined }],
    [{ targetMm: b?.clearanceMm[1] }],
    [{ depthMm: 19.8 + 3 + 1.949 }],
    [{ depthMm: 19.8 + 1.8 + 0.751 }],
  ])("%j goes together", (bench) => {
    expect(with1(bench)).toEqual([]);
  });
  it("names clutches and forks that are not there", () => {
    const bench = {
      ...dual.bench,
      dualClutches: [{ ...dual.bench?.dualClutches?.[0], clutch: "K9" }],
      forkTravelMm: { F99: [8, 9] },
    };
    expect(checkUnit({ ...dual, bench } as unknown as Unit).map((p) => p.path)).toEqual([
      "bench.dualClutches.0.clutch",
      "bench.forkTravelMm.F99",
    ]);
  });
});

describe("checkUnit names place and reason", () => {
  const broken = (patch: (u: Unit) => object): string[] =>
    checkUnit({ ...planetary, ...patch(planetary) } as Unit).map((p) => `${p.path}: ${p.reason}`);
  it.each([
    [
      "an unknown element",
      (u: Unit) => ({ application: { ...u.application, "2": [{ element: "XX" }] } }),
      /application\.2: no element "XX"/,
    ],
    [
      "two gears alike",
      (u: Unit) => ({ application: { ...u.application, "2": u.application["1"] } }),
      /applies the same elements as gear 1/,
    ],
    [
      "solenoid states alike",
      (u: Unit) => ({ solenoidChart: { ...u.solenoidChart, "2": u.solenoidChart["1"] } }),
      /solenoidChart\.2: has the same states/,
    ],
    [
      "ratios that rise",
      (u: Unit) => ({ gears: u.gears.map((g) => (g.name === "2" ? { ...g, ratio: 5 } : g)) }),
      /forward ratios fall/,
    ],
    [
      "a positive reverse",
      (u: Unit) => ({ gears: u.gears.map((g) => (g.name === "R" ? { ...g, ratio: 3 } : g)) }),
      /reverse is negative/,
    ],
    [
      "usual times of a shift that is not there",
      (_u: Unit) => ({ usual: { shifts: { "5-99": { delay: { warmS: 0.2 }, inertia: {} } } } }),
      /usual\.shifts\.5-99: there is no shift "5-99"/,
    ],
    ["an element of neutral that is not there", (_u: Unit) => ({ neutral: ["Q"] }), /neutral\.0: no element "Q"/],
    [
      "a neutral that drives",
      (_u: Unit) => ({ neutral: ["TC", "HC"] }),
      /neutral: .*TC, HC applied the train is a gear/,
    ],
    [
      "a sensor on no shaft",
      (u: Unit) => ({ sensors: [{ ...u.sensors[0], shaft: "P9.sun" }] }),
      /sensors\.0\.shaft: .*no node "P9\.sun"/,
    ],
    ["a limp gear that is not there", (_u: Unit) => ({ limp: { gear: "9" } }), /limp\.gear: no gear "9"/],
    [
      "a net to nowhere",
      (u: Unit) => ({ nets: [{ ...u.nets[0], connects: ["nothing"] }] }),
      /nothing is called "nothing"/,
    ],
    ["a planetary unit without converter", (_u: Unit) => ({ converter: undefined }), /needs a converter/],
    [
      "a ring without whole planets",
      (u: Unit) => ({
        gearTrain: {
          ...u.gearTrain,
          sets: u.gearTrain?.sets.map((x) => (x.id === "P1" ? { ...x, ringTeeth: 82 } : x)),
        },
      }),
      /gearTrain\.sets\.0\.ringTeeth: .*no whole planet/,
    ],
    [
      "planets that do not stand evenly",
      (u: Unit) => ({
        gearTrain: { ...u.gearTrain, sets: u.gearTrain?.sets.map((x) => (x.id === "P1" ? { ...x, planets: 5 } : x)) },
      }),
      /gearTrain\.sets\.0\.planets: 5 planets do not stand evenly/,
    ],
    [
      "a ring smaller than its sun",
      (u: Unit) => ({ gearTrain: { ...u.gearTrain, sets: u.gearTrain?.sets.map((x) => ({ ...x, sunTeeth: 90 })) } }),
      /must have more teeth than the sun/,
    ],
    [
      "links in a circle",
      (u: Unit) => ({
        gearTrain: { ...u.gearTrain, links: [...(u.gearTrain?.links ?? []), ["P3.carrier", "output"]] },
      }),
      /gearTrain\.links\.5: .*run in a circle/,
    ],
    [
      "a link to no set",
      (u: Unit) => ({ gearTrain: { ...u.gearTrain, links: [...(u.gearTrain?.links ?? []), ["P9.ring", "P1.sun"]] } }),
      /gearTrain\.links\.5: there is no set "P9"/,
    ],
    [
      "a gear that ties up",
      (u: Unit) => ({ application: { ...u.application, "2": [...(u.application["2"] ?? []), { element: "LC" }] } }),
      /application\.2: TC \+ LB \+ LC tie the train up/,
    ],
    [
      "a gear without an element",
      (u: Unit) => ({ application: { ...u.application, "2": [{ element: "TC" }] } }),
      /application\.2: TC leave the output free/,
    ],
    [
      "a ratio that the teeth do not give",
      (u: Unit) => ({ gears: u.gears.map((g) => (g.name === "4" ? { ...g, ratio: 1.35 } : g)) }),
      /gears\.3\.ratio: 1\.35 stands against 1\.3273/,
    ],
    [
      "an element without a place in the train",
      (u: Unit) => ({ elements: u.elements.map(({ joins: _, ...e }) => e) }),
      /elements\.0: "LC" has no place in the gear train/,
    ],
    [
      "a limp gear that the valves do not give without power",
      (_u: Unit) => ({ limp: { gear: "3" } }),
      /limp\.gear: without power HC \+ TC is applied; gear 3 needs LC \+ TC/,
    ],
    [
      "bolts without positions",
      (u: Unit) => ({ fasteners: u.fasteners?.map((f) => ({ ...f, count: 3 })) }),
      /fasteners\.0\.positionsMm: 14 positions for 3 bolts/,
    ],
    ["one id used twice", (u: Unit) => ({ sensors: [...u.sensors, u.sensors[0]] }), /is used twice/],
  ])("%s", (_name, patch, message) => {
    expect(broken(patch).join("\n")).toMatch(message);
  });
});

describe("gear codes", () => {
  it("come back to the same name", () => {
    for (const name of ["1", "6", "10", "R"]) expect(gearName(gearCode(name))).toBe(name);
    expect(gearCode("N")).toBe(0);
    expect(gearCode("P")).toBe(0);
  });
  it("index the ratios, with NaN where there is no gear", () => {
    const table = ratioTable(planetary);
    expect(table[gearCode("4") + 1]).toBe(planetary.gears.find((g) => g.name === "4")?.ratio);
    expect(table[gearCode("R") + 1]).toBeLessThan(0);
    expect(table[1]).toBeNaN();
  });
});

describe("readChart", () => {
  it("finds the one element that covers all bad gears and no good one", () => {
    const reading = readChart(planetary, { "1": "good", "2": "bad", "3": "bad", "4": "bad", "5": "good", "6": "good" });
    expect(reading.explanations).toEqual([["TC"]]);
    expect(reading.cleared).toEqual(["LC", "HC", "SC", "LB"]);
  });
  it("falls back to pairs, and to nothing when good gears clear all", () => {
    expect(readChart(planetary, { "2": "bad", "6": "bad" }).explanations).toContainEqual(["TC", "SC"]);
    expect(
      readChart(planetary, { "1": "good", "2": "good", "3": "good", "4": "good", "5": "bad", "6": "good" })
        .explanations,
    ).toEqual([]);
  });
  it("never accuses an element that a good gear uses, and every explanation covers every bad gear", () => {
    const outcome = fc.constantFrom<GearOutcome>("good", "bad", "not-exercised");
    for (const unit of [planetary, dual]) {
      const gears = unit.gears.map((g) => g.name);
      fc.assert(
        fc.property(fc.tuple(...gears.map(() => outcome)), (list) => {
          const outcomes = Object.fromEntries(gears.map((g, i) => [g, list[i] as GearOutcome]));
          const { explanations } = readChart(unit, outcomes);
          for (const set of explanations) {
            for (const e of set) for (const g of gearsUsing(unit, e)) expect(outcomes[g]).not.toBe("good");
            for (const g of gears)
              if (outcomes[g] === "bad") expect(elementsIn(unit, g).some((e) => set.includes(e))).toBe(true);
          }
        }),
      );
    }
  });
});

it("siblings on nets are those that share a supply, not those with wires of their own", () => {
  expect(siblingsOnNets(planetary, "sen_output")).toEqual([{ id: "sen_turbine", nets: ["net_8v"] }]);
});
