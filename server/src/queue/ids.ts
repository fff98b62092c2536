import { createHash } from "node:crypto";

/** An id (UUID version 8, RFC 9562) that is the same for the same words, so that one piece of work is asked for once. */
export function idOf(...words: readonly string[]): string {
  const hash = createHash("sha256").update(JSON.stringify(words)).digest().subarray(0, 16);
  hash.writeUInt8((hash.readUInt8(6) & 0x0f) | 0x80, 6);
  hash.writeUInt8((hash.readUInt8(8) & 0x3f) | 0x80, 8);
  return hash.toString("hex").replace(/^(.{8})(.{4})(.{4})(.{4})/, "$1-$2-$3-$4-");
}
