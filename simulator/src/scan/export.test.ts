// Guards: whatever dialect the simulated scan tool writes, the reader gets the same numbers back.

import { buildRecording, openLog, proposeMapping } from "@gearsense/core/log";
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { captureDefinition, DIALECTS, type ExportStyle, exportLog, PLAIN_STYLE, writeLog } from "../index.ts";

const rows = 240;
const column = (make: (i: number) => number) => Float64Array.from({ length: rows }, (_, i) => make(i));
const columns = new Map([
  ["time_s", column((i) => i * 0.05)],
  ["engine_rpm", column((i) => 800 + 7 * i)],
  ["turbine_rpm", column((i) => 700 + 7 * i)],
  ["output_rpm", column((i) => 300 + 3 * i)],
  ["vehicle_kmh", column((i) => Math.round(i * 4.1) / 10)],
  ["gear_commanded", column((i) => 1 + Math.floor(i / 60))],
  ["engine_torque_nm", column((i) => 40 + (i % 50))],
  ["fluid_c", column((i) => 60 + Math.floor(i / 30))],
]);

const styles: fc.Arbitrary<ExportStyle> = fc
  .record({
    delimiter: fc.constantFrom(",", ";", "\t"),
    decimalComma: fc.boolean(),
    headers: fc.constantFrom("canonical", "long", "short", "joined"),
    units: fc.constantFrom("header", "row", "none"),
    time: fc.constantFrom("s", "ms", "us", "clock", "iso", "epoch-s", "epoch-ms"),
    preamble: fc.constantFrom<readonly string[]>([], ["Recording of the day"]),
    newline: fc.constantFrom("\n", "\r\n"),
    byteOrderMark: fc.boolean(),
    imperial: fc.boolean(),
    roundRobin: fc.constantFrom(1, 2, 3),
    layout: fc.constantFrom("wide", "long"),
    encoding: fc.constantFrom("utf-8", "utf-16le", "utf-16be", "latin-1"),
    container: fc.constantFrom("none", "gzip", "zip"),
    quoteAll: fc.boolean(),
    repeatHeaderEvery: fc.constantFrom(0, 100),
    truncated: fc.boolean(),
    lost: fc.constantFrom("never", "sentinel", "text"),
  } as { [K in keyof ExportStyle]: fc.Arbitrary<ExportStyle[K]> })
  // without units in the file a person must say what they are: that is the mapping's work, not the reader's
  .filter(
    (s) =>
      !(s.decimalComma && s.delimiter === "," && !s.quoteAll) &&
      !(s.imperial && s.layout === "wide" && (s.units === "none" || s.headers === "canonical")),
  );

const read = (bytes: Uint8Array, definition?: ReturnType<typeof captureDefinition>) => {
  const { table } = openLog(bytes, { definition });
  return buildRecording(table, proposeMapping(table));
};

function compare(recording: ReturnType<typeof read>, style: ExportStyle) {
  const { channels, report } = recording;
  for (const [id, values] of columns) {
    if (id === "time_s") continue;
    const channel = channels.get(id);
    if (!channel) throw new Error(`${id} was not found in ${JSON.stringify(style)}`);
    const share = style.layout === "wide" ? style.roundRobin : 1;
    expect(channel.values.length).toBeGreaterThanOrEqual(Math.floor(rows / share) - 4);
    // imperial files are written with one decimal
    const tolerance = style.imperial ? 0.36 : 0.5001;
    for (let k = 0; k < channel.values.length; k += 11) {
      const row = Math.round((channel.timeS[k] as number) / 0.05);
      const v = channel.values[k] as number;
      if (Number.isNaN(v)) expect(style.lost).not.toBe("never");
      else expect(Math.abs(v - (values[row] as number))).toBeLessThanOrEqual(tolerance);
    }
  }
  return report;
}

describe("a written log", () => {
  it("reads back to what was written", () => {
    fc.assert(
      fc.property(styles, (style) => {
        const report = compare(read(exportLog(columns, style)), style);
        expect(report.rejectCount).toBe(style.truncated ? 1 : 0);
        const { read: all, ...parts } = report.lines ?? { read: Number.NaN };
        expect(Object.values(parts).reduce((a, b) => a + b, 0)).toBe(all);
      }),
      { numRuns: 150 },
    );
  });
  it.each(Object.entries(DIALECTS).filter(([name]) => name !== "strange-names"))("%s reads back", (_name, style) => {
    compare(read(exportLog(columns, style), captureDefinition(columns)), style);
  });
  it("has one line a row, and the marks that were asked for", () => {
    const text = writeLog(columns, { ...PLAIN_STYLE, newline: "\r\n", preamble: ["first"] });
    expect(text.startsWith("first\r\n")).toBe(true);
    expect(text.trimEnd().split("\r\n")).toHaveLength(rows + 2);
    expect([...exportLog(columns, { ...PLAIN_STYLE, byteOrderMark: true }).slice(0, 3)]).toEqual([0xef, 0xbb, 0xbf]);
  });
});
