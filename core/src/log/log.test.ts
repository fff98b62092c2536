// Guards: the way from bytes to channels: encodings, dialects, mapping, repairs, and every refusal with its place.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import {
  binaryKind,
  buildPyramid,
  buildRecording,
  type ColumnMapping,
  decodeLog,
  InputError,
  indexAtOrAfter,
  proposeMapping,
  readTable,
  sniffDialect,
} from "./index.ts";

const bytes = (text: string) => new TextEncoder().encode(text);
const read = (text: string) => readTable(text, sniffDialect(text));
const record = (text: string) => {
  const table = read(text);
  return buildRecording(table, proposeMapping(table));
};
/** Twelve seconds at 5 Hz. */
const rows = (line: (t: number, i: number) => string) =>
  Array.from({ length: 61 }, (_, i) => line(i / 5, i)).join("\n");
const simple = `time_s,engine_rpm\n${rows((t) => `${t},${1000 + t}`)}\n`;

function refusal(work: () => unknown): InputError {
  try {
    work();
  } catch (error) {
    if (error instanceof InputError) return error;
    throw error;
  }
  throw new Error("was not refused");
}

describe("decoding", () => {
  it.each([
    ["utf-8", bytes("a°b"), "utf-8", false],
    ["utf-8 with a mark", Uint8Array.of(0xef, 0xbb, 0xbf, 0x61), "utf-8", true],
    ["utf-16 little endian", Uint8Array.of(0xff, 0xfe, 0x61, 0, 0xb0, 0), "utf-16le", true],
    ["utf-16 big endian", Uint8Array.of(0xfe, 0xff, 0, 0x61, 0, 0xb0), "utf-16be", true],
    ["windows-1252", Uint8Array.of(0x61, 0xb0, 0x62), "windows-1252", false],
  ])("%s", (_name, data, encoding, mark) => {
    const decoded = decodeLog(data);
    expect(decoded.encoding).toBe(encoding);
    expect(decoded.byteOrderMark).toBe(mark);
    expect(decoded.text).toMatch(/^a/);
    expect(decoded.text).not.toContain("\ufffd");
  });

  it.each([
    ["empty", new Uint8Array(), "empty-file", /0 bytes/],
    ["PNG named .csv", Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, 0, 0), "binary-file", /PNG picture/],
    ["other binary", Uint8Array.from({ length: 400 }, (_, i) => i % 7), "binary-file", /binary file/],
  ])("refuses %s", (_name, data, code, words) => {
    const e = refusal(() => decodeLog(data));
    expect(e.code).toBe(code);
    expect(e.message).toMatch(words);
  });

  it("does not take text for binary", () => {
    expect(binaryKind(bytes(simple))).toBeUndefined();
    expect(binaryKind(Uint8Array.of(0xff, 0xfe, 0x61, 0))).toBeUndefined();
  });
});

describe("dialects", () => {
  it.each([
    [",", ".", "\n"],
    [";", ",", "\r\n"],
    ["\t", ".", "\r\n"],
    ["|", ",", "\n"],
    [";", ".", "\r"],
  ])("delimiter %j, decimal %j, newline %j", (delimiter, decimal, newline) => {
    const text =
      ["time_s", "engine_rpm", "turbine_rpm"].join(delimiter) +
      newline +
      Array.from({ length: 70 }, (_, i) =>
        [i / 5, 1500.5 + i, 900.25].map((v) => String(v).replace(".", decimal)).join(delimiter),
      ).join(newline) +
      newline;
    const table = read(text);
    expect(table.dialect?.delimiter).toBe(delimiter);
    expect(table.rows).toBe(70);
    expect([...(table.columns[1]?.numbers.slice(0, 2) ?? [])]).toEqual([1500.5, 1501.5]);
  });

  it("finds preamble, header and unit row, and says their lines", () => {
    const text = `Recording of the day\nVehicle;van\n\nTime;Engine speed;Fluid temperature\ns;rpm;°F\n${rows((t) => `${String(t).replace(".", ",")};1000;212`)}\n`;
    const table = read(text);
    expect(table.dialect).toMatchObject({ headerLine: 4, unitLine: 5, firstDataLine: 6, decimalComma: true });
    const { channels } = buildRecording(table, proposeMapping(table));
    expect(channels.get("fluid_c")?.values[0]).toBeCloseTo(100, 9);
  });

  it.each([
    ["one column of numbers", Array.from({ length: 40 }, (_, i) => String(i)).join("\n"), "one-column"],
    ["prose", "This is a letter.\nIt has lines.\nNothing else.\n", "no-table"],
    ["a header without rows", "time_s,engine_rpm\n", "no-rows"],
  ])("refuses %s", (_name, text, code) => {
    expect(refusal(() => read(text)).code).toBe(code);
  });
});

