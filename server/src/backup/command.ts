import { createReadStream } from "node:fs";
import { access, stat } from "node:fs/promises";
import { createInterface } from "node:readline/promises";
import { connect } from "../db/connect.ts";
import { HttpError } from "../http/errors.ts";
import { prepare } from "../prepare.ts";
import { backupToFile, withClient } from "./copies.ts";
import { restoreBackup } from "./restore.ts";
import { migrationsOf } from "./tables.ts";

const say = (line: string) => process.stderr.write(`${line}\n`);
const megabytes = (bytes: number) => `${(bytes / 2 ** 20).toFixed(1)} MB`;
const TOLD_MS = 2000;

/** Tells every two seconds how far it has come. */
function told(what: string): (bytes: number) => void {
  let at = Date.now();
  return (bytes) => {
    if (Date.now() - at < TOLD_MS) return;
    at = Date.now();
    say(`${what} ${megabytes(bytes)} …`);
  };
}

class Refusal extends Error {}
const exists = (path: string) =>
  access(path).then(
    () => true,
    () => false,
  );

async function backup(databaseUrl: string, path: string, signal: AbortSignal): Promise<void> {
  if (await exists(path)) throw new Refusal(`${path} is there already. Give another name; nothing is overwritten.`);
  const bytes = await withClient(databaseUrl, async (client) => {
    if ((await migrationsOf(client)).length === 0)
      throw new Refusal("The database is empty: start Gearsense once before you back it up.");
    return backupToFile(client, path, { madeAt: new Date(), signal, onBytes: told("Written") });
  });
  say(`${path}: ${megabytes(bytes)}. Keep it on another machine; whoever has it can read everything in it.`);
}

async function restore(databaseUrl: string, path: string, signal: AbortSignal): Promise<void> {
  if (!(await exists(path))) throw new Refusal(`${path} is not there. Give the path of a backup.`);
  if ((await stat(path)).size === 0) throw new Refusal(`${path} is empty: 0 bytes.`);
  const db = connect(databaseUrl);
  let counted: { jobs: string; shops: string } | undefined;
  try {
    await prepare(db, databaseUrl, async () => undefined, process.env.BACKUP_FOLDER || undefined);
    const { rows } = await db.raw(
      "select (select count(*) from job) as jobs, (select string_agg(name, ', ' order by name) from shop) as shops",
    );
    counted = rows[0].shops === null ? undefined : rows[0];
  } finally {
    await db.destroy();
  }
  if (counted) {
    const ask = createInterface({ input: process.stdin, output: process.stderr });
    const question = `The database holds ${counted.jobs} jobs of ${counted.shops}. All of it is replaced by the backup. Type yes to go on: `;
    // an input that has ended answers nothing
    const ended = new Promise<string>((resolve) => ask.once("close", () => resolve("")));
    const answer = await Promise.race([ask.question(question, { signal }), ended]).finally(() => ask.close());
    if (answer.trim() !== "yes") throw new Refusal("Nothing was changed.");
  }
  const { madeAt, shops } = await withClient(databaseUrl, (client) =>
    restoreBackup(client, createReadStream(path), { signal, onBytes: told("Read") }),
  );
  say(`Restored: ${shops.join(", ")}, as it was on ${madeAt}. Everybody signs in anew.`);
}

async function main(): Promise<void> {
  const [what, path] = process.argv.slice(2);
  const databaseUrl = process.env.DATABASE_URL;
  if (!databaseUrl || !path || (what !== "backup" && what !== "restore"))
    throw new Refusal("Use ./gearsense backup FILE, or ./gearsense restore FILE.");
  const stop = new AbortController();
  for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => stop.abort());
  await (what === "backup" ? backup : restore)(databaseUrl, path, stop.signal).catch((error: unknown) => {
    if (stop.signal.aborted) throw new Refusal("Called off. Nothing was changed.");
    throw error;
  });
}

main().catch((error: unknown) => {
  const known = error instanceof Refusal || error instanceof HttpError;
  say(known || error instanceof Error ? (error as Error).message : String(error));
  process.exit(1);
});
