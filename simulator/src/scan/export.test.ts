// Guards: whatever dialect the simulated scan tool writes, the reader gets the same numbers back.

import { buildRecording, decodeLog, proposeMapping, readTable, sniffDialect } from "@gearsense/core/log";
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { type ExportStyle, PLAIN_STYLE, writeLog } from "../index.ts";

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
    headers: fc.constantFrom("canonical", "long", "short"),
    units: fc.constantFrom("header", "row", "none"),
    time: fc.constantFrom("s", "ms", "clock"),
    preamble: fc.constantFrom<readonly string[]>([], ["Recording of the day"]),
    newline: fc.constantFrom("\n", "\r\n"),
    byteOrderMark: fc.boolean(),
    imperial: fc.boolean(),
    roundRobin: fc.constantFrom(1, 2, 3),
  } as { [K in keyof ExportStyle]: fc.Arbitrary<ExportStyle[K]> })
  // without units in the file a person must say what they are: that is the mapping's work, not the reader's
  .filter(
    (s) =>
      !(s.decimalComma && s.delimiter === ",") &&
      !((s.imperial || s.time === "ms") && (s.units === "none" || s.headers === "canonical")),
  );

function read(text: string) {
  const decoded = decodeLog(new TextEncoder().encode(text)).text;
  const table = readTable(decoded, sniffDialect(decoded));
  return buildRecording(table, proposeMapping(table));
}

describe("a written log", () => {
  it("reads back to what was written", () => {
    fc.assert(
      fc.property(styles, (style) => {
        const { channels, report } = read(writeLog(columns, style));
        expect(report.rejectCount).toBe(0);
        for (const [id, values] of columns) {
          if (id === "time_s") continue;
          const channel = channels.get(id);
          if (!channel) throw new Error(`${id} was not found in ${JSON.stringify(style)}`);
          expect(channel.values.length).toBeGreaterThanOrEqual(Math.floor(rows / style.roundRobin));
          // imperial files are written with one decimal
          const tolerance = style.imperial ? 0.36 : 1e-6;
          for (let k = 0; k < channel.values.length; k += 11) {
            const row = Math.round((channel.timeS[k] as number) / 0.05);
            expect(Math.abs((channel.values[k] as number) - (values[row] as number))).toBeLessThanOrEqual(tolerance);
          }
        }
      }),
      { numRuns: 80 },
    );
  });
  it("has one line a row, and the marks that were asked for", () => {
    const text = writeLog(columns, { ...PLAIN_STYLE, byteOrderMark: true, newline: "\r\n", preamble: ["first"] });
    expect(text.startsWith("\ufefffirst\r\n")).toBe(true);
    expect(text.trimEnd().split("\r\n")).toHaveLength(rows + 2);
  });
});
