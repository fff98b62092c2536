import type { Readable } from "node:stream";
import { HttpError } from "./errors.ts";

/**
 * The whole body of a request that is kept in memory.
 * @throws HttpError 413 when it is larger than allowed; the rest is read away, so that the connection can be used again
 */
export async function bytesOf(source: Readable, most: number, what: string): Promise<Buffer> {
  const parts: Buffer[] = [];
  let size = 0;
  try {
    for await (const part of source.iterator({ destroyOnReturn: false })) {
      size += part.length;
      if (size > most)
        throw new HttpError(413, "too-large", `${what} is over ${most >> 20} MB and was not read. Nothing was stored.`);
      parts.push(part);
    }
  } finally {
    source.resume();
  }
  return Buffer.concat(parts);
}
