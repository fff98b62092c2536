import { createWriteStream } from "node:fs";
import { mkdir, readdir, rename, rm, stat } from "node:fs/promises";
import { join } from "node:path";
import type { CopyRuleData, CopyView } from "@gearsense/contract";
import pg from "pg";
import { HttpError } from "../http/errors.ts";
import { type BackupWork, writeBackup } from "./write.ts";

const HOUR_MS = 3_600_000;
/** Any number that is ours: of all processes one makes a copy at a time. */
const COPY_LOCK = 0x67656370;
/** Of the copies before an update so many are kept. */
const BEFORE_UPDATE_KEPT = 3;
const NAME = /^gearsense-(kept|before-update)-(\d{4}-\d{2}-\d{2})T(\d{2})(\d{2})(\d{2})Z\.tar$/;

export const nameOf = (why: CopyView["why"], at: Date): string =>
  `gearsense-${why}-${at.toISOString().slice(0, 19).replaceAll(":", "")}Z.tar`;

/** The copies of a folder, newest first; other files are left alone. An absent folder has none. */
export async function copiesIn(folder: string): Promise<CopyView[]> {
  const names = await readdir(folder).catch((error: NodeJS.ErrnoException) => {
    if (error.code === "ENOENT") return [];
    throw error;
  });
  const copies = await Promise.all(
    names.map(async (name) => {
      const [, why, day, h, m, s] = NAME.exec(name) ?? [];
      if (!why) return [];
      const { size } = await stat(join(folder, name));
      return [{ name, why: why as CopyView["why"], madeAt: `${day}T${h}:${m}:${s}.000Z`, bytes: size }];
    }),
  );
  return copies.flat().sort((a, b) => b.madeAt.localeCompare(a.madeAt));
}

/** Is the next due? What was made before an update does not count: it may be of half a day. */
export function isDue(copies: readonly CopyView[], { everyHours }: CopyRuleData, now: Date): boolean {
  if (everyHours === 0) return false;
  const newest = copies.find((c) => c.why === "kept");
  return !newest || now.getTime() - Date.parse(newest.madeAt) >= everyHours * HOUR_MS;
}

/** Which are no longer kept: the oldest of each kind. */
export function surplus(copies: readonly CopyView[], keep: number): CopyView[] {
  const of = (why: CopyView["why"], most: number) => copies.filter((c) => c.why === why).slice(most);
  return [...of("kept", keep), ...of("before-update", BEFORE_UPDATE_KEPT)];
}

/** Works with a connection of its own. */
export async function withClient<T>(databaseUrl: string, work: (client: pg.Client) => Promise<T>): Promise<T> {
  const client = new pg.Client({ connectionString: databaseUrl });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

/**
 * Writes everything to a file; until it is whole it has another name.
 * @returns bytes
 */
export async function backupToFile(client: pg.Client, path: string, work: BackupWork): Promise<number> {
  const part = `${path}.part`;
  try {
    const bytes = await writeBackup(client, createWriteStream(part, { mode: 0o600 }), work);
    await rename(part, path);
    return bytes;
  } catch (error) {
    await rm(part, { force: true });
    throw error;
  }
}

/**
 * Makes a copy and lets the surplus go.
 * @throws HttpError 409 `copy-runs` when one is being made
 */
export async function makeCopy(
  databaseUrl: string,
  folder: string,
  why: CopyView["why"],
  keep: number,
  work: BackupWork,
): Promise<void> {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  await withClient(databaseUrl, async (client) => {
    const { rows } = await client.query("select pg_try_advisory_lock($1) as mine", [COPY_LOCK]);
    if (!rows[0]?.mine) throw new HttpError(409, "copy-runs", "A copy is being made already. Wait until it is done.");
    await backupToFile(client, join(folder, nameOf(why, work.madeAt)), work);
    for (const { name } of surplus(await copiesIn(folder), keep)) await rm(join(folder, name), { force: true });
  });
}
