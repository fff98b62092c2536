import { InputError } from "./input-error.ts";
import { isGzip, isZip } from "./unpack.ts";

export interface DecodedText {
  readonly text: string;
  readonly encoding: "utf-8" | "utf-16le" | "utf-16be" | "windows-1252";
  readonly byteOrderMark: boolean;
}

const MAGIC: readonly (readonly [string, readonly number[]])[] = [
  ["a PNG picture", [0x89, 0x50, 0x4e, 0x47]],
  ["a JPEG picture", [0xff, 0xd8, 0xff]],
  ["a GIF picture", [0x47, 0x49, 0x46, 0x38]],
  ["a PDF document", [0x25, 0x50, 0x44, 0x46]],
  ["an archive of a kind that is not read", [0x37, 0x7a, 0xbc, 0xaf]],
  ["an archive of a kind that is not read", [0x52, 0x61, 0x72, 0x21]],
  ["a program", [0x7f, 0x45, 0x4c, 0x46]],
];
const HEAD_BYTES = 4096;

/** UTF-16 without a mark shows in its zeros: a table is mostly digits and delimiters. */
function wideWithoutMark(head: Uint8Array): "utf-16le" | "utf-16be" | undefined {
  let [even, odd] = [0, 0];
  for (let i = 0; i + 1 < head.length; i += 2) {
    if (head[i] === 0) even++;
    if (head[i + 1] === 0) odd++;
  }
  const half = head.length / 2;
  if (odd > 0.7 * half && even < 0.1 * half) return "utf-16le";
  if (even > 0.7 * half && odd < 0.1 * half) return "utf-16be";
  return undefined;
}

const marked = (b: Uint8Array): "utf-16le" | "utf-16be" | undefined =>
  b[0] === 0xff && b[1] === 0xfe ? "utf-16le" : b[0] === 0xfe && b[1] === 0xff ? "utf-16be" : undefined;

/**
 * Says what a file is when it is plainly neither text nor an archive that is read.
 * @param bytes - the file or its first few kilobytes
 * @returns undefined when it may be a log
 */
export function binaryKind(bytes: Uint8Array): string | undefined {
  for (const [name, magic] of MAGIC) if (magic.every((b, i) => bytes[i] === b)) return name;
  if (isGzip(bytes) || isZip(bytes)) return undefined;
  const head = bytes.subarray(0, HEAD_BYTES);
  if (marked(head) || wideWithoutMark(head)) return undefined;
  let control = 0;
  for (const b of head) if (b < 9 || (b > 13 && b < 32)) control++;
  return control > head.length * 0.02 ? "a binary file" : undefined;
}

/**
 * Bytes to text. The encoding is the byte order mark's, else UTF-16 where every other byte is zero, else UTF-8 when the
 * bytes are valid, else Windows-1252, which reads Latin-1 as well.
 * @throws InputError `empty-file`, `binary-file`
 */
export function decodeLog(bytes: Uint8Array): DecodedText {
  if (bytes.length === 0) {
    throw new InputError(
      "empty-file",
      "The file is empty: 0 bytes. Export the log again and check that the recording was saved.",
    );
  }
  const binary = binaryKind(bytes);
  if (binary) {
    throw new InputError(
      "binary-file",
      `This is ${binary}, not a text log. Export the recording as CSV from the scan tool.`,
    );
  }
  const wide = marked(bytes);
  if (wide) return { text: new TextDecoder(wide).decode(bytes), encoding: wide, byteOrderMark: true };
  const bare = wideWithoutMark(bytes.subarray(0, HEAD_BYTES));
  if (bare) return { text: new TextDecoder(bare).decode(bytes), encoding: bare, byteOrderMark: false };
  const byteOrderMark = bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf;
  try {
    return { text: new TextDecoder("utf-8", { fatal: true }).decode(bytes), encoding: "utf-8", byteOrderMark };
  } catch {
    return { text: new TextDecoder("windows-1252").decode(bytes), encoding: "windows-1252", byteOrderMark };
  }
}
