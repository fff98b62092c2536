import type { Readable } from "node:stream";
import { HttpError } from "./errors.ts";

/**
 * The whole body of a request that is kept in memory.
 * @throws HttpError 413 when it is larger than allowed
 */
export async function bytesOf(source: Readable, most: number, what: string): Promise<Buffer> {
  const parts: Buffer[] = [];
  let size = 0;
  for await (const part of source) {
    size += part.length;
    if (size > most)
      throw new HttpError(413, "too-large", `${what} is over ${most >> 20} MB and was not read. Nothing was stored.`);
    parts.push(part);
  }
  return Buffer.concat(parts);
}
