// Guards: which measures of a shift are over the unit file's limits, and the order of the table.
import type { Shift } from "@gearsense/core/drive";
import type { Unit } from "@gearsense/core/unit";
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { overLimit, SHIFT_COLUMNS, shiftRows, usualWords } from "./shift-rows.ts";

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
  const all = { name: "", onlyOver: false };
  const some = fc.array(
    fc.record({
      name: fc.constantFrom("1-2", "2-3", "3-2"),
      commandS: fc.double({ min: 0, max: 900, noNaN: true }),
      delayS: fc.option(fc.double({ min: 0, max: 2, noNaN: true }), { nil: undefined }),
      completed: fc.boolean(),
    }),
  );
  it("sorting keeps every shift, in order, with what was not measured last", () => {
    fc.assert(
      fc.property(some, fc.constantFrom(...SHIFT_COLUMNS.map((c) => c.id)), fc.boolean(), (list, by, down) => {
        const shifts = list as unknown as Shift[];
        const rows = shiftRows(shifts, unit, { ...all, sort: { by, down } });
        expect(new Set(rows)).toEqual(new Set(shifts));
        const values = rows.map((r) => SHIFT_COLUMNS.find((c) => c.id === by)?.of(r));
        const known = values.filter((v) => v !== undefined);
        expect(values.slice(0, known.length)).toEqual(known);
        for (let i = 1; i < known.length; i++) {
          const [a, b] = [known[i - 1], known[i]] as [number | string, number | string];
          const order = typeof a === "string" ? a.localeCompare(String(b)) : a - Number(b);
          expect(down ? -order : order).toBeLessThanOrEqual(0);
        }
      }),
    );
  });
  it("filters by shift and by what is over a limit, and leaves the analysis as it is", () => {
    const shifts = [shift({ commandS: 2 }), shift({ commandS: 1, delayS: 9 }), shift({ name: "1-2", delayS: 9 })];
    const kept = [...shifts];
    const rows = shiftRows(shifts, unit, { name: "2-3", onlyOver: true, sort: { by: "at", down: false } });
    expect(rows.map((r) => r.commandS)).toEqual([1]);
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
