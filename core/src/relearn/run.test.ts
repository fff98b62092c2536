// Guards: a procedure goes on when its conditions hold, stops where it must, tells what is missing, and what a code means.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { libraryUnit, libraryUnits } from "../testing/units.ts";
import type { LiveCondition, RelearnMachine } from "../unit/index.ts";
import { judgeCondition } from "./conditions.ts";
import {
  advanceRelearn,
  beginRelearn,
  codeOfWord,
  driveMissing,
  type RelearnEvent,
  type RelearnState,
  wantedOf,
} from "./index.ts";

const brae = libraryUnit("brae-p6");
const machineOf = (kind: string, unit = brae) =>
  unit.relearn?.find((r) => r.machine?.kind === kind)?.machine as RelearnMachine;
const standing = machineOf("stationary");
const road = machineOf("drive-cycle");

const HOLDS = { engine_rpm: 700, vehicle_kmh: 0, range: 1, brake_on: 1, fluid_c: 75, supply_v: 14, codes: 0 };
const live = (
  timeS: number,
  more: Record<string, number> = {},
  routine?: { state: "running" | "done" | "stopped" | "failed"; code: number; element?: number },
): RelearnEvent => ({
  kind: "live",
  timeS,
  values: new Map(Object.entries({ ...HOLDS, ...more })),
  routine: routine && { element: 0, ...routine },
});
const go = (machine: RelearnMachine, state: RelearnState, ...events: RelearnEvent[]) =>
  events.reduce((s, e) => advanceRelearn(machine, brae, s, e), state);
const stageAt = (m: RelearnMachine, s: RelearnState) => m.stages[s.stage]?.id;

describe("a condition", () => {
  const fluid: LiveCondition = { say: "Fluid", channel: "fluid_c", between: [60, 95] };
  const at = (c: LiveCondition, v: number) => judgeCondition(c, new Map([[c.channel, v]])).holds;
  it.each([
    [60, true],
    [59.9, false],
    [95, true],
    [95.1, false],
  ])("of 60 to 95 at %d: %s", (v, holds) => {
    expect(at(fluid, v)).toBe(holds);
  });
  it("of a word is judged by the word; what is not read is not judged", () => {
    const lever: LiveCondition = { say: "Lever", channel: "range", is: ["P", "N"] };
    expect([1, 2, 3, 4].map((v) => at(lever, v))).toEqual([true, false, true, false]);
    expect(judgeCondition(lever, new Map([["range", 4]])).word).toBe("D");
    expect(judgeCondition(fluid, new Map()).holds).toBeUndefined();
    expect(at(fluid, Number.NaN)).toBeUndefined();
  });
});

