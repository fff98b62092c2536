/** A frame on the bus: identifier of 11 bits, or of 29 when it has eight digits in its line; up to eight bytes. */
export interface CanFrame {
  readonly id: number;
  readonly extended?: boolean | undefined;
  readonly data: Uint8Array;
}

export interface TimedFrame {
  readonly timeS: number | undefined;
  readonly frame: CanFrame;
}

const CLASSIC_BYTES = 8;
const HIGHEST_STANDARD = 0x7ff;
const HIGHEST_EXTENDED = 0x1fffffff;
/** "(1714.250000) can0 7E0#0222F40C", the time and the name of the bus may be missing. */
const LINE = /^(?:\((\d+(?:\.\d+)?)\)\s+)?(?:[A-Za-z]\w{0,15}\s+)?([0-9A-Fa-f]{3}|[0-9A-Fa-f]{8})#([0-9A-Fa-f]*)\s*$/;

const hex = (n: number, digits: number) => n.toString(16).toUpperCase().padStart(digits, "0");
export const hexOf = (data: Uint8Array): string => Array.from(data, (b) => hex(b, 2)).join("");

/** A frame as a line of a capture, without its end. @throws RangeError for an identifier or a length that no frame has */
export function writeFrame({ id, extended, data }: CanFrame, timeS: number, bus = "can0"): string {
  if (!(Number.isInteger(id) && id >= 0 && id <= (extended ? HIGHEST_EXTENDED : HIGHEST_STANDARD)))
    throw new RangeError(`${id} isn’t a frame identifier`);
  if (data.length > CLASSIC_BYTES) throw new RangeError(`a frame has up to ${CLASSIC_BYTES} bytes, not ${data.length}`);
  return `(${timeS.toFixed(6)}) ${bus} ${hex(id, extended ? 8 : 3)}#${hexOf(data)}`;
}

/** Reads a line of a capture. @returns undefined for what is none: noise of a line is skipped, never guessed */
export function readFrame(line: string): TimedFrame | undefined {
  const m = LINE.exec(line.trim());
  if (!m) return undefined;
  const [, time, id = "", digits = ""] = m;
  if (digits.length % 2 !== 0 || digits.length > 2 * CLASSIC_BYTES) return undefined;
  const number = Number.parseInt(id, 16);
  const extended = id.length === 8;
  if (number > (extended ? HIGHEST_EXTENDED : HIGHEST_STANDARD)) return undefined;
  const data = new Uint8Array(digits.length / 2);
  for (let i = 0; i < data.length; i++) data[i] = Number.parseInt(digits.slice(2 * i, 2 * i + 2), 16);
  return {
    timeS: time === undefined ? undefined : Number(time),
    frame: { id: number, ...(extended ? { extended } : {}), data },
  };
}

/** Longest line that is waited for: a device that never ends its lines fills nothing. */
export const LONGEST_LINE = 256;

/** Takes bytes as they come and gives whole lines. A line that is too long is dropped up to its end. */
export class LineReader {
  private rest = "";
  private dropping = false;
  /** lines that were longer than any frame */
  tooLong = 0;

  take(chunk: string): string[] {
    const lines: string[] = [];
    for (const [i, part] of chunk.split("\n").entries()) {
      if (i > 0) {
        if (!this.dropping) lines.push(this.rest);
        this.rest = "";
        this.dropping = false;
      }
      if (this.dropping) continue;
      this.rest += part;
      if (this.rest.length > LONGEST_LINE) {
        this.tooLong++;
        this.rest = "";
        this.dropping = true;
      }
    }
    return lines;
  }
}
