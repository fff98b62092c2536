// Guards: when a relearn is due and when it is driven first.
import { describe, expect, it } from "@jest/globals";
import { generateRepairs } from "../suspect/index.ts";
import { libraryKnowledge, libraryUnit, libraryUnits } from "../testing/units.ts";
import { relearnAfter } from "./index.ts";

const knowledge = libraryKnowledge();
const brae = libraryUnit("brae-p6");
const policy = (id: string, burnt = false, unit = brae) =>
  relearnAfter(
    unit,
    generateRepairs(unit, knowledge).filter((r) => r.id === id),
    burnt,
  )?.policy;

describe("relearn after a repair", () => {
  it.each([
    ["rebuild:HC", "required"],
    ["rebuild-again:HC", "required"],
    ["solenoid:sol_HC", "required"],
    ["solenoid-again:sol_HC", "required"],
    ["valve-body", "required"],
    ["control-unit", "required"],
    ["exchange", "required"],
    ["fluid", "drive-first"],
    ["fill", "drive-first"],
    ["mount", undefined],
    ["harness:net_output", undefined],
  ] as const)("%s: %s", (id, expected) => {
    expect(policy(id)).toBe(expected);
  });
  it("a fluid change after burnt fluid counts as a part", () => {
    expect(policy("fluid", true)).toBe("required");
    expect(policy("mount", true)).toBeUndefined();
  });
  it("gives way to what was read: values that fit new parts are driven first, just under 45 % of the way", () => {
    const rebuilt = generateRepairs(brae, knowledge).filter((r) => r.id === "rebuild:TC");
    const read = (fill_TC: number) => relearnAfter(brae, rebuilt, false, { learned: { fill_TC } });
    // 105 (new) to 180 ms
    expect(read(138.7)).toMatchObject({ policy: "drive-first", why: "The learned values fit new parts." });
    expect(read(138.8)).toMatchObject({ policy: "required", why: "Still learned from the old parts: Fill time TC." });
    expect(relearnAfter(brae, rebuilt, false)).toMatchObject({ policy: "required", why: "" });
  });
  it("gives way to what was driven: ten shifts inside are left alone, one outside asks for it", () => {
    const rebuilt = generateRepairs(brae, knowledge).filter((r) => r.id === "rebuild:TC");
    const serviced = generateRepairs(brae, knowledge).filter((r) => r.id === "fluid");
    const drove = (repairs: typeof rebuilt, made: number, outside: string[] = []) =>
      relearnAfter(brae, repairs, false, { learned: { fill_TC: 170 }, shifts: { made, outside } })?.policy;
    expect([drove(rebuilt, 9), drove(rebuilt, 10), drove(rebuilt, 10, ["flare:2-3"])]).toEqual([
      "required",
      "leave",
      "required",
    ]);
    expect([drove(serviced, 9), drove(serviced, 10), drove(serviced, 3, ["flare:2-3"])]).toEqual([
      "drive-first",
      "leave",
      "required",
    ]);
    // what the unit file requires is done whatever was driven
    const dual = libraryUnit("corran-w7");
    const exchanged = generateRepairs(dual, knowledge).filter((r) => r.id === "exchange");
    expect(relearnAfter(dual, exchanged, false, { shifts: { made: 50, outside: [] } })?.policy).toBe("required");
  });
  it("takes its steps from the unit file, and says nothing where there are none", () => {
    for (const unit of libraryUnits()) {
      const advice = relearnAfter(
        unit,
        generateRepairs(unit, knowledge).filter((r) => r.id === "exchange"),
        false,
      );
      const own = unit.relearn?.filter((r) => r.machine?.kind !== "write-back");
      expect(advice?.procedures).toEqual(own);
    }
    const kinds = (id: string) =>
      relearnAfter(
        brae,
        generateRepairs(brae, knowledge).filter((r) => r.id === id),
        false,
      )?.procedures.map((p) => p.machine?.kind);
    // noted values fit a new control unit; a drive first after a service
    expect(kinds("control-unit")).toEqual(["stationary", "drive-cycle", "write-back"]);
    expect(kinds("fluid")).toEqual(["stationary", "drive-cycle"]);
    const { relearn: _, ...bare } = brae;
    expect(policy("exchange", false, bare as typeof brae)).toBeUndefined();
  });
});
