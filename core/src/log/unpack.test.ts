// Guards: archives give back what was packed, are bounded whatever they claim, and are refused with a remedy otherwise.
import { deflateRawSync, gzipSync as gzipFast } from "node:zlib";
import { describe, expect, it } from "@jest/globals";
import { gzipSync, strToU8, zipSync } from "fflate";
import { InputError, MAX_LOG_BYTES, openLog, unpackLog } from "./index.ts";

const text = `time_s,engine_rpm\n${Array.from({ length: 400 }, (_, i) => `${i / 10},${900 + (i % 7)}`).join("\n")}\n`;
const plain = strToU8(text);

function refusal(work: () => unknown): InputError {
  try {
    work();
  } catch (error) {
    if (error instanceof InputError) return error;
    throw error;
  }
  throw new Error("was not refused");
}

/** A zip archive with one packed file, written by hand: local header, data, directory, end. */
function zipOf(packed: Uint8Array, claimedBytes: number): Uint8Array {
  const name = Buffer.from("log.csv");
  const fields = Buffer.alloc(26);
  fields.writeUInt16LE(20, 0);
  fields.writeUInt16LE(8, 4);
  fields.writeUInt32LE(packed.length, 14);
  fields.writeUInt32LE(claimedBytes, 18);
  fields.writeUInt16LE(name.length, 22);
  const local = Buffer.concat([Buffer.from("PK\x03\x04", "latin1"), fields, name, packed]);
  const directory = Buffer.concat([
    Buffer.from("PK\x01\x02", "latin1"),
    Buffer.from([20, 0]),
    fields,
    Buffer.alloc(14),
    name,
  ]);
  const end = Buffer.alloc(18);
  end.writeUInt16LE(1, 4);
  end.writeUInt16LE(1, 6);
  end.writeUInt32LE(directory.length, 8);
  end.writeUInt32LE(local.length, 12);
  return Buffer.concat([local, directory, Buffer.from("PK\x05\x06", "latin1"), end]);
}

describe("archives", () => {
  it.each([
    ["none", plain],
    ["gzip", gzipSync(plain)],
    ["zip", zipSync({ "deep/log.csv": plain, "__MACOSX/._log.csv": strToU8("x"), "readme.md": strToU8("no log") })],
  ] as const)("%s gives back what was packed", (container, bytes) => {
    const made = unpackLog(bytes);
    expect(made.container).toBe(container);
    expect(Buffer.from(made.bytes).equals(Buffer.from(plain))).toBe(true);
    expect(openLog(bytes).table.rows).toBe(400);
  });

  it("reads what is left of an archive that was cut off, and says so", () => {
    const long = strToU8(text.repeat(40));
    const cut = gzipFast(long).subarray(0, -40);
    const { table } = openLog(cut);
    expect(table.rows).toBeGreaterThan(1000);
    expect(table.repair).toMatch(/ends early/);
  });

  it.each([
    ["several logs", zipSync({ "a.csv": plain, "b.csv": plain }), "archive", /holds 2 files: a.csv, b.csv.*one by one/],
    ["an archive in an archive", gzipSync(gzipSync(plain)), "archive", /another archive/],
    ["a zip in a zip", zipSync({ "a.zip": zipSync({ "a.csv": plain }) }), "archive", /another archive/],
    [
      "a spreadsheet",
      zipSync({ "[Content_Types].xml": strToU8("<x/>"), "xl/a.xml": strToU8("<x/>") }),
      "archive",
      /as CSV/,
    ],
    ["an empty zip", zipSync({}), "archive", /damaged|no file/],
    ["a broken zip", Uint8Array.of(0x50, 0x4b, 3, 4, 1, 2, 3), "archive", /damaged/],
    ["over the limit", { length: MAX_LOG_BYTES + 1 } as unknown as Uint8Array, "too-large", /up to 100 MB/],
  ])("refuses %s", (_name, bytes, code, words) => {
    const e = refusal(() => unpackLog(bytes));
    expect(e.code).toBe(code);
    expect(e.message).toMatch(words);
  });

  it("stops at the limit, whatever an archive claims of its size", () => {
    const bomb = gzipFast(Buffer.alloc(MAX_LOG_BYTES + (8 << 20)));
    expect(bomb.length).toBeLessThan(300_000);
    expect(refusal(() => unpackLog(bomb)).code).toBe("too-large");
    const packed = deflateRawSync(Buffer.alloc(MAX_LOG_BYTES + (8 << 20)), { level: 1 });
    expect(refusal(() => unpackLog(zipOf(packed, MAX_LOG_BYTES + (8 << 20)))).code).toBe("too-large");
    // the directory claims 100 bytes, the data says otherwise
    expect(refusal(() => unpackLog(zipOf(packed, 100))).code).toBe("too-large");
  });
});
