// Guards: odds of a moment that is being typed, by the ends of drawn runs; pieces of the days, bars that belong together.
import { describe, expect, it } from "@jest/globals";
import { daysShown, hoursShown, joined, liftHolds, segmentsOf } from "./segments.ts";
import { localWords, oddsAt } from "./when.ts";

const person = (week: unknown[]) => ({ id: "i", name: "Iona", skills: [], away: [], week }) as never;
const setup = (people: never[]) => ({ lifts: [], people, holidays: [], pins: [], crane: true }) as never;
const weekdays = [[480, 960], [480, 960], [480, 960], [480, 960], [420, 900], null, null];
const block = (jobId: string, startAt: string, endAt: string, lift: string | null = null) => ({
  jobId,
  people: ["i"],
  lift,
  startAt: `2026-11-30T${startAt}`,
  endAt: `2026-11-30T${endAt}`,
  steps: ["s"],
});

describe("odds of a moment", () => {
  const ends = ["2026-11-30T10:00", "2026-11-30T11:00", "2026-11-30T12:00", null];
  it("are the share of the runs that end by it: just before and just at", () => {
    expect(
      ["2026-11-30T09:59", "2026-11-30T10:00", "2026-11-30T11:59", "2027-01-01T00:00"].map((t) => oddsAt(ends, t)),
    ).toEqual([0, 0.2, 0.4, 0.6]);
    expect(oddsAt([], "2026-11-30T10:00")).toBeUndefined();
    expect(oddsAt(ends, "")).toBeUndefined();
  });
  it("stand beside the moment in words", () => {
    expect(localWords("2026-12-01T16:30")).toBe("Tue 1 Dec 16:30");
    expect(localWords("2026-12-01")).toBe("Tue 1 Dec");
    expect(localWords("soon")).toBe("soon");
  });
});

describe("the board of the week", () => {
  it("shows Monday to Friday, the weekend only where somebody works, from the first to the last", () => {
    const week = setup([person(weekdays)]);
    expect(daysShown("2026-12-02T10:00", 0, week)).toEqual([
      "2026-11-30",
      "2026-12-01",
      "2026-12-02",
      "2026-12-03",
      "2026-12-04",
    ]);
    expect(daysShown("2026-12-06T10:00", 1, setup([person([...weekdays.slice(0, 5), [480, 720], null])])).at(-1)).toBe(
      "2026-12-12",
    );
    expect(hoursShown(week)).toEqual([420, 960]);
    expect(hoursShown(setup([]))).toEqual([480, 1020]);
  });
  it("cuts a stretch into its days, and leaves out what lies outside the hours", () => {
    const days = ["2026-11-30", "2026-12-01"];
    expect(segmentsOf("2026-11-30T14:00", "2026-12-01T10:00", days, [480, 960])).toEqual([
      { day: "2026-11-30", from: 0.75, to: 1 },
      { day: "2026-12-01", from: 0, to: 0.25 },
    ]);
    expect(segmentsOf("2026-11-30T16:00", "2026-11-30T18:00", days, [480, 960])).toEqual([]);
    expect(segmentsOf("2026-12-05T08:00", "2026-12-05T10:00", days, [480, 960])).toEqual([]);
  });
  it("joins work on one job over short pauses: just under and just over forty minutes; another job parts it", () => {
    const ends = (...b: ReturnType<typeof block>[]) => joined(b).map((x) => [x.jobId, x.endAt.slice(11)]);
    expect(ends(block("a", "08:00", "09:00"), block("a", "09:40", "10:00"))).toEqual([["a", "10:00"]]);
    expect(ends(block("a", "08:00", "09:00"), block("a", "09:41", "10:00"))).toEqual([
      ["a", "09:00"],
      ["a", "10:00"],
    ]);
    expect(ends(block("a", "08:00", "09:00"), block("b", "09:00", "09:10"), block("a", "09:10", "10:00"))).toHaveLength(
      3,
    );
  });
  it("keeps a lift from the first to the last on it", () => {
    expect(
      liftHolds([block("a", "12:00", "13:00", "l"), block("a", "08:00", "09:00", "l"), block("a", "14:00", "15:00")]),
    ).toEqual([{ jobId: "a", lift: "l", startAt: "2026-11-30T08:00", endAt: "2026-11-30T13:00" }]);
  });
});