describe("tables", () => {
  it("rejects short and long rows with their line numbers, and drops nothing silently", () => {
    const text = `time_s,engine_rpm,turbine_rpm\n0,1,2\n0.1,1\n0.2,1,2,3\n\n0.3,1,2\n0.4,1`;
    const table = read(text);
    expect(table.rows).toBe(2);
    expect(table.rejects).toEqual([
      { line: 3, reason: "has 2 of 3 cells" },
      { line: 4, reason: "has 4 cells, the header 3" },
      { line: 7, reason: "has 2 of 3 cells" },
    ]);
    expect(table.lines).toEqual({
      read: text.split("\n").length,
      head: 1,
      blank: 1,
      repeatedHeader: 0,
      rejected: 3,
      unused: 0,
      rows: 2,
    });
  });

  it("leaves out repeated headers and says where", () => {
    const text = `time_s,engine_rpm\n${rows((t, i) => (i === 30 ? "time_s,engine_rpm" : `${t},1000`))}\n`;
    expect(read(text).repeatedHeaderLines).toEqual([32]);
    expect(record(text).report.repairs[0]).toMatchObject({ count: 1, lines: [32] });
  });

  it("tells units in the cells, and refuses a column that mixes them with the line", () => {
    const text = (second: string) =>
      `time_s,Fluid temperature\n${rows((t, i) => `${t},${i < 20 ? "85 °C" : second}`)}\n`;
    expect(record(text("86 °C")).channels.get("fluid_c")?.values[0]).toBe(85);
    const e = refusal(() => read(text("185 °F")));
    expect(e.code).toBe("mixed-units");
    expect(e.line).toBe(22);
    expect(e.message).toContain("line 22");
  });

  it("reads numbers as the language does, at any chunk boundary", () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof(fc.double({ noNaN: true, noDefaultInfinity: true }), fc.integer(), fc.constant(0)), {
          minLength: 3,
          maxLength: 40,
        }),
        (values) => {
          const table = readTable(`a,b\n${values.map((v) => `1,${v}`).join("\n")}\n`, {
            delimiter: ",",
            decimalComma: false,
            headerLine: 1,
            unitLine: undefined,
            firstDataLine: 2,
            confidence: 1,
          });
          expect([...(table.columns[1]?.numbers ?? [])]).toEqual(values.map((v) => Number(String(v))));
        },
      ),
    );
    const long = `time_s,engine_rpm\n${Array.from({ length: 30000 }, (_, i) => `${i / 10},${i % 977}`).join("\n")}\n`;
    const table = read(long);
    expect(table.rows).toBe(30000);
    expect(table.columns[1]?.numbers[29999]).toBe(29999 % 977);
    expect(table.lineOfRow[29999]).toBe(30001);
  });

  it("tells its progress and reaches the end", () => {
    const told: number[] = [];
    const long = `time_s,engine_rpm\n${Array.from({ length: 30000 }, (_, i) => `${i / 10},1000`).join("\n")}\n`;
    readTable(long, sniffDialect(long), { onProgress: (s) => told.push(s) });
    expect(told.length).toBeGreaterThan(2);
    expect(told.at(-1)).toBe(1);
    expect([...told].sort((a, b) => a - b)).toEqual(told);
  });
});

