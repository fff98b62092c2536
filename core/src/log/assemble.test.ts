// Guards: logs cut to a span and joined behind each other; spans written as CSV and read again.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { recordingOf, timesOf } from "../testing/recordings.ts";
import {
  buildRecording,
  cutRecording,
  InputError,
  JOIN_GAP_S,
  joinRecordings,
  openLog,
  proposeMapping,
  writeSpan,
} from "./index.ts";

const make = (seconds: number, rateHz = 10) => {
  const t = timesOf(seconds, rateHz);
  return recordingOf(t, { engine_rpm: t.map((s) => 900 + s), fluid_c: t.map(() => 80) });
};

describe("cutting", () => {
  it("keeps exactly what lies within, from zero on, with one time base for channels that shared one", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 40, noNaN: true }),
        fc.double({ min: 10, max: 50, noNaN: true }),
        (from, length) => {
          const cut = cutRecording(make(100), [from, from + length]);
          const engine = cut.channels.get("engine_rpm");
          expect(cut.durationS).toBeCloseTo(length, 9);
          expect(engine?.timeS).toBe(cut.channels.get("fluid_c")?.timeS);
          expect(engine?.timeS[0]).toBeGreaterThanOrEqual(0);
          expect(engine?.timeS.at(-1)).toBeLessThanOrEqual(length + 1e-6);
          // values go with their moments: engine = 900 + s of the whole log
          for (let i = 0; i < (engine?.timeS.length ?? 0); i += 7)
            expect(engine?.values[i]).toBeCloseTo(900 + from + (engine?.timeS[i] as number), 6);
        },
      ),
      { numRuns: 40 },
    );
  });
  it("refuses a span that is too short to judge", () => {
    expect(() => cutRecording(make(60), [50, 55])).toThrow(InputError);
    expect(() => cutRecording(make(60), [50, 55])).toThrow(/holds 5\.0 s/);
  });
});

describe("joining", () => {
  it("puts one behind the other with a gap, and loses no reading", () => {
    const [a, b] = [make(30), make(20, 20)];
    const joined = joinRecordings([a, b]);
    const engine = joined.channels.get("engine_rpm");
    expect(joined.durationS).toBeCloseTo(a.durationS + JOIN_GAP_S + b.durationS, 9);
    expect(engine?.values).toHaveLength(301 + 401);
    expect(engine?.timeS[301]).toBeCloseTo(a.durationS + JOIN_GAP_S, 9);
    for (let i = 1; i < 702; i++) expect(engine?.timeS[i]).toBeGreaterThan(engine?.timeS[i - 1] as number);
    expect(engine?.rateHz).toBeCloseTo(10, 6);
    expect(joined.report.rows).toBe(702);
  });
  it("a channel that one lacks is there where it was recorded", () => {
    const t = timesOf(20, 10);
    const joined = joinRecordings([make(20), recordingOf(t, { engine_rpm: t.map(() => 1000) })]);
    expect(joined.channels.get("fluid_c")?.values).toHaveLength(201);
    expect(joined.channels.get("engine_rpm")?.values).toHaveLength(402);
  });
  it("one alone stays as it is", () => {
    const one = make(20);
    expect(joinRecordings([one])).toBe(one);
  });
});

describe("a span as CSV", () => {
  it("reads back to the same readings, and holds nothing that a spreadsheet takes for a formula", () => {
    const t = timesOf(40, 10);
    const recording = recordingOf(t, {
      engine_rpm: t.map((s, i) => (i === 150 ? Number.NaN : 900 + s)),
      engine_torque_nm: t.map((s) => -5 * Math.sin(s)),
    });
    const text = writeSpan(recording, 10, 30);
    for (const line of text.trim().split("\n").slice(1))
      for (const cell of line.split(",")) expect(cell).toMatch(/^$|^-?[0-9.]+(e-?\d+)?$/);
    const { table } = openLog(new TextEncoder().encode(text));
    const again = buildRecording(table, proposeMapping(table));
    const engine = again.channels.get("engine_rpm");
    expect(engine?.values).toHaveLength(200);
    expect(engine?.values[0]).toBeCloseTo(910, 9);
    expect(again.channels.get("engine_torque_nm")?.values[7]).toBeCloseTo(-5 * Math.sin(10.7), 9);
  });
});
