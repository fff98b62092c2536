import { createHash } from "node:crypto";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { BackupManifest, type BackupManifestData } from "@gearsense/contract";
import type { ClientBase } from "pg";
import * as copyStreams from "pg-copy-streams";
import { extract as startExtract } from "tar-stream";
import { HttpError } from "../http/errors.ts";
import { CHUNK_BYTES } from "../logs/store.ts";
import { backupTables, migrationsOf, quoted } from "./tables.ts";
import { HASHES, MANIFEST } from "./write.ts";

const MANIFEST_BYTES = 1 << 20;
const HASHES_BYTES = 256 << 20;
/** Somebody is writing just now: longer than this nobody is kept waiting. */
const LOCK_MS = 10_000;
const UUID = "[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}";
const PHOTO = new RegExp(`^photos/(${UUID})\\.jpg$`);
const LOG = new RegExp(`^logs/(${UUID})/[^/]+$`);

export interface RestoreWork {
  readonly signal?: AbortSignal | undefined;
  /** bytes that have been read so far */
  readonly onBytes?: ((bytes: number) => void) | undefined;
}

const refuse = (message: string) => new HttpError(422, "bad-backup", `${message} Nothing was changed.`);

async function small(content: AsyncIterable<Buffer>, most: number, name: string): Promise<string> {
  const parts: Buffer[] = [];
  let bytes = 0;
  for await (const part of content) {
    bytes += part.length;
    if (bytes > most) throw refuse(`${name} in the backup is over ${most >> 20} MB.`);
    parts.push(part);
  }
  return Buffer.concat(parts).toString("utf8");
}

/** @throws HttpError for one that is none, or of another version */
function manifestOf(text: string, here: readonly string[]): BackupManifestData {
  let raw: unknown;
  try {
    raw = JSON.parse(text);
  } catch {
    throw refuse(`${MANIFEST} in the backup is not valid JSON.`);
  }
  const checked = BackupManifest.safeParse(raw);
  if (!checked.success) {
    const issue = checked.error.issues[0];
    throw refuse(`${MANIFEST} in the backup: ${issue?.path.join(".") || "it"}: ${issue?.message}.`);
  }
  const { migrations } = checked.data;
  const same = migrations.length === here.length && migrations.every((m, i) => m === here[i]);
  if (!same)
    throw new HttpError(
      422,
      "other-version",
      `This backup is of another version of Gearsense: its database stood at ${migrations.at(-1) ?? "nothing"}, this one at ${here.at(-1) ?? "nothing"}. Restore it with the version that made it, then update. Nothing was changed.`,
    );
  return checked.data;
}

/**
 * Puts a backup in the place of everything that is in the database: all of it or nothing. Every part is compared with its
 * hash. Afterwards nobody is signed in.
 * @param client - a connection for this alone, on a database of this version
 * @param source - bytes of the archive, read once
 * @throws HttpError 422 `bad-backup`, `other-version`, 409 `busy`; nothing was changed then
 */
export async function restoreBackup(
  client: ClientBase,
  source: Readable,
  work: RestoreWork,
): Promise<BackupManifestData> {
  const { signal, onBytes } = work;
  const tables = await backupTables(client);
  const here = await migrationsOf(client);
  const extract = startExtract();
  let feeding: Promise<void> | undefined;
  let manifest: BackupManifestData | undefined;
  let listed: Map<string, string> | undefined;
  const seen = new Map<string, string>();
  let total = 0;
  const load = async (name: string, content: AsyncIterable<Buffer>) => {
    if (name === MANIFEST) {
      manifest = manifestOf(await small(content, MANIFEST_BYTES, name), here);
      await empty(client, tables);
      return;
    }
    if (!manifest) throw refuse(`The file is not a backup of Gearsense: ${MANIFEST} does not stand at its head.`);
    const table = /^tables\/([a-z_]+)\.csv$/.exec(name)?.[1];
    if (table) await loadTable(client, tables, manifest, table, content);
    else if (PHOTO.test(name)) await loadPhoto(client, PHOTO.exec(name)?.[1] as string, content);
    else if (LOG.test(name)) await loadLog(client, LOG.exec(name)?.[1] as string, content);
    else throw refuse(`The backup holds ${name.slice(0, 100)}, which does not belong into one.`);
  };
  await client.query("begin");
  try {
    await client.query(`set local lock_timeout = ${LOCK_MS}`);
    await client.query("set local datestyle = 'ISO, YMD'");
    await client.query("set local timezone = 'UTC'");
    // not earlier: a part that comes before anybody listens is lost
    feeding = pipeline(source, extract, signal ? { signal } : {});
    // what goes wrong in it is met where the parts are read
    feeding.catch(() => undefined);
    for await (const entry of extract) {
      const { name } = entry.header;
      if (listed) throw refuse(`The backup goes on after ${HASHES}.`);
      if (seen.has(name)) throw refuse(`The backup holds ${name.slice(0, 100)} twice.`);
      const hash = createHash("sha256");
      const content = (async function* () {
        for await (const part of entry as AsyncIterable<Buffer>) {
          signal?.throwIfAborted();
          hash.update(part);
          total += part.length;
          onBytes?.(total);
          yield part;
        }
      })();
      if (name === HASHES) {
        listed = hashesIn(await small(content, HASHES_BYTES, name));
        continue;
      }
      await load(name, content);
      // what a part did not take counts for its hash
      for await (const _ of content);
      seen.set(name, hash.digest("hex"));
    }
    await feeding;
    if (!manifest) throw refuse("The file is not a backup of Gearsense: it holds nothing.");
    if (!listed) throw refuse(`The backup is cut short: ${HASHES} is missing at its end.`);
    for (const [name, hash] of listed) {
      const found = seen.get(name);
      if (found === undefined) throw refuse(`The backup lacks ${name.slice(0, 100)}.`);
      if (found !== hash) throw refuse(`${name.slice(0, 100)} does not match its hash: the backup is damaged.`);
    }
    for (const name of seen.keys())
      if (!listed.has(name)) throw refuse(`${name.slice(0, 100)} is not in the list of hashes.`);
    await complete(client);
    await client.query("commit");
    return manifest;
  } catch (error) {
    extract.destroy();
    await feeding?.catch(() => undefined);
    await client.query("rollback");
    throw inWords(error);
  }
}

