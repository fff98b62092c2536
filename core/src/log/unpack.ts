import { Gunzip, Unzip, UnzipInflate, unzipSync } from "fflate";
import { InputError } from "./input-error.ts";

/** Largest log that is read, in bytes, packed or not. Stated before upload and enforced by the server as well. */
export const MAX_LOG_BYTES = 100 * 1024 * 1024;

export interface Unpacked {
  readonly bytes: Uint8Array;
  readonly container: "none" | "gzip" | "zip";
  /** name of the file within a zip archive */
  readonly entry: string | undefined;
  /** what was wrong with the archive and could be passed over */
  readonly repair: string | undefined;
}

const MEGABYTE = 1 << 20;
/** a piece of this size unpacks to at most about a thousand times as much before the limit is looked at */
const PIECE = 1 << 14;

export const isGzip = (b: Uint8Array): boolean => b[0] === 0x1f && b[1] === 0x8b;
export const isZip = (b: Uint8Array): boolean =>
  b[0] === 0x50 && b[1] === 0x4b && ((b[2] === 3 && b[3] === 4) || (b[2] === 5 && b[3] === 6));

const tooLarge = () =>
  new InputError(
    "too-large",
    `Unpacked, the log has over ${MAX_LOG_BYTES / MEGABYTE} MB; no more is read. Cut the log or record fewer channels.`,
  );
const broken = (what: string, error: unknown) =>
  new InputError(
    "archive",
    `The ${what} archive is damaged (${error instanceof Error ? error.message : String(error)}). Copy it from the scan tool again.`,
  );

function joined(parts: readonly Uint8Array[]): Uint8Array {
  const whole = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const p of parts) {
    whole.set(p, at);
    at += p.length;
  }
  return whole;
}

function gunzip(bytes: Uint8Array): Unpacked {
  const parts: Uint8Array[] = [];
  let size = 0;
  let members = 1;
  const stream = new Gunzip((part) => {
    size += part.length;
    if (size > MAX_LOG_BYTES) throw tooLarge();
    parts.push(part);
  });
  stream.onmember = () => {
    members++;
  };
  let fault: unknown;
  try {
    for (let at = 0; at < bytes.length; at += PIECE)
      stream.push(bytes.subarray(at, at + PIECE), at + PIECE >= bytes.length);
  } catch (error) {
    if (error instanceof InputError) throw error;
    if (size === 0) throw broken("gzip", error);
    fault = error;
  }
  const whole = joined(parts);
  // the last four bytes of a member hold its length
  const tail = bytes.subarray(-4);
  const stated = new DataView(tail.buffer, tail.byteOffset, tail.byteLength).getUint32(0, true);
  const cut = fault !== undefined || (members === 1 && stated !== size);
  return {
    bytes: whole,
    container: "gzip",
    entry: undefined,
    repair: cut ? "the archive ends early or is damaged; what could be unpacked was read" : undefined,
  };
}

const LOG_NAME = /\.(csv|tsv|txt|log|dat|asc|gz|zip)$/i;

function unzip(bytes: Uint8Array): Unpacked {
  const names: { name: string; size: number }[] = [];
  try {
    unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (!name.endsWith("/") && !/(^|\/)(\.|__MACOSX\/)/.test(name)) names.push({ name, size: originalSize });
        return false;
      },
    });
  } catch (error) {
    throw broken("zip", error);
  }
  if (names.some((n) => n.name === "[Content_Types].xml"))
    throw new InputError(
      "archive",
      "This is a spreadsheet or office document. Save its table as CSV and choose that file.",
    );
  const logs = names.filter((n) => LOG_NAME.test(n.name));
  const candidates = logs.length > 0 ? logs : names;
  const [only] = candidates;
  if (!only) throw new InputError("archive", "The zip archive holds no file. Pack the log again.");
  if (candidates.length > 1)
    throw new InputError(
      "archive",
      `The zip archive holds ${candidates.length} files: ${candidates
        .slice(0, 6)
        .map((c) => c.name)
        .join(", ")}${candidates.length > 6 ? " …" : ""}. Unpack it and add the logs one by one.`,
    );
  if (only.size > MAX_LOG_BYTES) throw tooLarge();
  const parts: Uint8Array[] = [];
  let size = 0;
  let taken = false;
  const stream = new Unzip((file) => {
    // an archive may name the same file over and over: the first one counts
    if (file.name !== only.name || taken) return;
    taken = true;
    file.ondata = (error, part) => {
      if (error) throw error;
      size += part.length;
      if (size > MAX_LOG_BYTES) throw tooLarge();
      parts.push(part);
    };
    file.start();
  });
  stream.register(UnzipInflate);
  try {
    for (let at = 0; at < bytes.length; at += PIECE)
      stream.push(bytes.subarray(at, at + PIECE), at + PIECE >= bytes.length);
  } catch (error) {
    if (error instanceof InputError) throw error;
    throw broken("zip", error);
  }
  const inner = joined(parts);
  if (inner.length === 0)
    throw new InputError("archive", `${only.name} in the zip archive is empty. Pack the log again.`);
  return { bytes: inner, container: "zip", entry: only.name, repair: undefined };
}

/**
 * Takes a log out of its gzip or zip archive; anything else is handed through. Never unpacks more than
 * {@link MAX_LOG_BYTES}, and one archive only.
 * @throws InputError `archive`, `too-large`
 */
export function unpackLog(bytes: Uint8Array): Unpacked {
  if (bytes.length > MAX_LOG_BYTES)
    throw new InputError(
      "too-large",
      `The file has ${Math.ceil(bytes.length / MEGABYTE)} MB; up to ${MAX_LOG_BYTES / MEGABYTE} MB are read. Cut the log or record fewer channels.`,
    );
  const made = isGzip(bytes)
    ? gunzip(bytes)
    : isZip(bytes)
      ? unzip(bytes)
      : ({ bytes, container: "none", entry: undefined, repair: undefined } as const);
  if (made.container !== "none" && (isGzip(made.bytes) || isZip(made.bytes)))
    throw new InputError("archive", "The archive holds another archive. Unpack it and choose the log itself.");
  return made;
}
