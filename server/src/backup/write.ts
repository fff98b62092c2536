import { createHash } from "node:crypto";
import { createReadStream, createWriteStream } from "node:fs";
import { stat } from "node:fs/promises";
import { join } from "node:path";
import { Readable, type Writable } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { BackupManifestData } from "@gearsense/contract";
import type { ClientBase } from "pg";
import { to as copyTo } from "pg-copy-streams";
import { pack as startPack } from "tar-stream";
import { inFolder } from "../http/spool.ts";
import { copiedRows } from "./copied-rows.ts";
import { type BackupTable, backupTables, migrationsOf, quoted } from "./tables.ts";

export const MANIFEST = "gearsense-backup.json";
export const HASHES = "sha256.txt";

export interface BackupWork {
  readonly madeAt: Date;
  /** only what is this shop's */
  readonly shopId?: string | undefined;
  readonly signal?: AbortSignal | undefined;
  /** bytes that have passed so far */
  readonly onBytes?: ((bytes: number) => void) | undefined;
}

/** So that the hash of what is handed on is that of what was read. */
interface Part {
  readonly name: string;
  readonly bytes: number;
  readonly content: AsyncIterable<Buffer>;
}

const plainName = (name: string) => name.replace(/[/\\]|\p{Cc}/gu, "_").slice(0, 120) || "_";

/** The parts of a backup, one after another; none is held in memory. */
async function* partsOf(
  client: ClientBase,
  tables: readonly BackupTable[],
  { madeAt, shopId }: BackupWork,
  folder: string,
): AsyncGenerator<Part> {
  const whose = (column: string | undefined) =>
    shopId === undefined ? "" : ` where ${column === undefined ? "false" : `${quoted(column)} = '${shopId}'`}`;
  const { rows: shops } = await client.query<{ name: string }>(`select name from shop${whose("id")} order by name`);
  const manifest: BackupManifestData = {
    format: "gearsense-backup",
    formatVersion: 1,
    madeAt: madeAt.toISOString(),
    migrations: await migrationsOf(client),
    shops: shops.map((s) => s.name),
    tables: Object.fromEntries(tables.map((t) => [t.name, [...t.columns]])),
  };
  const text = (name: string, content: string): Part => {
    const bytes = Buffer.from(content);
    return { name, bytes: bytes.length, content: Readable.from([bytes]) };
  };
  yield text(MANIFEST, `${JSON.stringify(manifest, null, 1)}\n`);
  for (const { name, columns, shopColumn } of tables) {
    if (name === "log_chunk") continue;
    // an archive tells the size of a part before the part: the table lies on disk first
    const path = join(folder, "table");
    const list = columns.map(quoted).join(", ");
    const rows = `select ${list} from ${quoted(name)}${whose(shopColumn)}`;
    await pipeline(
      client.query(copyTo(`copy (${rows}) to stdout (format csv, header true, encoding 'UTF8')`)),
      createWriteStream(path),
    );
    yield { name: `tables/${name}.csv`, bytes: (await stat(path)).size, content: createReadStream(path) };
  }
  for await (const [id, content] of copiedRows(
    client,
    `select id::text, content from photo${whose("shop_id")} order by id`,
  )) {
    const picture = content ?? Buffer.alloc(0);
    yield { name: `photos/${id}.jpg`, bytes: picture.length, content: Readable.from([picture]) };
  }
  const { rows: logs } = await client.query<{ id: string; file_name: string; bytes: string }>(
    `select id, file_name, bytes from log${whose("shop_id")} order by id`,
  );
  const chunks = copiedRows(
    client,
    `select log_id::text, content from log_chunk${whose("shop_id")} order by log_id, position`,
  );
  let next = await chunks.next();
  for (const { id, file_name, bytes } of logs)
    yield {
      name: `logs/${id}/${plainName(file_name)}`,
      bytes: Number(bytes),
      content: (async function* () {
        for (; !next.done && next.value[0]?.toString() === id; next = await chunks.next())
          yield next.value[1] ?? Buffer.alloc(0);
      })(),
    };
  // of the last log nothing is left over, and the connection is free again
  while (!next.done) next = await chunks.next();
}

/**
 * Writes a backup as a tar archive, as the database stood at one moment, whoever goes on writing meanwhile. The last part
 * is the list of hashes of all others, as `sha256sum -c` reads it.
 * @param client - a connection for this alone
 * @returns bytes of all parts
 * @throws AbortError when it was called off; whatever the sink or the database throws
 */
export async function writeBackup(client: ClientBase, sink: Writable, work: BackupWork): Promise<number> {
  const { signal, madeAt, onBytes } = work;
  const pack = startPack();
  const heardElsewhere = () => undefined;
  pack.on("error", heardElsewhere);
  const hashes: string[] = [];
  let total = 0;
  const add = async ({ name, bytes, content }: Part, hashed = true) => {
    const hash = createHash("sha256");
    await new Promise<void>((resolve, reject) => {
      const entry = pack.entry({ name, size: bytes, mtime: madeAt, mode: 0o600 }, (error) =>
        error ? reject(error) : resolve(),
      );
      entry.on("error", heardElsewhere);
      (async () => {
        for await (const chunk of content) {
          signal?.throwIfAborted();
          hash.update(chunk);
          total += chunk.length;
          onBytes?.(total);
          if (!entry.write(chunk)) await new Promise<void>((r) => entry.once("drain", () => r()));
        }
        entry.end(undefined);
      })().catch(reject);
    });
    if (hashed) hashes.push(`${hash.digest("hex")}  ${name}\n`);
  };
  const write = async () => {
    await inFolder(async (folder) => {
      await client.query("begin isolation level repeatable read read only");
      try {
        await client.query("set local datestyle = 'ISO, YMD'");
        await client.query("set local timezone = 'UTC'");
        for await (const part of partsOf(client, await backupTables(client), work, folder)) await add(part);
      } finally {
        await client.query("rollback");
      }
    });
    const list = Buffer.from(hashes.join(""));
    await add({ name: HASHES, bytes: list.length, content: Readable.from([list]) }, false);
    pack.finalize();
  };
  // whichever side fails ends the other: nobody takes what is packed, or nothing more comes
  const ends = (error: unknown) => {
    pack.destroy(error instanceof Error ? error : new Error(String(error)));
    throw error;
  };
  const flow = pipeline(Readable.from(pack), sink, signal ? { signal } : {}).catch(ends);
  await Promise.all([write().catch(ends), flow]);
  return total;
}
