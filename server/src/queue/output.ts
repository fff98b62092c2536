import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { Response } from "express";
import type { ShopScope } from "../db/shop-scope.ts";

const PIECE_BYTES = 1 << 20;
/** What nobody fetched is thrown away after this. */
export const OUTPUT_KEPT_MS = 3600 * 1000;

/** Keeps what work has made until it is handed out. A second attempt's takes the place of the first one's. */
export async function keepOutput(scope: ShopScope, workId: string, bytes: Uint8Array, madeAt: Date): Promise<void> {
  await scope.transaction(async (trx) => {
    await trx.from("work_output").where({ work_id: workId }).delete();
    for (let at = 0, position = 0; at === 0 || at < bytes.length; at += PIECE_BYTES, position++)
      await trx.insert("work_output", {
        work_id: workId,
        position,
        content: Buffer.from(bytes.subarray(at, at + PIECE_BYTES)),
        made_at: madeAt,
      });
  });
}

async function* pieces(scope: ShopScope, workId: string): AsyncGenerator<Buffer> {
  for (let position = 0; ; position++) {
    const row = await scope
      .from("work_output")
      .where({ work_id: workId, position })
      .first<{ content: Buffer } | undefined>("content");
    if (!row) return;
    yield row.content;
  }
}

/** Hands out what work has made, and forgets it. */
export async function handOut(scope: ShopScope, workId: string, res: Response): Promise<void> {
  await pipeline(Readable.from(pieces(scope, workId)), res);
  await scope.from("work_output").where({ work_id: workId }).delete();
}
