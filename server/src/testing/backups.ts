import { Readable, Writable } from "node:stream";
import type { Knex } from "knex";
import type pg from "pg";
import { extract, pack } from "tar-stream";
import { withClient } from "../backup/copies.ts";
import { restoreBackup } from "../backup/restore.ts";
import { backupTables, quoted } from "../backup/tables.ts";
import { type BackupWork, writeBackup } from "../backup/write.ts";

/** A backup of a database, in memory. */
export async function backupOf(url: string, work: Partial<BackupWork> = {}): Promise<Buffer> {
  const parts: Buffer[] = [];
  const sink = new Writable({
    write(part, _encoding, done) {
      parts.push(part);
      done();
    },
  });
  await withClient(url, (client) => writeBackup(client, sink, { madeAt: new Date("2026-11-30T10:00:00Z"), ...work }));
  return Buffer.concat(parts);
}

export const restoreTo = (url: string, archive: Buffer, pieces = 1 << 16) =>
  withClient(url, (client) =>
    restoreBackup(
      client,
      Readable.from(
        (function* () {
          for (let at = 0; at < archive.length; at += pieces) yield archive.subarray(at, at + pieces);
        })(),
      ),
      {},
    ),
  );

/** Every row of every table that belongs into a backup, contents too. */
export async function everything(url: string): Promise<Record<string, unknown[]>> {
  return withClient(url, async (client: pg.Client) => {
    const all: Record<string, unknown[]> = {};
    for (const { name } of await backupTables(client)) {
      const { rows } = await client.query(`select t::text as row from ${quoted(name)} t order by 1`);
      all[name] = rows.map((r) => r.row);
    }
    return all;
  });
}

export interface ArchivePart {
  readonly name: string;
  readonly content: Buffer;
}

/** The parts of an archive in order. */
export async function partsIn(archive: Buffer): Promise<ArchivePart[]> {
  const reader = extract();
  reader.end(archive);
  const parts: ArchivePart[] = [];
  for await (const entry of reader) {
    const bytes: Buffer[] = [];
    for await (const part of entry as AsyncIterable<Buffer>) bytes.push(part);
    parts.push({ name: entry.header.name, content: Buffer.concat(bytes) });
  }
  return parts;
}

/** An archive of parts. */
export async function archiveOf(parts: readonly ArchivePart[]): Promise<Buffer> {
  const writer = pack();
  for (const { name, content } of parts) writer.entry({ name }, content);
  writer.finalize();
  const bytes: Buffer[] = [];
  for await (const part of writer as AsyncIterable<Buffer>) bytes.push(part);
  return Buffer.concat(bytes);
}

export const rowsIn = async (db: Knex, table: string): Promise<number> =>
  Number((await db(table).count({ n: "*" }).first())?.n);
