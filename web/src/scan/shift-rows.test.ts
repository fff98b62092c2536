// Guards: which measures of a shift are over the unit file's limits, and the order of the table.
import type { Shift } from "@gearsense/core/drive";
import type { Unit } from "@gearsense/core/unit";
import { describe, expect, it } from "@jest/globals";
import { overLimit, shownShifts, usualWords } from "./shift-rows.ts";

const limit = { inertiaS: [0.2, 0.7], flareRpm: 90, delayS: 0.4 } as const;
const unit = { limits: { shiftDefault: limit } } as unknown as Unit;
const shift = (patch: Partial<Shift>) =>
  ({ name: "2-3", commandS: 0, completed: true, underPower: true, ...patch }) as Shift;

describe("over the limit", () => {
  it.each<[string, Partial<Shift>, string[]]>([
    ["nothing at the limits", { delayS: limit.delayS, inertiaS: limit.inertiaS[1], flareRpm: limit.flareRpm }, []],
    ["delay", { delayS: limit.delayS + 0.01 }, ["delay"]],
    ["inertia phase", { inertiaS: limit.inertiaS[1] + 0.01 }, ["inertia"]],
    ["flare under power", { flareRpm: limit.flareRpm + 1 }, ["flare"]],
    ["a flare on the over-run isn't marked", { flareRpm: limit.flareRpm + 1, underPower: false }, []],
    ["a shift that was not made", { completed: false }, ["name"]],
  ])("%s", (_, patch, over) => {
    expect([...overLimit(shift(patch), unit)]).toEqual(over);
  });
  it("a shift has its own limit before the default", () => {
    const own = { ...unit, limits: { ...unit.limits, shifts: { "2-3": { ...limit, delayS: 9 } } } };
    expect(overLimit(shift({ delayS: 5 }), own).size).toBe(0);
  });
});

describe("rows", () => {
  it("are filtered by shift and by what is over a limit, and the analysis stays as it is", () => {
    const shifts = [shift({ commandS: 2 }), shift({ commandS: 1, delayS: 9 }), shift({ name: "1-2", delayS: 9 })];
    const kept = [...shifts];
    const rows = shownShifts(shifts, unit, { name: "2-3", onlyOver: true });
    expect(rows.map((r) => r.commandS)).toEqual([1]);
    expect(shownShifts(shifts, unit, { name: "", onlyOver: false })).toEqual(kept);
    expect(shifts).toEqual(kept);
  });
});

describe("beside what is usual", () => {
  const usual = { shifts: { "2-3": { delay: { coldS: 0.25, warmS: 0.2 }, inertia: { warmS: 0.3 } } } };
  const known = { ...unit, usual } as Unit;
  const up = (patch: Partial<Shift>) => shift({ from: "2", to: "3", measured: true, fluidC: 80, ...patch });
  const words = (s: Shift, of = known) => usualWords(s, of, (x) => `${x.toFixed(2)} s`);
  it.each<[string, Partial<Shift>, string[]]>([
    [
      "late and short",
      { delayS: 0.32, inertiaS: 0.25 },
      ["Answers 0.12 s later than usual (0.20 s warm)", "Takes 0.05 s less than usual (0.30 s warm)"],
    ],
    ["as usual", { delayS: 0.203 }, ["Answers as usual (0.20 s warm)"]],
    [
      "cold, where only the delay is known",
      { fluidC: 20, delayS: 0.2, inertiaS: 9 },
      ["Answers 0.05 s earlier than usual (0.25 s cold)"],
    ],
    ["on the over-run", { delayS: 0.9, underPower: false }, []],
    ["without temperature", { delayS: 0.9, fluidC: undefined }, []],
    ["downwards", { delayS: 0.9, from: "3", to: "2" }, []],
  ])("%s", (_, patch, said) => {
    expect(words(up(patch))).toEqual(said);
  });
  it("a unit without usual times says nothing", () => {
    expect(words(up({ delayS: 0.9 }), unit)).toEqual([]);
  });
});
