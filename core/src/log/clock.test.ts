// Guards: moments however a scan tool writes them.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { buildRecording, openLog, proposeMapping, readClock } from "./index.ts";

describe("clock times", () => {
  it.each([
    ["9:41:00.25", 9 * 3600 + 41 * 60 + 0.25, false],
    ["09:41:00,250", 9 * 3600 + 41 * 60 + 0.25, false],
    ["41:00.5", 41 * 60 + 0.5, false],
    ["12:00:01 AM", 1, false],
    ["1:00:00 pm", 13 * 3600, false],
    ["1970-01-02T00:00:01.5Z", 86401.5, true],
    ["1970-01-02 00:00:01.5+01:00", 86401.5, true],
    ["02.01.1970 00:00:01", 86401, true],
    ["01/13/1970 00:00:00", 12 * 86400, true],
  ])("%s", (text, seconds, dated) => {
    expect(readClock(text)).toEqual({ seconds, dated });
  });
  it.each(["engine", "12", "1:2", "12:99x", "a:b:c", ""])("%s is none", (text) => {
    expect(readClock(text)).toBeUndefined();
  });
  it("a date and its clock are those of the calendar", () => {
    fc.assert(
      fc.property(fc.date({ min: new Date(0), max: new Date("2090-01-01"), noInvalidDate: true }), (date) => {
        expect(readClock(date.toISOString())?.seconds).toBeCloseTo(date.getTime() / 1000, 3);
      }),
    );
  });
});

describe("time columns", () => {
  const log = (moment: (t: number) => string, header = "Time") =>
    new TextEncoder().encode(
      `${header},Engine speed (rpm)\n${Array.from({ length: 60 }, (_, i) => `${moment(i / 4)},900`).join("\n")}\n`,
    );
  it.each([
    ["milliseconds since 1970", (t: number) => String(1_790_000_000_000 + t * 1000), "ms"],
    ["microseconds since 1970", (t: number) => String((1_790_000_000 + t) * 1e6), "µs"],
    ["days of a spreadsheet", (t: number) => String(46000 + t / 86400), "day"],
    [
      "dates over the end of a month",
      (t: number) => new Date(Date.UTC(2026, 0, 31, 23, 59, 55) + t * 1000).toISOString(),
      "s",
    ],
  ])("%s", (_name, moment, unit) => {
    const { table } = openLog(log(moment));
    const guess = proposeMapping(table);
    expect(guess[0]?.unit).toBe(unit);
    const { durationS, report } = buildRecording(table, guess);
    expect(durationS).toBeCloseTo(14.75, 2);
    expect(report.repairs).toEqual([]);
  });
});
