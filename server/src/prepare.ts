import type { Knex } from "knex";
import { makeCopy } from "./backup/copies.ts";
import { migrate } from "./db/connect.ts";
import { ShopScope } from "./db/shop-scope.ts";
import { fillHeads } from "./jobs/service.ts";
import { type Library, loadLibrary } from "./library/load.ts";
import { OUTPUT_KEPT_MS } from "./queue/output.ts";
import { prepareQueue } from "./queue/queue.ts";

/** A write is sent again within minutes, or after a night without a network. */
const KEYS_KEPT_MS = 30 * 24 * 3600 * 1000;
/** Any number that is ours. */
const START_LOCK = 0x67656173;

/**
 * Brings the database to where this version needs it. Processes that start together do it one after another: who comes
 * second finds it done. A lock of Knex that stands then was left by a process that is gone.
 * @param first - what else is done once, on an empty database
 * @param backupFolder - where a copy is put before anything is changed; undefined: none is made
 * @throws Error when that copy cannot be made; nothing was changed then
 */
export async function prepare(
  db: Knex,
  databaseUrl: string,
  first: () => Promise<void>,
  backupFolder?: string,
): Promise<void> {
  // the lock ends with its connection: the transaction holds one, and nothing else is done in it
  await db.transaction(async (trx) => {
    await trx.raw("select pg_advisory_xact_lock(?)", [START_LOCK]);
    await db.migrate.forceFreeMigrationsLock();
    if (backupFolder !== undefined) await copyBeforeUpdate(db, databaseUrl, backupFolder);
    await migrate(db);
    await prepareQueue(databaseUrl);
    await db("write_key")
      .where("at", "<", new Date(Date.now() - KEYS_KEPT_MS))
      .delete();
    await db("work_output")
      .where("made_at", "<", new Date(Date.now() - OUTPUT_KEPT_MS))
      .delete();
    let library: Library | undefined;
    const knowledge = () => {
      library ??= loadLibrary();
      return library.knowledge;
    };
    for (const shopId of await db("shop").pluck<string[]>("id")) await fillHeads(new ShopScope(db, shopId), knowledge);
    await first();
  });
}

async function copyBeforeUpdate(db: Knex, databaseUrl: string, folder: string): Promise<void> {
  const [done, wanted]: [unknown[], unknown[]] = await db.migrate.list();
  if (done.length === 0 || wanted.length === 0) return;
  try {
    await makeCopy(databaseUrl, folder, "before-update", Number.POSITIVE_INFINITY, { madeAt: new Date() });
  } catch (error) {
    throw new Error(
      `before the database is brought to this version a copy is made in ${folder}, and that failed: ${error instanceof Error ? error.message : String(error)}. Nothing was changed.`,
    );
  }
}