describe("a standing routine", () => {
  const begun = () => go(standing, beginRelearn(standing, 10), { kind: "asked" }, { kind: "granted" });
  it("asks for its start once, then waits for the lever", () => {
    const fresh = beginRelearn(standing, 10);
    expect(wantedOf(standing, fresh)).toBe("start");
    expect(wantedOf(standing, go(standing, fresh, { kind: "asked" }))).toBeUndefined();
    const s = begun();
    expect(stageAt(standing, s)).toBe("to-d");
    expect(stageAt(standing, go(standing, s, live(11)))).toBe("to-d");
    expect(stageAt(standing, go(standing, s, live(11), live(12, { range: 4 })))).toBe("first");
  });
  it("goes through to the end as the routine asks", () => {
    let s = go(standing, begun(), live(12, { range: 4 }), live(20, { range: 4, routine_lever: 3 }));
    s = go(standing, s, live(21, { range: 3 }), live(30, { range: 3, routine_lever: 1 }), live(31, { range: 1 }));
    expect(stageAt(standing, s)).toBe("result");
    s = go(standing, s, live(32, { routine_state: 2 }, { state: "done", code: 1 }));
    expect(wantedOf(standing, s)).toBe("read");
    s = go(standing, s, { kind: "learned", values: { fill_LC: 100, fill_TC: 110 } });
    expect(s.end).toMatchObject({ outcome: "done", ends: "done", say: "The routine is done" });
  });
  it("is over when the brake is let go, whichever tells first", () => {
    const guard = go(standing, begun(), live(12, { brake_on: 0 }));
    expect(guard.end).toMatchObject({ outcome: "aborted", ends: "again" });
    expect(guard.end?.say).toMatch(/brake was released/);
    const told = go(standing, begun(), live(12, {}, { state: "stopped", code: 0x11 }));
    expect(told.end).toMatchObject({ outcome: "aborted", ends: "again", code: 0x11 });
  });
  it("that fails names its part and what is done about it", () => {
    const s = go(standing, begun(), live(12, { range: 4 }, { state: "failed", code: 0x21, element: 2 }));
    expect(s.end).toMatchObject({ outcome: "failed", ends: "repair", code: 0x21, element: brae.elements[1]?.id });
    expect(s.end?.say).toContain(`A clutch does not fill (${brae.elements[1]?.id})`);
    const strange = go(standing, begun(), live(12, {}, { state: "failed", code: 0x7a }));
    expect(strange.end?.say).toMatch(/0x7A, which the unit file does not explain/);
  });
  it("waits for a stage as long as it says, no longer", () => {
    expect(go(standing, begun(), live(50)).end).toBeUndefined();
    expect(go(standing, begun(), live(50.1)).end).toMatchObject({ outcome: "aborted" });
    expect(go(standing, begun(), live(50.1)).end?.say).toMatch(/Move the lever to D.*longer than 40 s/);
  });
  it("that is refused or given up says why; a value at its limit is a repair", () => {
    const refused = go(
      standing,
      beginRelearn(standing, 0),
      { kind: "asked" },
      { kind: "refused", why: "it is too cold" },
    );
    expect(refused.end).toMatchObject({ outcome: "failed", say: "it is too cold", ends: "again" });
    expect(go(standing, begun(), { kind: "given-up", why: "Ended" }).end).toMatchObject({
      outcome: "aborted",
      say: "Ended",
    });
    const reading = { ...begun(), stage: standing.stages.length - 1 };
    const [low, high] = brae.adaptations?.find((a) => a.id === "fill_TC")?.limits ?? [0, 0];
    for (const [v, outcome] of [
      [low, "failed"],
      [low + 1, "done"],
      [high - 1, "done"],
      [high, "failed"],
    ] as const)
      expect(go(standing, reading, { kind: "learned", values: { fill_TC: v } }).end?.outcome).toBe(outcome);
    expect(go(standing, reading, { kind: "learned", values: { fill_TC: high } }).end).toMatchObject({
      element: "TC",
      ends: "repair",
    });
  });
  it("without a link goes on by word, and ends by what the other tool told", () => {
    const all = standing.stages.reduce((s) => go(standing, s, { kind: "confirmed" }), beginRelearn(standing, 0));
    expect(all.end?.outcome).toBe("done");
    const half = go(standing, beginRelearn(standing, 0), { kind: "confirmed" });
    expect(go(standing, half, { kind: "told", code: 0x01 }).end?.outcome).toBe("done");
    expect(go(standing, half, { kind: "told", code: 0x22 }).end).toMatchObject({ outcome: "failed", ends: "repair" });
  });
  it("that is over stays as it is, whatever comes", () => {
    const over = go(standing, begun(), live(12, { brake_on: 0 }));
    expect(go(standing, over, live(13), { kind: "confirmed" }, { kind: "told", code: 1 })).toBe(over);
  });
  it("holds what is to hold without a break", () => {
    const halt = road.stages.findIndex((s) => s.id === "halt");
    const s = { ...beginRelearn(road, 0), stage: halt };
    expect(stageAt(road, go(road, s, live(1), live(1.9)))).toBe("halt");
    expect(stageAt(road, go(road, s, live(1), live(1.5, { vehicle_kmh: 3 }), live(2.1), live(3)))).toBe("halt");
    expect(stageAt(road, go(road, s, live(1), live(2)))).toBe("end");
  });
});

describe("a drive-cycle", () => {
  const windows = road.stages.find((s) => s.windows)?.windows ?? [];
  const driving = (): RelearnState => go(road, beginRelearn(road, 0), { kind: "asked" }, { kind: "granted" });
  const shift = (t: number, from: number, to: number, pedal_pct: number, fluid_c = 80) => [
    live(t, { gear_commanded: from, pedal_pct, vehicle_kmh: 30, fluid_c }),
    live(t + 0.1, { gear_commanded: to, pedal_pct, vehicle_kmh: 30, fluid_c }),
  ];
  const count = (s: RelearnState, name: string, foot: string) =>
    s.drive.filled[windows.findIndex((w) => w.shift === name && w.foot === foot)];
  it.each([
    [8, 1],
    [7.9, 0],
    [35, 1],
    [35.1, 0],
  ])("a 3-4 at %d %% of the pedal counts %i at light foot", (pedal, n) => {
    expect(count(go(road, driving(), ...shift(1, 3, 4, pedal)), "3-4", "at light foot")).toBe(n);
  });
  it("counts no downshift, none out of its temperature, and one of two feet in both windows", () => {
    expect(count(go(road, driving(), ...shift(1, 4, 3, 20)), "3-4", "at light foot")).toBe(0);
    expect(count(go(road, driving(), ...shift(1, 3, 4, 20, 49)), "3-4", "at light foot")).toBe(0);
    const both = go(road, driving(), ...shift(1, 1, 2, 32));
    expect([count(both, "1-2", "at light foot"), count(both, "1-2", "at medium foot")]).toEqual([1, 1]);
  });
  it.each([
    [31, 0, 1],
    [29, 0, 0],
    [31, 5, 0],
  ])("rolled from %d km/h with %d %% of the pedal: %i stops", (kmh, pedal_pct, n) => {
    const s = go(
      road,
      driving(),
      live(1, { vehicle_kmh: kmh, pedal_pct }),
      live(5, { vehicle_kmh: 12, pedal_pct }),
      live(9, { vehicle_kmh: 0, pedal_pct }),
      live(10, { vehicle_kmh: 0, pedal_pct }),
    );
    expect(s.drive.filled[windows.findIndex((w) => w.shift === "stop")]).toBe(n);
  });
  it("tells what is missing, the emptiest first, and goes on once nothing is", () => {
    let s = go(road, driving(), ...shift(1, 3, 4, 20));
    expect(driveMissing(s.drive, windows)).toContain("3-4 at light foot, 2 more");
    expect(driveMissing(s.drive, windows).at(-1)).toBe("3-4 at light foot, 2 more");
    for (const w of windows)
      for (let k = 0; k < w.times; k++) {
        const pedal = w.pedalPct[0] + 1;
        const [from, to] = w.shift.split("-").map(Number);
        s =
          w.shift === "stop"
            ? go(road, s, live(2, { vehicle_kmh: 40, pedal_pct: 0 }), live(3, { vehicle_kmh: 0, pedal_pct: 0 }))
            : go(road, s, ...shift(2, from as number, to as number, pedal));
      }
    expect(stageAt(road, s)).toBe("halt");
  });
  it("ends too hot just over its limit", () => {
    expect(go(road, driving(), live(1, { fluid_c: 120 })).end).toBeUndefined();
    expect(go(road, driving(), live(1, { fluid_c: 120.1 })).end?.say).toMatch(/too hot/);
  });
});

