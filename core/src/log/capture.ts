import { InputError } from "./input-error.ts";
import type { Column, Reject, Table } from "./table.ts";

/** How one channel lies in the frames of a bus: the open file format `gearsense-bus`, see docs/formats.md. */
export interface BusChannel {
  /** canonical channel, or a name that the mapping guesses by */
  readonly channel: string;
  /** identifier of the frame, "0x1A0" */
  readonly id: string;
  /** bit 0 is the lowest of byte 0, bit 8 the lowest of byte 1; of a big-endian value that of its highest bit */
  readonly startBit: number;
  readonly lengthBits: number;
  readonly byteOrder: "little" | "big";
  readonly signed?: boolean | undefined;
  readonly scale: number;
  readonly offset: number;
  /** a known unit of measure */
  readonly unit?: string | undefined;
  /** raw values that stand for "no reading" */
  readonly invalid?: readonly number[] | undefined;
  /** the channel is there only in frames in which these bits hold this value */
  readonly multiplexer?: BusBits & { readonly value: number };
}

interface BusBits {
  readonly startBit: number;
  readonly lengthBits: number;
  readonly byteOrder: "little" | "big";
}

export interface BusDefinition {
  readonly format: "gearsense-bus";
  readonly version: 1;
  readonly name: string;
  readonly channels: readonly BusChannel[];
}

const MOST_BITS = 52;
const FRAME_BITS = 512;

/** Positions of the bits of a value, lowest first. */
function bitsOf({ startBit, lengthBits, byteOrder }: BusBits): number[] {
  if (byteOrder === "little") return Array.from({ length: lengthBits }, (_, k) => startBit + k);
  const down: number[] = [];
  let at = startBit;
  for (let k = 0; k < lengthBits; k++) {
    down.push(at);
    // from the lowest bit of a byte on to the highest of the next
    at = at % 8 === 0 ? at + 15 : at - 1;
  }
  return down.reverse();
}

/**
 * The unsigned value of some bits of a frame.
 * @param data - bytes of the frame
 * @returns undefined when the frame is too short
 */
export function rawValue(data: Uint8Array, bits: BusBits): number | undefined {
  let value = 0;
  let weight = 1;
  for (const bit of bitsOf(bits)) {
    const byte = data[bit >> 3];
    if (byte === undefined) return undefined;
    if ((byte >> (bit & 7)) & 1) value += weight;
    weight *= 2;
  }
  return value;
}

/** @returns what is wrong with a definition, by path; empty when it can be used */
export function checkDefinition(definition: BusDefinition): { path: string; reason: string }[] {
  const problems: { path: string; reason: string }[] = [];
  const seen = new Map<string, number>();
  const bits = (path: string, b: BusBits) => {
    if (!(Number.isInteger(b.lengthBits) && b.lengthBits >= 1 && b.lengthBits <= MOST_BITS))
      problems.push({ path: `${path}.lengthBits`, reason: `must be a whole number from 1 to ${MOST_BITS}` });
    else if (!(Number.isInteger(b.startBit) && b.startBit >= 0 && bitsOf(b).every((k) => k >= 0 && k < FRAME_BITS)))
      problems.push({ path: `${path}.startBit`, reason: "the value does not lie within a frame of 64 bytes" });
  };
  definition.channels.forEach((c, i) => {
    const path = `channels.${i}`;
    if (!/^0x[0-9a-f]{1,8}$/i.test(c.id)) problems.push({ path: `${path}.id`, reason: 'write it as "0x1A0"' });
    bits(path, c);
    if (c.multiplexer) bits(`${path}.multiplexer`, c.multiplexer);
    if (!Number.isFinite(c.scale) || c.scale === 0) problems.push({ path: `${path}.scale`, reason: "must not be 0" });
    if (!Number.isFinite(c.offset)) problems.push({ path: `${path}.offset`, reason: "must be a number" });
    const other = seen.get(c.channel);
    if (other !== undefined)
      problems.push({ path: `${path}.channel`, reason: `"${c.channel}" is given twice, also in channels.${other}` });
    seen.set(c.channel, i);
  });
  if (definition.channels.length === 0) problems.push({ path: "channels", reason: "needs at least one channel" });
  return problems;
}

