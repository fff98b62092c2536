// Backup and restore of a thousand jobs with logs and photos by the commands themselves: their highest memory, and their time against that of
// copying the same bytes on the same disk, in one run; whether what comes back is equal to the last byte and row.
import { spawn } from "node:child_process";
import { createHash } from "node:crypto";
import { createReadStream, createWriteStream, existsSync, mkdtempSync, readFileSync, rmSync, statSync } from "node:fs";
import { open } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pipeline } from "node:stream/promises";
import pg from "pg";
import { createAccountStore } from "../server/src/accounts/store.ts";
import { connect } from "../server/src/db/connect.ts";
import { loadLibrary } from "../server/src/library/load.ts";
import { prepare } from "../server/src/prepare.ts";

const JOBS = Number(process.env.JOBS ?? 1000);
const ENTRIES = 30;
const PHOTO_BYTES = 150_000;
const LOG_ROWS = 12_000;
const SAMPLED_MS = 20;
const base = process.env.TEST_DATABASE_URL;
if (!base) throw new Error("TEST_DATABASE_URL is not set: see benchmarks/README.md");
const admin = new pg.Client({ connectionString: base });
await admin.connect();
const urlOf = (name: string) => {
  const url = new URL(base);
  url.pathname = `/${name}`;
  return url.href;
};
const [full, empty] = ["full", "empty"].map((n) => `bench_backup_${n}_${process.pid}`) as [string, string];
for (const name of [full, empty]) await admin.query(`create database ${name}`);
const folder = mkdtempSync(join(tmpdir(), "gearsense-bench-"));

/** A command as somebody runs it, with its highest memory. */
async function run(what: "backup" | "restore", file: string, name: string): Promise<{ s: number; megabytes: number }> {
  const began = performance.now();
  const child = spawn(process.execPath, ["server/dist/backup/command.js", what, file], {
    env: { ...process.env, DATABASE_URL: urlOf(name) },
    stdio: ["ignore", "ignore", "inherit"],
  });
  let most = 0;
  const sample = setInterval(() => {
    const status = `/proc/${child.pid}/status`;
    const peak = existsSync(status) && /VmHWM:\s+(\d+) kB/.exec(readFileSync(status, "utf8"))?.[1];
    most = Math.max(most, Number(peak || 0) / 1024);
  }, SAMPLED_MS);
  const code = await new Promise((r) => child.once("exit", r));
  clearInterval(sample);
  if (code !== 0) throw new Error(`${what} ended with ${code}`);
  return { s: (performance.now() - began) / 1000, megabytes: most };
}

/** Copies as a program does, and waits until it is on the disk. */
async function copied(from: string, to: string): Promise<number> {
  const began = performance.now();
  await pipeline(createReadStream(from), createWriteStream(to));
  const file = await open(to, "r+");
  await file.sync();
  await file.close();
  return (performance.now() - began) / 1000;
}

async function hashOf(name: string): Promise<Record<string, string>> {
  const client = new pg.Client({ connectionString: urlOf(name) });
  await client.connect();
  const hashes: Record<string, string> = {};
  for (const [table, order] of [
    ["job", "id"],
    ["entry", "id"],
    ["log", "id"],
    ["photo", "id"],
    ["log_chunk", "log_id, position"],
    ["vehicle", "id"],
    ["account", "id"],
  ] as const) {
    const { rows } = await client.query(
      `select md5(string_agg(h, '' order by n)) as hash from (select row_number() over (order by ${order}) as n, md5(t::text) as h from ${table} t) rows`,
    );
    hashes[table] = rows[0].hash;
  }
  await client.end();
  return hashes;
}

