// Guards: whatever a file holds, reading it ends soon in a result or in a typed refusal, and no line is lost.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { gzipSync, zipSync } from "fflate";
import { buildRecording, InputError, openLog, proposeMapping } from "./index.ts";

const bytes = (text: string) => new TextEncoder().encode(text);

/** Reads as the application does. @returns the line count, or the code of the refusal */
function read(data: Uint8Array): string | "read" {
  try {
    const { table } = openLog(data);
    const { read: all, ...parts } = table.lines;
    expect(Object.values(parts).reduce((a, b) => a + b, 0)).toBe(all);
    const { report } = buildRecording(table, proposeMapping(table));
    expect(report.rows).toBeGreaterThanOrEqual(report.rowsUsed);
    expect(report.rejects.length).toBeLessThanOrEqual(report.rejectCount);
    return "read";
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    expect(error.message.length).toBeGreaterThan(30);
    return error.code;
  }
}

const exported = [
  `time_s,engine_rpm,turbine_rpm,range\n${Array.from({ length: 150 }, (_, i) => `${i / 10},${900 + i},${800 + i},D`).join("\n")}\n`,
  `"Zeit";"Engine speed";"Fluid"\ns;rpm;°C\n${Array.from({ length: 150 }, (_, i) => `${i / 10};900,5;80`.replace(".", ",")).join("\r\n")}\r\n`,
  `time,name,value\n${Array.from({ length: 300 }, (_, i) => `${i / 20},${i % 2 ? "Engine speed" : "Output speed"},${900 + i}`).join("\n")}\n`,
  `${Array.from({ length: 150 }, (_, i) => `(${(i / 10).toFixed(6)}) can0 1A0#00112233`).join("\n")}\n`,
].map(bytes);

const mutation = fc.record({
  file: fc.nat(exported.length - 1),
  changes: fc.array(fc.record({ at: fc.double({ min: 0, max: 1, noNaN: true }), byte: fc.nat(255) }), {
    maxLength: 30,
  }),
  cutAt: fc.double({ min: 0, max: 1, noNaN: true }),
  packed: fc.constantFrom("none", "gzip", "zip"),
});

describe("hostile files", () => {
  it("random bytes", () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 3000 }), (data) => void read(data)),
      { numRuns: 300 },
    );
  });
  it("random text of digits and delimiters", () => {
    const piece = fc.constantFrom(
      "0",
      "1",
      "9",
      ".",
      ",",
      ";",
      "\t",
      "\n",
      "\r",
      '"',
      "-",
      ":",
      " ",
      "a",
      "N/A",
      "é",
      "time",
      "\ufeff",
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 600 }), (list) => void read(bytes(list.join("")))),
      { numRuns: 300 },
    );
  });
  it("exports with bytes changed, cut off, packed", () => {
    fc.assert(
      fc.property(mutation, ({ file, changes, cutAt, packed }) => {
        const data = Uint8Array.from(exported[file] as Uint8Array);
        for (const c of changes) data[Math.floor(c.at * (data.length - 1))] = c.byte;
        const cut = data.subarray(0, Math.floor(cutAt * data.length));
        const gz = packed === "gzip" ? gzipSync(cut) : packed === "zip" ? zipSync({ "a.csv": cut }) : cut;
        read(gz);
      }),
      { numRuns: 300 },
    );
  });
  it("archives with bytes changed", () => {
    const archives = [gzipSync(exported[0] as Uint8Array), zipSync({ "a.csv": exported[1] as Uint8Array })];
    fc.assert(
      fc.property(
        fc.boolean(),
        fc.array(fc.tuple(fc.nat(2000), fc.nat(255)), { minLength: 1, maxLength: 6 }),
        (zip, changes) => {
          const data = Uint8Array.from(archives[zip ? 1 : 0] as Uint8Array);
          for (const [at, byte] of changes) data[at % data.length] = byte;
          read(data);
        },
      ),
      { numRuns: 200 },
    );
  });

  const rows = (n: number, of: (i: number) => string) => Array.from({ length: n }, (_, i) => of(i)).join("\n");
  it.each([
    [
      "a million columns",
      () => `${"a,".repeat(1_000_000)}b\n${"1,".repeat(1_000_000)}2\n`,
      /line-too-long|too-wide|no-table/,
    ],
    [
      "two thousand columns",
      () =>
        `time_s,${rows(2000, (i) => `c${i}`).replaceAll("\n", ",")}\n${rows(20, (i) => `${i}${",1".repeat(2000)}`)}\n`,
      /too-wide|line-too-long/,
    ],
    ["one line of 50 MB", () => "1,".repeat(25_000_000), /line-too-long/],
    [
      "a quotation mark that is never closed",
      () => `time_s,engine_rpm\n${rows(300, (i) => `${i / 10},900`)}\n0,"${"x,1\n".repeat(600_000)}`,
      /line-too-long/,
    ],
    ["not a number everywhere", () => `time_s,engine_rpm\n${rows(400, () => "NaN,NaN")}\n`, /no-rows|no-time|no-table/],
    [
      "time that runs backwards for ever",
      () => `time_s,engine_rpm\n${rows(400, (i) => `${1000 - i},900`)}\n`,
      /too-short/,
    ],
    ["time that stands still", () => `time_s,engine_rpm\n${rows(400, () => "5,900")}\n`, /too-short/],
    [
      "infinite times",
      () => `time_s,engine_rpm\n${rows(400, (i) => `${i % 2 ? "Infinity" : "1e308"},900`)}\n`,
      /too-short|no-time|read/,
    ],
    ["a thousand headers", () => rows(2000, (i) => (i % 2 ? `${i / 20},900` : "time_s,engine_rpm")), /read|no-rows/],
    ["nothing but delimiters", () => ",".repeat(3000), /no-table|line-too-long|no-rows|one-column/],
    ["zeros", () => "\0".repeat(5000), /binary-file/],
  ] as [string, () => string, RegExp][])("%s", (_name, text, outcome) => {
    const data = bytes(text());
    const before = process.memoryUsage().rss;
    const started = performance.now();
    expect(read(data)).toMatch(outcome);
    expect(performance.now() - started).toBeLessThan(20_000);
    expect(process.memoryUsage().rss - before).toBeLessThan(700e6);
  });
});