describe("mapping", () => {
  it.each([
    ["Engine speed (rpm)", "engine_rpm", "rpm"],
    ["ENG SPD", "engine_rpm", null],
    ["TransFluidTemp [°F]", "fluid_c", "°F"],
    ["Vehicle speed (mph)", "vehicle_kmh", "mph"],
    ["Line pressure (psi)", "line_pressure_kpa", "psi"],
    ["Commanded gear", "gear_commanded", null],
    ["Converter clutch duty (%)", "tcc_command", "%"],
    ["K2 shaft speed (1/min)", "k2_rpm", "rpm"],
  ])("%s is %s in %s", (header, channel, unit) => {
    const text = `Time (s),${header}\n${rows((t) => `${t},3`)}\n`;
    const guess = proposeMapping(read(text))[1];
    expect(guess?.channel).toBe(channel);
    expect(guess?.unit).toBe(unit);
    expect(guess?.confidence).toBeGreaterThan(0.6);
  });

  it("gives no channel twice and says who has it", () => {
    const text = `Time (s),Engine speed (rpm),Engine rpm\n${rows((t) => `${t},900,900`)}\n`;
    const guesses = proposeMapping(read(text));
    expect(guesses.filter((g) => g.channel === "engine_rpm")).toHaveLength(1);
    expect(guesses.find((g) => g.channel === null)?.reason).toMatch(/taken by "Engine speed"/);
  });

  it("trusts a name less when the values do not fit", () => {
    const of = (v: number) =>
      proposeMapping(read(`Time (s),Fluid temperature\n${rows((t) => `${t},${v}`)}\n`))[1]?.confidence ?? 0;
    expect(of(9000)).toBeLessThan(of(80) / 1.5);
  });
});

