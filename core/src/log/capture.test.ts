// Guards: frames of a bus give the values that their definition says, bit by bit; what is not used is counted.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import {
  type BusChannel,
  type BusDefinition,
  buildRecording,
  checkDefinition,
  InputError,
  isCapture,
  openLog,
  proposeMapping,
  rawValue,
} from "./index.ts";

const define = (channels: Partial<BusChannel>[]): BusDefinition => ({
  format: "gearsense-bus",
  version: 1,
  name: "test bus",
  channels: channels.map((c, i) => ({
    channel: `c${i}`,
    id: "0x100",
    startBit: 0,
    lengthBits: 8,
    byteOrder: "little",
    scale: 1,
    offset: 0,
    ...c,
  })),
});
const bytes = (text: string) => new TextEncoder().encode(text);

/** Writes a value bit by bit, the other way round than it is read. */
function put(data: Uint8Array, startBit: number, lengthBits: number, big: boolean, value: number): void {
  let bit = startBit;
  for (let k = 0; k < lengthBits; k++) {
    const on = Math.floor(value / 2 ** (big ? lengthBits - 1 - k : k)) % 2;
    if (on) data[bit >> 3] = (data[bit >> 3] as number) | (1 << (bit & 7));
    if (!big) bit++;
    else bit = bit % 8 === 0 ? bit + 15 : bit - 1;
  }
}

describe("values in frames", () => {
  it.each([
    // 0x1234 in bytes 0 and 1, lowest byte first and highest byte first
    [Uint8Array.of(0x34, 0x12), 0, 16, "little", 0x1234],
    [Uint8Array.of(0x12, 0x34), 7, 16, "big", 0x1234],
    // twelve bits that begin within a byte
    [Uint8Array.of(0xf0, 0xab), 4, 12, "little", 0xabf],
    [Uint8Array.of(0x0a, 0xbc), 3, 12, "big", 0xabc],
  ] as const)("%s from bit %d, %d bits, %s", (data, startBit, lengthBits, byteOrder, value) => {
    expect(rawValue(data, { startBit, lengthBits, byteOrder })).toBe(value);
  });
  it("any value written into a frame is read back, and a frame that is too short has none", () => {
    fc.assert(
      fc.property(
        fc.nat(7),
        fc.integer({ min: 1, max: 52 }),
        fc.boolean(),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (at, bits, big, share) => {
          const data = new Uint8Array(8);
          const value = Math.floor(share * (2 ** bits - 1));
          put(data, at, bits, big, value);
          const place = { startBit: at, lengthBits: bits, byteOrder: big ? "big" : "little" } as const;
          expect(rawValue(data, place)).toBe(value);
          expect(rawValue(new Uint8Array(0), place)).toBeUndefined();
        },
      ),
    );
  });
});

const frame = (t: number, id: string, hex: string) => `(${(1_790_000_000 + t).toFixed(6)}) can0 ${id}#${hex}`;
const hex2 = (v: number) => v.toString(16).padStart(2, "0").toUpperCase();

describe("captures", () => {
  const definition = define([
    { channel: "engine_rpm", startBit: 0, lengthBits: 16, scale: 0.25, unit: "rpm", invalid: [65535] },
    {
      channel: "fluid_c",
      id: "0x200",
      startBit: 8,
      lengthBits: 8,
      signed: true,
      offset: 40,
      unit: "°C",
      multiplexer: { startBit: 0, lengthBits: 8, byteOrder: "little", value: 3 },
    },
  ]);
  const text = `${Array.from({ length: 200 }, (_, i) => {
    const raw = i === 20 ? 65535 : 4 * (900 + i);
    return [
      frame(i / 10, "100", hex2(raw & 255) + hex2(raw >> 8)),
      frame(i / 10 + 0.001, "200", hex2(i % 4) + hex2(256 - 10)),
      frame(i / 10 + 0.002, "3FF", "00"),
    ].join("\n");
  }).join("\n")}\nnonsense\n(1790000000.5) can0 100#R\n\n(1790000000.6) can0 100#ABC\n`;

  it("scale, offset, sign, multiplexing, lost readings; every line is accounted for", () => {
    const { table } = openLog(bytes(text), { definition });
    const { channels } = buildRecording(table, proposeMapping(table));
    const engine = channels.get("engine_rpm");
    expect(engine?.values[1]).toBe(901);
    expect(engine?.values[20]).toBeNaN();
    const fluid = channels.get("fluid_c");
    expect(fluid?.values).toHaveLength(50);
    expect(fluid?.values[0]).toBe(30);
    expect(fluid?.rateHz).toBeCloseTo(2.5, 3);
    expect(table.lines).toEqual({
      read: 604,
      head: 0,
      blank: 1,
      repeatedHeader: 0,
      rejected: 3,
      unused: 350,
      rows: 250,
    });
    expect(table.rejects.map((r) => r.reason)).toEqual([
      "isn’t a frame",
      "is a request without data",
      "ends within a byte",
    ]);
  });
  it("is read as the tools print it on the screen, too", () => {
    const screen = Array.from(
      { length: 120 },
      (_, i) => ` (${(i / 5).toFixed(6)})  can0  100   [2]  ${hex2(i)} 0E`,
    ).join("\n");
    expect(isCapture(screen)).toBe(true);
    const { table } = openLog(bytes(screen), { definition });
    expect(buildRecording(table, proposeMapping(table)).channels.get("engine_rpm")?.values[4]).toBe((14 * 256 + 4) / 4);
  });
  it("without a definition it is refused with the identifiers that it holds", () => {
    expect(() => openLog(bytes(text))).toThrow(InputError);
    expect(() => openLog(bytes(text))).toThrow(/Choose the channel definition.*0x100, 0x200, 0x3FF/);
  });
  it("with the definition of another bus it is refused", () => {
    expect(() => openLog(bytes(text), { definition: define([{ id: "0x7A0" }]) })).toThrow(
      /No frame.*carries a channel/,
    );
  });
  it("a table isn't a capture", () => {
    expect(isCapture("time_s,engine_rpm\n0,900\n")).toBe(false);
  });
});

describe("definitions", () => {
  it.each([
    [[], "channels"],
    [[{ id: "100" }], "channels.0.id"],
    [[{ lengthBits: 0 }], "channels.0.lengthBits"],
    [[{ lengthBits: 53 }], "channels.0.lengthBits"],
    [[{ startBit: 510 }], "channels.0.startBit"],
    [[{ scale: 0 }], "channels.0.scale"],
    [[{ offset: Number.NaN }], "channels.0.offset"],
    [[{ channel: "a" }, { channel: "a" }], "channels.1.channel"],
    [
      [{ multiplexer: { startBit: 0, lengthBits: 99, byteOrder: "big", value: 1 } }],
      "channels.0.multiplexer.lengthBits",
    ],
  ] as [Partial<BusChannel>[], string][])("%j is wrong at %s", (channels, path) => {
    expect(checkDefinition(define(channels))[0]?.path).toBe(path);
  });
  it("a good one has nothing wrong", () => {
    expect(checkDefinition(define([{}]))).toEqual([]);
  });
});
