import { createHash } from "node:crypto";
import { mkdtemp, open, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Readable } from "node:stream";
import { HttpError } from "./errors.ts";

/** The body of a request as a file of this machine, there as long as it is worked on. */
export interface Spooled {
  readonly path: string;
  /** folder for what is made of it; it goes with the file */
  readonly folder: string;
  readonly bytes: number;
  readonly sha256: string;
  /** the first bytes, at most 64 kB */
  readonly head: Buffer;
}
const HEAD_BYTES = 1 << 16;

/** A folder that is there while something is worked on. */
export async function inFolder<T>(work: (folder: string) => Promise<T>): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), "gearsense-"));
  try {
    return await work(folder);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/**
 * Takes the body of a request to disk, so that a sender who is slow holds no connection to the database, then works on it.
 * What is refused halfway is read to its end, so that the connection can be used again.
 * @param limits.most - bytes
 * @param limits.tooLarge - refusal, given the bytes that came
 * @throws HttpError 400 `upload-cut` when the sender has gone
 */
export function spooled<T>(
  source: Readable,
  limits: {
    readonly most: number;
    readonly tooLarge: (bytes: number) => HttpError;
    readonly name: string;
    readonly announced?: number;
  },
  work: (file: Spooled) => Promise<T>,
): Promise<T> {
  return inFolder(async (folder) => {
    const path = join(folder, "body");
    const file = await open(path, "w");
    const hash = createHash("sha256");
    const head: Buffer[] = [];
    let bytes = 0;
    try {
      for await (const part of arriving(source, () => bytes, limits)) {
        if (bytes < HEAD_BYTES) head.push(part);
        bytes += part.length;
        if (bytes > limits.most) throw limits.tooLarge(bytes);
        hash.update(part);
        await file.write(part);
      }
    } finally {
      source.resume();
      await file.close();
    }
    return work({ path, folder, bytes, sha256: hash.digest("hex"), head: Buffer.concat(head).subarray(0, HEAD_BYTES) });
  });
}

/** The parts of a body; a sender who goes away is told as such, trouble of our own disk isn't. */
async function* arriving(
  source: Readable,
  arrived: () => number,
  { name, announced }: { readonly name: string; readonly announced?: number },
): AsyncGenerator<Buffer> {
  const parts = source.iterator({ destroyOnReturn: false });
  try {
    for (;;) {
      let next: IteratorResult<Buffer>;
      try {
        next = await parts.next();
      } catch {
        throw new HttpError(
          400,
          "upload-cut",
          `The connection broke after ${arrived()}${announced === undefined ? "" : ` of ${announced}`} bytes of ${name}. Nothing was stored; send the file again.`,
        );
      }
      if (next.done) return;
      yield next.value;
    }
  } finally {
    // lets go of the body, so that the rest of it can flow past
    await parts.return?.();
  }
}