/** Everything goes, and what hung on it: sessions, work that waits. */
async function empty(client: ClientBase, tables: Awaited<ReturnType<typeof backupTables>>): Promise<void> {
  await client.query(`truncate ${[...tables.map((t) => t.name), "session", "work_output"].map(quoted).join(", ")}`);
  const { rows } = await client.query("select to_regclass('pgboss.job') is not null as is");
  if (rows[0]?.is) await client.query("delete from pgboss.job");
  // photos wait here for their pictures
  await client.query("create temporary table photo_row on commit drop as select * from photo limit 0");
}

async function loadTable(
  client: ClientBase,
  tables: Awaited<ReturnType<typeof backupTables>>,
  manifest: BackupManifestData,
  name: string,
  content: AsyncIterable<Buffer>,
): Promise<void> {
  const table = tables.find((t) => t.name === name);
  const columns = manifest.tables[name];
  const fits = table && columns?.length === table.columns.length && table.columns.every((c) => columns.includes(c));
  if (!table || !columns || !fits) throw refuse(`The backup’s table ${name} doesn’t have the columns of this version.`);
  const into = name === "photo" ? "photo_row" : name;
  await pipeline(
    Readable.from(content),
    client.query(
      copyStreams.from(
        `copy ${quoted(into)} (${columns.map(quoted).join(", ")}) from stdin (format csv, header match, encoding 'UTF8')`,
      ),
    ),
  );
}

async function loadPhoto(client: ClientBase, id: string, content: AsyncIterable<Buffer>): Promise<void> {
  const parts: Buffer[] = [];
  for await (const part of content) parts.push(part);
  await client.query("update photo_row set content = $2 where id = $1", [id, Buffer.concat(parts)]);
  const { rowCount } = await client.query("insert into photo select * from photo_row where id = $1", [id]);
  await client.query("delete from photo_row where id = $1", [id]);
  if (rowCount !== 1) throw refuse(`The backup holds the photo ${id}, and nothing of it in its tables.`);
}

async function loadLog(client: ClientBase, id: string, content: AsyncIterable<Buffer>): Promise<void> {
  let position = 0;
  let parts: Buffer[] = [];
  let bytes = 0;
  const store = async (chunk: Buffer) => {
    const { rowCount } = await client.query(
      "insert into log_chunk (shop_id, log_id, position, content) select shop_id, id, $2, $3 from log where id = $1",
      [id, position, chunk],
    );
    if (rowCount !== 1) throw refuse(`The backup holds the log ${id}, and nothing of it in its tables.`);
    position += 1;
  };
  for await (const part of content) {
    parts.push(part);
    bytes += part.length;
    if (bytes < CHUNK_BYTES) continue;
    let all = Buffer.concat(parts);
    for (; all.length >= CHUNK_BYTES; all = all.subarray(CHUNK_BYTES)) await store(all.subarray(0, CHUNK_BYTES));
    parts = [all];
    bytes = all.length;
  }
  if (bytes > 0) await store(Buffer.concat(parts));
}

/** What the tables speak of is there. */
async function complete(client: ClientBase): Promise<void> {
  const { rows: logs } = await client.query<{ file_name: string }>(`
    select file_name from log l
    where bytes <> (select coalesce(sum(octet_length(content)), 0) from log_chunk c where c.log_id = l.id) limit 1`);
  if (logs[0]) throw refuse(`The backup holds not all bytes of the log ${logs[0].file_name}.`);
  const { rows: photos } = await client.query<{ id: string }>("select id from photo_row limit 1");
  if (photos[0]) throw refuse(`The backup lacks the picture of the photo ${photos[0].id}.`);
  const { rows: owners } = await client.query("select 1 from account where role = 'owner' limit 1");
  if (!owners[0]) throw refuse("Nobody in the backup is an owner: nobody could sign in to change the shop.");
}

function hashesIn(text: string): Map<string, string> {
  const list = new Map<string, string>();
  for (const line of text.split("\n")) {
    if (line === "") continue;
    const [, hash, name] = /^([0-9a-f]{64}) {2}(.+)$/.exec(line) ?? [];
    if (!hash || !name) throw refuse(`${HASHES} in the backup holds a line that is no hash and name.`);
    list.set(name, hash);
  }
  return list;
}

/** Classes of PostgreSQL for values that do not fit: the archive was changed by hand. */
const NO_FIT = /^(22...|23...)$/;

function inWords(error: unknown): unknown {
  const { code, message } = error as { code?: unknown; message?: unknown };
  if (error instanceof HttpError || typeof code !== "string") {
    const tar = typeof message === "string" && /tar|Unexpected end of data|Invalid/i.test(message);
    return !(error instanceof HttpError) && tar
      ? refuse("The file is not a whole tar archive: it is cut short, or no backup of Gearsense.")
      : error;
  }
  if (code === "55P03")
    return new HttpError(
      409,
      "busy",
      "Somebody is writing just now. Try again in a moment, or stop Gearsense and restore by ./gearsense restore. Nothing was changed.",
    );
  if (NO_FIT.test(code)) return refuse(`The backup does not fit together: ${String(message)}.`);
  return error;
}