it("every procedure of the library can be gone through by word, and no row of readings breaks one", () => {
  for (const unit of libraryUnits())
    for (const { machine } of unit.relearn ?? []) {
      if (!machine) continue;
      const by = machine.stages.reduce(
        (s) => advanceRelearn(machine, unit, s, { kind: "confirmed" }),
        beginRelearn(machine, 0),
      );
      expect(by.end?.outcome).toBe("done");
      fc.assert(
        fc.property(
          fc.array(
            fc.dictionary(
              fc.constantFrom(
                "range",
                "brake_on",
                "fluid_c",
                "vehicle_kmh",
                "routine_state",
                "pedal_pct",
                "gear_commanded",
              ),
              fc.double(),
            ),
          ),
          (rows) => {
            let s = beginRelearn(machine, 0);
            rows.forEach((r, i) => {
              const next = advanceRelearn(machine, unit, s, {
                kind: "live",
                timeS: i,
                values: new Map(Object.entries(r)),
              });
              // it never goes back
              expect(next.stage).toBeGreaterThanOrEqual(s.stage);
              s = next;
            });
          },
        ),
        { numRuns: 30 },
      );
    }
});

describe.each(
  libraryUnits().flatMap((unit) =>
    (unit.relearn ?? []).flatMap(({ id, machine }) => (machine ? [[`${unit.id} ${id}`, unit, machine] as const] : [])),
  ),
)("%s", (_, unit, machine) => {
  /** A value that holds, and some that do not. */
  const about = (c: LiveCondition): readonly [number, readonly number[]] => {
    if (c.between) {
      const step = c.between[0] === c.between[1] ? 1 : 0.1;
      return [c.between[0], [c.between[0] - step, c.between[1] + step]];
    }
    const holds = codeOfWord(c.channel, c.is?.[0] ?? "") ?? Number.NaN;
    return [holds, [1, 2, 3, 4].filter((v) => v !== holds)];
  };
  it("each condition before it holds inside its window and not just outside", () => {
    for (const c of machine.preconditions) {
      const [good, bad] = about(c);
      const at = (v: number) => judgeCondition(c, new Map([[c.channel, v]])).holds;
      expect([c.say, at(good), bad.map(at)]).toEqual([c.say, true, bad.map(() => false)]);
    }
  });
  it("each guard that is broken ends it in its own words, in whatever stage", () => {
    const sound = new Map(machine.guards.map((g) => [g.channel, about(g)[0]]));
    machine.stages.forEach((_stage, stage) => {
      for (const g of machine.guards)
        for (const bad of about(g)[1]) {
          const s = advanceRelearn(
            machine,
            unit,
            { ...beginRelearn(machine, 0), stage },
            {
              kind: "live",
              timeS: 1,
              values: new Map([...sound, [g.channel, bad]]),
            },
          );
          expect(s.end).toMatchObject({ outcome: "aborted", say: g.broken });
        }
    });
  });
  it("each code that it may end with says what happened and what is next", () => {
    for (const r of machine.results.filter((x) => x.ends !== "done")) {
      const told = advanceRelearn(machine, unit, beginRelearn(machine, 0), { kind: "told", code: r.code });
      expect(told.end).toMatchObject({ say: r.say, next: r.next, ends: r.ends });
    }
  });
});
