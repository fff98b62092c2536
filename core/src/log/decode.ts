import { InputError } from "./input-error.ts";

/** Largest log that is read, in bytes. Stated before upload and enforced by the server as well. */
export const MAX_LOG_BYTES = 100 * 1024 * 1024;

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
  ["a zip archive or spreadsheet", [0x50, 0x4b, 0x03, 0x04]],
  ["a gzip archive", [0x1f, 0x8b]],
  ["a program", [0x7f, 0x45, 0x4c, 0x46]],
];

/** Says what a file is when it is plainly not text. @returns undefined when it may be text */
export function binaryKind(bytes: Uint8Array): string | undefined {
  for (const [name, magic] of MAGIC) if (magic.every((b, i) => bytes[i] === b)) return name;
  const wide = (bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff);
  if (wide) return undefined;
  const head = bytes.subarray(0, 4096);
  let control = 0;
  for (const b of head) if (b < 9 || (b > 13 && b < 32)) control++;
  return control > head.length * 0.02 ? "a binary file" : undefined;
}

/**
 * Bytes to text. The encoding is the byte order mark's, else UTF-8 when the bytes are valid, else Windows-1252.
 * @throws InputError `empty-file`, `binary-file`, `too-large`
 */
export function decodeLog(bytes: Uint8Array): DecodedText {
  if (bytes.length === 0) {
    throw new InputError(
      "empty-file",
      "The file is empty: 0 bytes. Export the log again and check that the recording was saved.",
    );
  }
  if (bytes.length > MAX_LOG_BYTES) {
    throw new InputError(
      "too-large",
      `The file has ${Math.ceil(bytes.length / 1048576)} MB; up to ${MAX_LOG_BYTES / 1048576} MB are read. Cut the log or record fewer channels.`,
    );
  }
  const binary = binaryKind(bytes);
  if (binary) {
    throw new InputError(
      "binary-file",
      `This is ${binary}, not a text log. Export the recording as CSV from the scan tool.`,
    );
  }
  if (bytes[0] === 0xff && bytes[1] === 0xfe) {
    return { text: new TextDecoder("utf-16le").decode(bytes), encoding: "utf-16le", byteOrderMark: true };
  }
  if (bytes[0] === 0xfe && bytes[1] === 0xff) {
    return { text: new TextDecoder("utf-16be").decode(bytes), encoding: "utf-16be", byteOrderMark: true };
  }
  const byteOrderMark = bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf;
  try {
    return { text: new TextDecoder("utf-8", { fatal: true }).decode(bytes), encoding: "utf-8", byteOrderMark };
  } catch {
    return { text: new TextDecoder("windows-1252").decode(bytes), encoding: "windows-1252", byteOrderMark };
  }
}
