// Guards: lines that were written late go back to their place, and a clock that was set back is not taken for one.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { lateRows } from "./in-order.ts";
import { buildRecording, openLog, proposeMapping } from "./index.ts";

const orderOf = (times: readonly number[]) => lateRows(Float64Array.from(times));
const even = (n: number) => Array.from({ length: n }, (_, i) => i * 0.1);

describe("rows that stand too late", () => {
  it("a log in order is left alone, equal times included", () => {
    expect(orderOf(even(50))).toBeUndefined();
    expect(orderOf([0, 0.1, 0.1, 0.2])).toBeUndefined();
  });
  it("any few swaps of neighbours are undone", () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 1, max: 18 }), { maxLength: 6 }).map((k) => k.map((x) => 10 * x)),
        (places) => {
          const times = even(200);
          for (const p of places) [times[p], times[p + 1]] = [times[p + 1] as number, times[p] as number];
          const found = orderOf(times);
          expect(found?.moved.length ?? 0).toBe(places.length);
          const sorted = found ? Array.from(found.order, (row) => times[row] as number) : times;
          expect(sorted).toEqual(even(200));
        },
      ),
    );
  });
  it.each([
    ["three lines", 3, true],
    ["four lines", 4, false],
  ])("%s behind the clock in a row: put back %s", (_, count, back) => {
    const times = even(60);
    const late = times.splice(20, count);
    times.splice(20 + 1, 0, ...late);
    expect(orderOf(times) !== undefined).toBe(back);
  });
  it.each([
    [1.9, true],
    [2.1, false],
  ])("a line %s s behind: put back %s", (byS, back) => {
    const times = even(100);
    times[50] = (times[49] as number) - byS;
    expect(orderOf(times) !== undefined).toBe(back);
  });
  it("a clock that is set back and goes on from there stays as it is", () => {
    expect(orderOf([...even(50), ...even(50).map((t) => t + 4)])).toBeUndefined();
  });
  it("a line without a time keeps to the line before it", () => {
    expect(Array.from(orderOf([0, 0.2, Number.NaN, 0.1, 0.3])?.order ?? [])).toEqual([0, 3, 1, 2, 4]);
  });
});

const log = (line: (t: number, i: number) => string, header: string) =>
  new TextEncoder().encode(`${header}\n${Array.from({ length: 200 }, (_, i) => line(i / 10, i)).join("\n")}\n`);
const record = (bytes: Uint8Array) => {
  const { table } = openLog(bytes);
  return buildRecording(table, proposeMapping(table));
};
/** The time of line i with the lines 50 and 51 changed over. */
const swapped = (i: number) => (i === 50 ? 51 : i === 51 ? 50 : i) / 10;

describe("a log with two lines changed over", () => {
  it("reads like the one in order, and says which line was moved", () => {
    const { channels, report } = record(log((_, i) => `${swapped(i)},${1000 + 10 * swapped(i)}`, "time_s,engine_rpm"));
    expect(Array.from(channels.get("engine_rpm")?.values ?? [])).toEqual(
      Array.from({ length: 200 }, (_, i) => 1000 + i),
    );
    expect(report.repairs).toEqual([{ what: expect.stringContaining("out of order"), count: 1, lines: [53] }]);
  });
  it("in long format as well", () => {
    const { channels } = record(
      log(
        (_, i) =>
          `${swapped(i)},${["Engine speed", "Turbine speed", "Output speed"][(swapped(i) * 10) % 3]},${1000 + 10 * swapped(i)}`,
        "time,name,value",
      ),
    );
    for (const [, { timeS, values }] of channels)
      timeS.forEach((t, i) => {
        expect(values[i]).toBeCloseTo(1000 + 10 * t, 6);
      });
  });
});