describe("recordings", () => {
  const map = (m: Partial<ColumnMapping>[]): ColumnMapping[] =>
    m.map((x, i) => ({ column: i, channel: null, unit: null, ...x }));

  it.each([
    ["milliseconds", (t: number) => String(Math.round(t * 1000)), "ms"],
    [
      "clock time over midnight",
      (t: number) =>
        `23:59:${(50 + t).toFixed(3)}`.replace(
          /23:59:(6\d\.\d+|[67]\d\.\d+)/,
          (_, s) => `00:00:${(Number(s) - 60).toFixed(3).padStart(6, "0")}`,
        ),
      "s",
    ],
    ["epoch seconds", (t: number) => String(1_790_000_000 + t), "s"],
  ])("%s come out as seconds from the start", (_name, write, unit) => {
    const table = read(`Time,Engine speed (rpm)\n${rows((t) => `${write(t)},900`)}\n`);
    const guess = proposeMapping(table);
    expect(guess[0]?.unit).toBe(unit);
    const { channels, durationS } = buildRecording(table, guess);
    expect(durationS).toBeCloseTo(12, 3);
    expect(channels.get("engine_rpm")?.timeS[5]).toBeCloseTo(1, 3);
  });

  it("joins on when the clock steps back, and counts it", () => {
    const text = `time_s,engine_rpm\n${rows((t, i) => `${i < 40 ? t : t - 5},900`)}\n`;
    const { report, channels } = record(text);
    expect(report.repairs[0]).toMatchObject({ what: expect.stringContaining("backwards"), count: 1, lines: [42] });
    const t = channels.get("engine_rpm")?.timeS ?? new Float64Array();
    for (let i = 1; i < t.length; i++) expect(t[i]).toBeGreaterThan(t[i - 1] as number);
  });

  it("keeps each channel's own timestamps when channels are polled in turn", () => {
    const text = `time_s,engine_rpm,turbine_rpm\n${rows((t, i) => (i % 2 ? `${t},900,` : `${t},,800`))}\n`;
    const { channels, report } = record(text);
    expect(channels.get("engine_rpm")?.timeS[0]).toBeCloseTo(0.2, 9);
    expect(channels.get("turbine_rpm")?.timeS[0]).toBe(0);
    expect(channels.get("engine_rpm")?.rateHz).toBeCloseTo(2.5, 6);
    expect(report.emptyCells).toBe(61);
  });

  it("blanks sentinels and counts them; words become codes", () => {
    const text = `time_s,engine_rpm,gear_commanded,brake_on,range\n${rows((t, i) => `${t},${i === 7 ? 65535 : 900},${i < 30 ? "D3" : "R"},${i % 2 ? "on" : "off"},${i < 5 ? "P" : "D"}`)}\n`;
    const { channels, report } = record(text);
    expect(channels.get("engine_rpm")?.values[7]).toBeNaN();
    expect(report.invalidCells).toBe(1);
    expect(channels.get("gear_commanded")?.values[0]).toBe(3);
    expect(channels.get("gear_commanded")?.values[40]).toBe(-1);
    expect(channels.get("brake_on")?.values[1]).toBe(1);
    expect(channels.get("range")?.values[0]).toBe(1);
  });

  it("lists gaps with their line", () => {
    const text = `time_s,engine_rpm\n${rows((t, i) => `${i < 30 ? t : t + 4},900`)}\n`;
    const [gap] = record(text).report.gaps;
    expect(gap?.line).toBe(32);
    expect((gap?.endS ?? 0) - (gap?.startS ?? 0)).toBeCloseTo(4.2, 6);
  });

  it.each([
    ["without a time column", `speed,engine_rpm\n${rows(() => "1,2")}\n`, undefined, "no-time"],
    ["shorter than 10 s", `time_s,engine_rpm\n0,1\n4,2\n9.9,3\n`, undefined, "too-short"],
    [
      "with one channel twice",
      `time_s,a,b\n${rows((t) => `${t},1,2`)}\n`,
      map([{ channel: "time_s" }, { channel: "engine_rpm" }, { channel: "engine_rpm" }]),
      "duplicate-channel",
    ],
  ])("refuses a log %s", (_name, text, mapping, code) => {
    const table = read(text);
    const e = refusal(() => buildRecording(table, mapping ?? proposeMapping(table)));
    expect(e.code).toBe(code);
    expect(e.message.length).toBeGreaterThan(40);
  });
});

describe("pyramid", () => {
  it("loses no spike at any level and covers every sample", () => {
    fc.assert(
      fc.property(
        fc.array(fc.float({ min: -1000, max: 1000, noNaN: true }), { minLength: 1, maxLength: 3000 }),
        (list) => {
          const values = Float64Array.from(list);
          const p = buildPyramid(Float64Array.from(list.keys()), values);
          for (const { size, min, max } of p.levels) {
            expect(min.length).toBe(Math.ceil(list.length / size));
            for (let b = 0; b < min.length; b++) {
              const part = list.slice(b * size, (b + 1) * size);
              expect(min[b]).toBe(Math.fround(Math.min(...part)));
              expect(max[b]).toBe(Math.fround(Math.max(...part)));
            }
          }
        },
      ),
      { numRuns: 40 },
    );
  });
  it("keeps a bucket of missing readings missing, and ignores one among readings", () => {
    const values = Float64Array.from({ length: 256 }, (_, i) => (i < 4 || i === 9 ? Number.NaN : i));
    const [level] = buildPyramid(values, values).levels;
    expect(level?.min[0]).toBeNaN();
    expect(level?.min[2]).toBe(8);
    expect(level?.max[2]).toBe(11);
  });
  it("finds the first index not before a time", () => {
    const t = Float64Array.of(0, 1, 2, 3);
    expect([indexAtOrAfter(t, -1), indexAtOrAfter(t, 1), indexAtOrAfter(t, 1.5), indexAtOrAfter(t, 9)]).toEqual([
      0, 1, 2, 4,
    ]);
  });
});
