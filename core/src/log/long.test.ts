// Guards: one reading a line becomes one column a channel, and a wide table is left alone.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { buildRecording, InputError, openLog, proposeMapping } from "./index.ts";

const bytes = (text: string) => new TextEncoder().encode(text);
const record = (text: string) => {
  const { table } = openLog(bytes(text));
  return { table, ...buildRecording(table, proposeMapping(table)) };
};
const lines = (n: number, of: (i: number) => string) => Array.from({ length: n }, (_, i) => of(i)).join("\n");

describe("long format", () => {
  it("keeps every reading with its own moment, unit and word", () => {
    const text = `Timestamp;Signal;Reading;Unit\n${lines(300, (i) => {
      const t = (i * 0.05).toFixed(3);
      return [`${t};Engine speed;${900 + i};rpm`, `${t};Fluid temperature;${140 + (i % 5)};°F`, `${t};Selector;D;`][
        i % 3
      ] as string;
    })}\n`;
    const { table, channels } = record(text);
    expect(table.layout).toBe("long");
    const engine = channels.get("engine_rpm");
    expect(engine?.values).toHaveLength(100);
    expect(engine?.timeS[1]).toBeCloseTo(0.15, 9);
    expect(engine?.values[2]).toBe(906);
    expect(channels.get("fluid_c")?.values[0]).toBeCloseTo((141 - 32) / 1.8, 9);
    expect([...new Set(channels.get("range")?.values)]).toEqual([4]);
  });
  it("names a line without a channel, and counts every line", () => {
    const text = `time,name,value\n${lines(120, (i) => (i === 50 ? "5,,1" : `${i / 10},${i % 2 ? "Engine speed" : "Turbine speed"},${i}`))}\n`;
    const { table, report } = record(text);
    expect(report.rejects).toEqual([{ line: 52, reason: "names no channel" }]);
    const { read, ...parts } = table.lines;
    expect(Object.values(parts).reduce((a, b) => a + b, 0)).toBe(read);
  });
  it("refuses a channel that changes its unit, with the line", () => {
    const text = `time,name,value,unit\n${lines(100, (i) => `${i / 5},Fluid temperature,80,${i < 60 ? "°C" : "°F"}`)}\n${lines(40, (i) => `${20 + i},Engine speed,900,rpm`)}\n`;
    try {
      record(text);
      throw new Error("was not refused");
    } catch (error) {
      expect(error).toBeInstanceOf(InputError);
      expect(error).toMatchObject({ code: "mixed-units", line: 62 });
    }
  });
  it("does not take states of a wide table for names", () => {
    const text = `time_s,range,engine_rpm,gear_commanded\n${lines(200, (i) => `${i / 10},${i < 100 ? "P" : "D"},900,${1 + (i % 4)}`)}\n`;
    expect(openLog(bytes(text)).table.layout).toBe("wide");
  });
  it("order of the lines within a moment does not matter", () => {
    const names = ["Engine speed", "Turbine speed", "Output speed"];
    const block = (i: number) => names.map((n, k) => `${i / 10},${n},${1000 + i + 100 * k}`);
    fc.assert(
      fc.property(
        fc.array(fc.shuffledSubarray([0, 1, 2], { minLength: 3 }), { minLength: 120, maxLength: 120 }),
        (orders) => {
          const text = `time,name,value\n${orders.map((o, i) => o.map((k) => block(i)[k]).join("\n")).join("\n")}\n`;
          const { channels } = record(text);
          expect(channels.get("output_rpm")?.values[7]).toBe(1207);
          expect(channels.get("engine_rpm")?.values).toHaveLength(120);
        },
      ),
      { numRuns: 20 },
    );
  });
});
