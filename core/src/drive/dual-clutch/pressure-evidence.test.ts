// Guards: what sets the pressure, what brings it up, a solenoid and a seal each leave another pattern of shares.
import { describe, expect, it } from "@jest/globals";
import { libraryUnit } from "../../testing/units.ts";
import type { AnalysedLog, PressureFollows } from "../index.ts";
import { pressureEvidence } from "./pressure-evidence.ts";

const unit = libraryUnit("corran-w7");
type Shares = Partial<Omit<PressureFollows, "id" | "seconds">>;
const log = (id: string, shares: Shares): AnalysedLog => {
  const none = { coldShare: undefined, warmShare: undefined, lowShare: undefined, highShare: undefined };
  const analysis = { pressures: [{ id, seconds: 20, ...none, ...shares }] };
  return { logId: "a", entryId: "a", analysis } as unknown as AnalysedLog;
};
const said = (...logs: AnalysedLog[]) => pressureEvidence(unit, logs).map((e) => [e.table, e.outcome, e.abnormal]);

describe("line pressure", () => {
  it.each<[string, Shares[], string]>([
    ["all of it", [{ coldShare: 1.01 }, { warmShare: 0.98, lowShare: 1, highShare: 0.97 }], "follows"],
    ["the same part cold and warm, little or much asked", [{ coldShare: 0.42 }, { warmShare: 0.42 }], "same-share"],
    ["less once the fluid is thin", [{ coldShare: 0.6 }, { warmShare: 0.45 }], "capped"],
    ["less where much is asked", [{ warmShare: 0.9, lowShare: 1, highShare: 0.7 }], "capped"],
  ])("%s", (_, shares, outcome) => {
    expect(said(...shares.map((s) => log("line", s)))).toEqual([["line-pressure", outcome, outcome !== "follows"]]);
  });
});

describe("pressure of a clutch", () => {
  it.each<[string, Shares[], string]>([
    ["as asked", [{ coldShare: 0.99 }, { warmShare: 1 }], "follows"],
    ["a seal that leaks the thinner fluid", [{ coldShare: 0.96 }, { warmShare: 0.7 }], "short-hot"],
    ["a solenoid that leaks", [{ coldShare: 0.5 }, { warmShare: 0.5 }], "short"],
    ["a solenoid that stays off", [{ coldShare: 0.01 }, { warmShare: 0.02 }], "none"],
    ["a solenoid that stays on", [{ warmShare: 2.3 }], "over"],
    ["short, never driven cold", [{ warmShare: 0.7 }], "short"],
  ])("%s", (_, shares, outcome) => {
    expect(said(...shares.map((s) => log("K1", s)))).toEqual([["clutch-pressure", outcome, outcome !== "follows"]]);
  });
});

it("what was not measured says nothing", () => {
  expect(
    pressureEvidence(unit, [{ logId: "a", entryId: "a", analysis: { pressures: [] } } as unknown as AnalysedLog]),
  ).toEqual([]);
});