try {
  const db = connect(urlOf(full));
  await prepare(db, urlOf(full), async () => undefined);
  const accounts = createAccountStore(db);
  const shop = await accounts.createShop({ name: "Bench", currency: "EUR", hourlyRate: 70 });
  await accounts.createAccount({ shopId: shop.id, name: "Bench", signIn: "bench", role: "owner" }, "a bench password");
  const unit = JSON.stringify(loadLibrary().unit("tarn-f4"));
  await db.raw(
    `with v as (
       insert into vehicle (id, shop_id, name, plate, owner)
       select gen_random_uuid(), :shop, 'Cart ' || n, 'SK ' || n, 'Crofter ' || n from generate_series(1, :jobs) n returning id, name
     )
     insert into job (id, shop_id, number, vehicle_id, unit_id, unit_name, unit, odometer_km, opened_at, stage, complaint, last_entry_at)
     select gen_random_uuid(), :shop, (100000 + substr(name, 6)::int)::text, id, 'tarn-f4', 'Tarn F4', :unit::jsonb, 1, now(), 'work', 'Slips', now() from v`,
    { shop: shop.id, jobs: JOBS, unit },
  );
  await db.raw(
    `insert into entry (id, shop_id, job_id, seq, at, author, source, kind, slot, body)
     select gen_random_uuid(), :shop, job.id, n, now(), 'Bench', 'typed', 'note', 'note:' || n,
       jsonb_build_object('text', repeat(md5(job.number || n::text), 8)) from job, generate_series(1, ${ENTRIES}) n`,
    { shop: shop.id },
  );
  await db.raw(
    `insert into log (id, shop_id, job_id, file_name, bytes, sha256, role, stored_at)
     select gen_random_uuid(), :shop, id, 'drive.csv', 0, '', 'before', now() from job`,
    { shop: shop.id },
  );
  // rows as a scan tool writes them: they pack as a log does
  await db.raw(
    `insert into log_chunk (shop_id, log_id, position, content)
     select :shop, log.id, 0, convert_to((select string_agg(format('%s,%s,%s,%s,%s', n * 0.05, 800 + (random() * 3000)::int,
       (random() * 100)::int, (random() * 3000)::int, (random() * 60)::int + 40), E'\\n') from generate_series(1, ${LOG_ROWS}) n where log.id is not null), 'UTF8') from log`,
    { shop: shop.id },
  );
  await db.raw(
    "update log set bytes = octet_length(c.content), sha256 = md5(c.content) from log_chunk c where c.log_id = log.id",
  );
  await db.raw(
    `insert into photo (id, shop_id, job_id, sha256, width_px, height_px, content, stored_at)
     select gen_random_uuid(), :shop, job.id, job.number, 10, 10,
       (select decode(string_agg(md5(random()::text || n || job.number), ''), 'hex') from generate_series(1, ${Math.round(PHOTO_BYTES / 16)}) n), now() from job`,
    { shop: shop.id },
  );
  await db.destroy();
  const file = join(folder, "all.tar");
  const backup = await run("backup", file, full);
  const bytes = statSync(file).size;
  const copy = [await copied(file, join(folder, "a")), await copied(file, join(folder, "b"))];
  const copyS = Math.min(...copy);
  const restore = await run("restore", file, empty);
  const [was, is] = [await hashOf(full), await hashOf(empty)];
  console.log(
    JSON.stringify(
      {
        jobs: JOBS,
        megabytes: Math.round(bytes / 2 ** 20),
        sha256: createHash("sha256").update(JSON.stringify(was)).digest("hex").slice(0, 12),
        equal: JSON.stringify(was) === JSON.stringify(is),
        copyS,
        backupS: backup.s,
        restoreS: restore.s,
        backupAgainstCopy: backup.s / copyS,
        restoreAgainstCopy: restore.s / copyS,
        backupMegabytes: backup.megabytes,
        restoreMegabytes: restore.megabytes,
      },
      null,
      1,
    ),
  );
} finally {
  rmSync(folder, { recursive: true, force: true });
  for (const name of [full, empty]) await admin.query(`drop database if exists ${name} with (force)`);
  await admin.end();
}