/** "(1714.250000) can0 1A0#11223344": the log format; "##" begins a frame with flags. */
const LOG_LINE = /^\s*\((\d+(?:\.\d+)?)\)\s+(\S+)\s+([0-9A-Fa-f]{3,8})##?([0-9A-Fa-f]*)/;
/** "(1714.250000)  can0  1A0   [4]  11 22 33 44": what the tools print on the screen. */
const SCREEN_LINE = /^\s*\((\d+(?:\.\d+)?)\)\s+(\S+)\s+([0-9A-Fa-f]{3,8})\s+\[(\d+)\]\s*((?:[0-9A-Fa-f]{2}\s*)*)/;
const REMOTE = /#R/i;

interface Frame {
  readonly timeS: number;
  readonly id: number;
  readonly hex: string;
}

function readFrame(line: string): Frame | undefined {
  if (REMOTE.test(line)) return undefined;
  const log = LOG_LINE.exec(line);
  if (log) {
    const hex = line.includes("##") ? (log[4] ?? "").slice(1) : (log[4] ?? "");
    return { timeS: Number(log[1]), id: Number.parseInt(log[3] ?? "", 16), hex };
  }
  const screen = SCREEN_LINE.exec(line);
  if (!screen) return undefined;
  return {
    timeS: Number(screen[1]),
    id: Number.parseInt(screen[3] ?? "", 16),
    hex: (screen[5] ?? "").replace(/\s/g, ""),
  };
}

/** Is this text a bus capture? Judged by its first lines. */
export function isCapture(text: string): boolean {
  const lines = text
    .slice(0, 4000)
    .split(/\r?\n/)
    .filter((l) => l.trim() !== "")
    .slice(0, 20);
  return lines.length > 0 && lines.filter((l) => LOG_LINE.test(l) || SCREEN_LINE.test(l)).length > lines.length / 2;
}

const HEX = (code: number): number => (code <= 57 ? code - 48 : (code | 32) - 87);
const MAX_REJECTS_KEPT = 200;
const PROGRESS_LINES = 20_000;

class Grower {
  numbers = new Float64Array(1024);
  rowOf = new Int32Array(1024);
  length = 0;
  push(row: number, value: number): void {
    if (this.length === this.numbers.length) {
      const numbers = new Float64Array(this.length * 2);
      numbers.set(this.numbers);
      this.numbers = numbers;
      const rowOf = new Int32Array(this.length * 2);
      rowOf.set(this.rowOf);
      this.rowOf = rowOf;
    }
    this.numbers[this.length] = value;
    this.rowOf[this.length++] = row;
  }
}

/**
 * Reads a bus capture by its channel definition: one row a frame that carries a channel, one sparse column a channel.
 * @throws InputError `no-definition` naming the identifiers in the file, `bad-definition`, `no-rows`
 * Cost: O(characters).
 */
