// Guards: how hard, how hot and under drive or coast a gear was good decides what it clears.
import { describe, expect, it } from "@jest/globals";
import { libraryUnit } from "../testing/units.ts";
import { circuitsOf, type GearObservation, readObservations, sharesByGear, type Unit } from "./index.ts";

const six = libraryUnit("brae-p6");
const four = libraryUnit("tarn-f4");
const good = (gear: string, torqueNm?: number, fluidC?: number): GearObservation => ({
  gear,
  outcome: "good",
  torqueNm,
  fluidC,
});
const bad = (gear: string, torqueNm?: number, fluidC?: number): GearObservation => ({
  gear,
  outcome: "bad",
  torqueNm,
  fluidC,
});

describe("torque", () => {
  // the high clutch carries 0.30 of the input torque in fourth and 0.60 in fifth
  it("clears by what the element carried, not by what the engine gave", () => {
    const share = (gear: string) => sharesByGear(six).get(gear)?.get("HC") ?? Number.NaN;
    const limit = (200 * share("5")) / share("4");
    expect(limit).toBeGreaterThan(330);
    expect(readObservations(six, [bad("5", 200), good("4", 250)]).cleared).not.toContain("HC");
    expect(readObservations(six, [bad("5", 200), good("4", limit)]).cleared).toContain("HC");
    expect(readObservations(six, [bad("4", 200), good("5", 120)]).cleared).toContain("HC");
  });
  it("a unit with ratios only goes by the engine's torque", () => {
    const { gearTrain: _, ...ratios } = six;
    expect(readObservations(ratios as Unit, [bad("5", 200), good("4", 210)]).cleared).toContain("HC");
  });
  it("where no torque was recorded, good is good", () => {
    expect(readObservations(six, [bad("5"), good("4")]).cleared).toContain("HC");
  });
});

describe("temperature", () => {
  it("cold driving does not clear what fails hot", () => {
    expect(readObservations(six, [bad("5", 100, 95), good("4", 300, 40)]).cleared).not.toContain("HC");
    expect(readObservations(six, [bad("5", 100, 95), good("4", 300, 90)]).cleared).toContain("HC");
  });
});

describe("drive and coast", () => {
  it("a first that fails under drive and holds on the over-run: the one-way clutch", () => {
    const reading = readObservations(four, [
      { gear: "1", outcome: "bad", torqueNm: 60, under: "drive" },
      { gear: "1", outcome: "good", torqueNm: 60, under: "coast" },
      good("2", 200),
      good("3", 200),
    ]);
    expect(reading.cleared).toEqual(expect.arrayContaining(["FC", "DC", "SB"]));
    expect(reading.explanations).toEqual([["OW"]]);
  });
});

describe("dual clutch", () => {
  const dry = libraryUnit("machair-d6");
  const slips = (gear: string, torqueNm: number) => ({ ...bad(gear, torqueNm), slips: true });
  it("a fork grips by its teeth: what slips in a gear is the clutch, even when another gear of it held more", () => {
    const reading = readObservations(dry, [slips("2", 160), good("4", 200), good("6", 90), good("3", 200)]);
    expect(reading.explanations).toEqual([["K2"]]);
    expect(reading.cleared).not.toContain("K2");
    expect(reading.cleared).toContain("K1");
  });
  it("a gear that was not obtained accuses its fork", () => {
    const reading = readObservations(dry, [bad("2"), good("6")]);
    expect(reading.explanations).toEqual([["F24"]]);
  });
});

it("an element comes with the solenoid and the wires that make it work", () => {
  expect(circuitsOf(six, ["HC"])).toEqual([{ element: "HC", solenoids: ["sol_HC"], nets: ["net_solbat"] }]);
});
