// Guards: frames as lines of a capture, both ways, and lines out of bytes that come as they like.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { type CanFrame, hexOf, LineReader, LONGEST_LINE, readFrame, writeFrame } from "./frame.ts";

const bytes = (hex: string) => Uint8Array.from(hex.match(/../g) ?? [], (b) => Number.parseInt(b, 16));

describe("a frame as a line", () => {
  it("is written and read as captures have it", () => {
    const line = writeFrame({ id: 0x7e0, data: bytes("0222F40C") }, 12.5);
    expect(line).toBe("(12.500000) can0 7E0#0222F40C");
    expect(readFrame(line)).toEqual({ timeS: 12.5, frame: { id: 0x7e0, data: bytes("0222F40C") } });
    expect(readFrame("7DF#02010C\r")).toEqual({ timeS: undefined, frame: { id: 0x7df, data: bytes("02010C") } });
    expect(readFrame("vcan1 18DB33F1#0201")).toMatchObject({ frame: { id: 0x18db33f1, extended: true } });
  });
  it("comes back as it went, whatever is in it", () => {
    const frame = fc.record({ id: fc.integer({ min: 0, max: 0x7ff }), data: fc.uint8Array({ maxLength: 8 }) });
    fc.assert(
      fc.property(frame, fc.integer({ min: 0, max: 2 ** 31 }), (f, us) => {
        const read = readFrame(writeFrame(f, us / 1e6));
        expect(read?.frame.id).toBe(f.id);
        expect(hexOf(read?.frame.data ?? new Uint8Array())).toBe(hexOf(f.data));
        expect(read?.timeS).toBeCloseTo(us / 1e6, 6);
      }),
    );
  });
  it.each([
    "",
    "hello",
    "7E0",
    "7E0#1",
    "7E0#GG",
    "7E0#001122334455667788",
    "800#00",
    "FFFFFFFF#00",
    "(x) can0 7E0#00",
    "7E0#R",
  ])("%j is none", (line) => {
    expect(readFrame(line)).toBeUndefined();
  });
  it("with what no frame has is not written", () => {
    expect(() => writeFrame({ id: 0x800, data: bytes("00") }, 0)).toThrow(/isn’t a frame identifier/);
    expect(() => writeFrame({ id: 1, data: new Uint8Array(9) }, 0)).toThrow(/up to 8 bytes/);
    expect(writeFrame({ id: 0x800, extended: true, data: bytes("00") } as CanFrame, 0)).toBe(
      "(0.000000) can0 00000800#00",
    );
  });
});

describe("lines out of bytes", () => {
  it("come whole however they are cut", () => {
    fc.assert(
      fc.property(
        fc.array(fc.string({ maxLength: 40 }).filter((s) => !s.includes("\n"))),
        fc.array(fc.nat(60)),
        (lines, cuts) => {
          const text = lines.map((l) => `${l}\n`).join("");
          const reader = new LineReader();
          const got: string[] = [];
          let at = 0;
          for (const c of cuts) {
            got.push(...reader.take(text.slice(at, at + c)));
            at += c;
          }
          got.push(...reader.take(text.slice(at)));
          expect(got).toEqual(lines);
        },
      ),
    );
  });
  it("that never end fill nothing, and the next one is read", () => {
    const reader = new LineReader();
    for (let i = 0; i < 100; i++) expect(reader.take("x".repeat(100))).toEqual([]);
    expect(reader.tooLong).toBe(1);
    expect(reader.take("tail\nnext\n")).toEqual(["next"]);
    expect(new LineReader().take(`${"y".repeat(LONGEST_LINE)}\n`)).toHaveLength(1);
    expect(new LineReader().take(`${"y".repeat(LONGEST_LINE + 1)}\n`)).toHaveLength(0);
  });
});
