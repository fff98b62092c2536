// Guards: days and minutes to and fro, days off, what is left of a job, and that nothing missing is taken apart for.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import type { PlanStep } from "../procedure/index.ts";
import {
  DAY_MIN,
  dayNumber,
  dayOf,
  LICENCE,
  minutesTo,
  openDay,
  openDaysBefore,
  openDaysLater,
  type ShopSetup,
  shopFrom,
  shopJob,
  standsApart,
  timeAt,
  weekday,
} from "./index.ts";

const weekdays = [[480, 960], [480, 960], [480, 960], [480, 960], [480, 900], null, null] as const;
const setup = (over: Partial<ShopSetup> = {}): ShopSetup => ({
  lifts: [{ id: "a", name: "Lift" }],
  people: [{ id: "iona", name: "Iona", skills: [], week: weekdays, away: [] }],
  holidays: [],
  pins: [],
  crane: true,
  ...over,
});
/** A Monday. */
const MONDAY = "2026-11-30";
const step = (key: string, over: Partial<PlanStep> = {}): PlanStep => ({
  id: key,
  key,
  procedure: "p",
  title: key,
  place: "bench",
  minutes: [10, 20, 40],
  before: [],
  ...over,
});

describe("days", () => {
  it("know their weekday, and minutes go to and fro", () => {
    expect(weekday(dayNumber(MONDAY))).toBe(0);
    expect(weekday(dayNumber("1970-01-01"))).toBe(3);
    fc.assert(
      fc.property(fc.integer({ min: -100_000, max: 100_000 }), (min) => {
        expect(minutesTo(MONDAY, timeAt(MONDAY, min))).toBe(min);
        expect(dayOf(dayNumber(MONDAY) + Math.floor(min / DAY_MIN))).toBe(timeAt(MONDAY, min).slice(0, 10));
      }),
    );
    expect(timeAt(MONDAY, 25 * 60 + 5)).toBe("2026-12-01T01:05");
    expect(() => dayNumber("2026-13-01")).toThrow(/isn’t a day/);
  });
  it("that are open leave out weekends, holidays and days on which everybody is away", () => {
    const s = setup({
      holidays: [{ day: "2026-12-01", name: "" }],
      people: [
        {
          id: "iona",
          name: "Iona",
          skills: [],
          week: weekdays,
          away: [{ from: "2026-12-03", to: "2026-12-04", why: "" }],
        },
      ],
    });
    const open = ["2026-11-30", "2026-12-01", "2026-12-02", "2026-12-03", "2026-12-05"].map((d) =>
      openDay(s, dayNumber(d)),
    );
    expect(open).toEqual([true, false, true, false, false]);
    expect(openDaysLater(s, MONDAY, 2)).toBe("2026-12-07");
    expect(openDaysBefore(s, "2026-12-07", 2)).toBe(MONDAY);
    expect(openDaysLater(s, MONDAY, 0)).toBe(MONDAY);
  });
});

describe("working time of a shop", () => {
  it("is everybody's own hours without holidays and days away", () => {
    const s = setup({
      holidays: [{ day: "2026-12-01", name: "" }],
      people: [
        {
          id: "iona",
          name: "Iona",
          skills: ["x"],
          week: weekdays,
          away: [{ from: "2026-12-02", to: "2026-12-03", why: "" }],
        },
      ],
    });
    const { people, lifts } = shopFrom(s, MONDAY);
    expect(lifts).toEqual(["a"]);
    expect(people[0]?.working.slice(0, 3)).toEqual([
      [480, 960],
      [4 * DAY_MIN + 480, 4 * DAY_MIN + 900],
      [7 * DAY_MIN + 480, 7 * DAY_MIN + 960],
    ]);
  });
});

describe("what is left of a job", () => {
  const steps = [
    step("look"),
    step("off", { place: "under", removes: true, before: ["look"] }),
    step("mend", { before: ["off"], hazards: ["licensed"] }),
    step("on", { place: "under", undoneKey: "off", before: ["mend"], people: 2 }),
  ];
  const job = (done: string[], partsMin = 0) =>
    shopJob({
      id: "j",
      plan: { steps },
      done: new Set(done),
      fromMin: 100,
      partsMin,
      promisedMin: undefined,
      pinned: undefined,
      onLift: undefined,
    });
  it("are its tasks with their order, lift, people and licence", () => {
    const { tasks } = job(["look"]);
    expect(tasks.map((t) => [t.id, t.before, t.lift, t.people, t.skill])).toEqual([
      ["off", [], true, 1, undefined],
      ["mend", ["off"], false, 1, LICENCE],
      ["on", ["mend"], true, 2, undefined],
    ]);
  });
  it("is not begun before the parts are there; of a vehicle that is apart only the refit waits", () => {
    expect(job([], 500).tasks.map((t) => t.notBeforeMin)).toEqual([500, 500, 500, 500]);
    expect(job(["look", "off"], 500).tasks.map((t) => t.notBeforeMin)).toEqual([undefined, 500]);
    expect(job([], 100).tasks.map((t) => t.notBeforeMin)).toEqual([undefined, undefined, undefined, undefined]);
    expect(job([], Number.POSITIVE_INFINITY).tasks[0]?.notBeforeMin).toBe(Number.POSITIVE_INFINITY);
  });
  it("stands apart from the first thing that is off until nothing is left to do on the lift", () => {
    const apart = (...done: string[]) => standsApart({ steps }, new Set(done));
    expect([
      apart("look"),
      apart("look", "off"),
      apart("look", "off", "mend"),
      apart("look", "off", "mend", "on"),
    ]).toEqual([false, true, true, false]);
  });
});