export function readCapture(
  text: string,
  definition: BusDefinition | undefined,
  options: { readonly onProgress?: ((share: number) => void) | undefined } = {},
): Table {
  if (!definition) {
    const ids = new Map<number, number>();
    for (const line of text.slice(0, 400_000).split(/\r?\n/)) {
      const f = readFrame(line);
      if (f) ids.set(f.id, (ids.get(f.id) ?? 0) + 1);
    }
    const listed = [...ids].sort((a, b) => b[1] - a[1]).slice(0, 12);
    throw new InputError(
      "no-definition",
      `This is a raw bus capture. Choose the channel definition that says what its frames hold. Identifiers in it: ${listed
        .map(([id]) => `0x${id.toString(16).toUpperCase()}`)
        .join(", ")}${ids.size > listed.length ? " …" : ""}.`,
    );
  }
  const [wrong] = checkDefinition(definition);
  if (wrong)
    throw new InputError(
      "bad-definition",
      `The channel definition "${definition.name}" is wrong at ${wrong.path}: ${wrong.reason}.`,
    );
  const byId = new Map<number, number[]>();
  definition.channels.forEach((c, i) => {
    const id = Number.parseInt(c.id, 16);
    byId.set(id, [...(byId.get(id) ?? []), i]);
  });
  const columns = definition.channels.map(() => new Grower());
  const noReading = new Int32Array(columns.length);
  const time = new Grower();
  const rejects: Reject[] = [];
  let rejectCount = 0;
  let blankLines = 0;
  let unusedRows = 0;
  let line = 0;
  let at = 0;
  const reject = (reason: string) => {
    rejectCount++;
    if (rejects.length < MAX_REJECTS_KEPT) rejects.push({ line, reason });
  };
  while (at < text.length) {
    let end = text.indexOf("\n", at);
    if (end < 0) end = text.length;
    const content = text.slice(at, end);
    at = end + 1;
    line++;
    if (line % PROGRESS_LINES === 0) options.onProgress?.(at / text.length);
    if (content.trim() === "") {
      blankLines++;
      continue;
    }
    const frame = readFrame(content);
    if (!frame) {
      reject(REMOTE.test(content) ? "is a request without data" : "isn’t a frame");
      continue;
    }
    const wanted = byId.get(frame.id);
    if (!wanted) {
      unusedRows++;
      continue;
    }
    if (frame.hex.length % 2 === 1) {
      reject("ends within a byte");
      continue;
    }
    const data = new Uint8Array(frame.hex.length / 2);
    for (let k = 0; k < data.length; k++)
      data[k] = HEX(frame.hex.charCodeAt(2 * k)) * 16 + HEX(frame.hex.charCodeAt(2 * k + 1));
    const row = time.length;
    let used = false;
    let short = false;
    for (const c of wanted) {
      const channel = definition.channels[c] as BusChannel;
      const { multiplexer } = channel;
      if (multiplexer && rawValue(data, multiplexer) !== multiplexer.value) continue;
      let raw = rawValue(data, channel);
      if (raw === undefined) {
        short = true;
        continue;
      }
      used = true;
      if (channel.invalid?.includes(raw)) {
        noReading[c] = (noReading[c] as number) + 1;
        (columns[c] as Grower).push(row, Number.NaN);
        continue;
      }
      if (channel.signed && raw >= 2 ** (channel.lengthBits - 1)) raw -= 2 ** channel.lengthBits;
      (columns[c] as Grower).push(row, raw * channel.scale + channel.offset);
    }
    if (used) time.push(line, frame.timeS);
    else if (short) reject("is shorter than its channels");
    else unusedRows++;
  }
  if (time.length === 0)
    throw new InputError(
      "no-rows",
      `No frame of the capture carries a channel of "${definition.name}". Choose the definition of this vehicle's bus.`,
    );
  const lineless = { words: [], wordAt: new Uint16Array(0), wordCells: 0, clockCells: 0, datedCells: 0 };
  const made: Column[] = [
    {
      ...lineless,
      index: 0,
      header: "time_s",
      unitText: "s",
      numbers: time.numbers.slice(0, time.length),
      rowOf: undefined,
      filled: time.length,
      noReadingCells: 0,
      samples: [],
    },
    ...columns.map((c, i): Column => {
      const { channel, unit } = definition.channels[i] as BusChannel;
      return {
        ...lineless,
        index: i + 1,
        header: channel,
        unitText: unit,
        numbers: c.numbers.slice(0, c.length),
        rowOf: c.rowOf.slice(0, c.length),
        filled: c.length - (noReading[i] as number),
        noReadingCells: noReading[i] as number,
        samples: [...c.numbers.slice(0, Math.min(3, c.length))].map((v) => String(Math.round(v * 1000) / 1000)),
      };
    }),
  ];
  return {
    dialect: undefined,
    layout: "capture",
    columns: made,
    rows: time.length,
    lineOfRow: time.rowOf.slice(0, time.length),
    lines: {
      read: line,
      head: 0,
      blank: blankLines,
      repeatedHeader: 0,
      rejected: rejectCount,
      unused: unusedRows,
      rows: time.length,
    },
    rejects,
    rejectCount,
    repeatedHeaderLines: [],
  };
}
