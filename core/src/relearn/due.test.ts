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
