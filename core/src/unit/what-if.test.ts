// Guards: what each command gives when something sticks, and the way back from what was obtained to what sticks.
import { describe, expect, it } from "@jest/globals";
import { libraryUnit } from "../testing/units.ts";
import { checkUnit, explainObtained, SHIFT_VALVES, stuckCandidates, type Unit, whatIf } from "./index.ts";

const four = libraryUnit("tarn-f4");
const six = libraryUnit("brae-p6");
const dual = libraryUnit("corran-w7");
const obtained = (unit: Unit, component: string, state: "applied" | "released") =>
  Object.fromEntries(
    whatIf(unit, { component, state }).map(({ commanded, obtained: o }) => [
      commanded,
      o.kind === "gear" ? o.gear : o.kind,
    ]),
  );

describe("what if", () => {
  it("an element that stays released leaves its gears without drive and the others as they are", () => {
    expect(obtained(six, "TC", "released")).toEqual({
      "1": "1",
      "2": "neutral",
      "3": "neutral",
      "4": "neutral",
      "5": "5",
      "6": "6",
      R: "R",
    });
  });
  it("an element that stays applied ties up every gear that does without it", () => {
    expect(obtained(six, "TC", "applied")).toMatchObject({ "1": "tie-up", "2": "2", "4": "4", "6": "tie-up" });
  });
  it("asked for a solenoid, answers for the element that it feeds", () => {
    expect(obtained(six, "sol_HC", "released")).toEqual(obtained(six, "HC", "released"));
  });
  it("a one-way clutch takes over where its unit would idle: third falls to first, without the direct clutch", () => {
    expect(obtained(four, "DC", "released")).toEqual({ "1": "1", "2": "2", "3": "1", "4": "neutral", R: "R" });
    expect(obtained(four, "SB", "released")).toMatchObject({ "2": "1" });
    expect(obtained(four, "OW", "released")).toMatchObject({ "1": "neutral", "2": "2" });
  });
  it("without teeth the chart tells as much: a missing element carries nothing, one too many fights", () => {
    const { gearTrain: _, ...ratios } = six;
    expect(obtained(ratios as Unit, "HC", "released")).toEqual(obtained(six, "HC", "released"));
    expect(obtained(ratios as Unit, "TC", "applied")).toMatchObject({
      "1": "tie-up",
      "4": "4",
      "5": "tie-up",
      "6": "tie-up",
    });
  });
  describe("two solenoids that switch the shift valves together", () => {
    const { gearTrain: _, ...ratios } = four;
    const rows = { "1": [1, 1], "2": [0, 1], "3": [0, 0], "4": [1, 0], R: [1, 1] } as const;
    const solenoid = (id: string) => ({
      ...(four.solenoids[0] as Unit["solenoids"][number]),
      id,
      name: id,
      feeds: SHIFT_VALVES,
    });
    const pair: Unit = {
      ...(ratios as Unit),
      solenoids: [solenoid("sol_A"), solenoid("sol_B")],
      solenoidChart: Object.fromEntries(
        Object.entries(rows).map(([g, [a, b]]) => [g, { sol_A: a ? "on" : "off", sol_B: b ? "on" : "off" }]),
      ),
      limp: { gear: "3" },
      nets: [],
      codes: [],
      adaptations: [],
      elements: ratios.elements.map(({ joins: _j, ...e }) => e) as Unit["elements"],
    };
    it("make the gear that the chart has for the states left", () => {
      expect(obtained(pair, "sol_A", "released")).toMatchObject({ "1": "2", "2": "2", "3": "3", "4": "3", R: "R" });
      expect(obtained(pair, "sol_B", "applied")).toMatchObject({ "1": "1", "2": "2", "3": "2", "4": "1" });
    });
    it("are found from the gears that came", () => {
      const seen = [
        ["1", "2"],
        ["2", "2"],
        ["3", "3"],
        ["4", "3"],
      ] as const;
      expect(
        explainObtained(
          pair,
          seen.map(([commanded, o]) => ({ commanded, obtained: o })),
        ).map((x) => x.stuck),
      ).toContainEqual({
        component: "sol_A",
        state: "released",
      });
    });
    it("may be described in a unit file: reverse shares its states, all off is the limp gear", () => {
      expect(checkUnit(pair)).toEqual([]);
      expect(checkUnit({ ...pair, limp: { gear: "2" } }).map((p) => p.path)).toEqual(["limp.gear"]);
    });
  });
  it("a fork that holds the other shaft's gear leaves the driven one alone; on the same shaft it ties up", () => {
    const rows = whatIf(dual, { component: "F57", state: "applied", towards: "5" });
    const of = (gear: string) => rows.find((r) => r.commanded === gear)?.obtained.kind;
    expect(of("2")).toBe("gear");
    expect(of("3")).toBe("tie-up");
  });
});

describe("from commanded and obtained gears to what sticks", () => {
  it("third commanded, first obtained, with the rest as commanded: the direct clutch and its solenoid", () => {
    const found = explainObtained(four, [
      { commanded: "1", obtained: "1" },
      { commanded: "2", obtained: "2" },
      { commanded: "3", obtained: "1" },
    ]);
    expect(found).toEqual([{ stuck: { component: "DC", state: "released" }, solenoids: ["sol_DC"] }]);
  });
  it("names the culprit of every single thing that can stick, from what it gives", () => {
    for (const unit of [four, six, libraryUnit("fell-e8"), libraryUnit("crag-t10")]) {
      for (const stuck of stuckCandidates(unit)) {
        const seen = whatIf(unit, stuck).flatMap(({ commanded, obtained: o }) =>
          o.kind === "gear"
            ? [{ commanded, obtained: o.gear }]
            : o.kind === "neutral"
              ? [{ commanded, obtained: "N" }]
              : [],
        );
        // what changes nothing that can be driven looks like health
        if (seen.length === 0 || seen.every((s) => s.commanded === s.obtained)) continue;
        expect(explainObtained(unit, seen).map((e) => e.stuck)).toContainEqual(stuck);
      }
    }
  });
  it("explains nothing that contradicts itself", () => {
    expect(explainObtained(six, [{ commanded: "1", obtained: "6" }])).toEqual([]);
    expect(explainObtained(six, [])).toEqual([]);
  });
});
