// Lists over a hundred thousand jobs: 95th percentile of the routes against that of the bare statements, in one run.
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { createApp } from "@gearsense/server";
import pg from "pg";
import { pino } from "pino";
import { createAccountStore } from "../server/src/accounts/store.ts";
import { createServices } from "../server/src/app.ts";
import { createBackupService } from "../server/src/backup/service.ts";
import { connect } from "../server/src/db/connect.ts";
import { loadLibrary } from "../server/src/library/load.ts";
import { prepare } from "../server/src/prepare.ts";
import { openQueue } from "../server/src/queue/queue.ts";

const JOBS = 100_000;
const TIMES = 60;
const base = process.env.TEST_DATABASE_URL;
if (!base) throw new Error("TEST_DATABASE_URL is not set: see benchmarks/README.md");
const url = new URL(base);
const name = `bench_lists_${process.pid}`;
const admin = new pg.Client({ connectionString: base });
await admin.connect();
await admin.query(`create database ${name}`);
url.pathname = `/${name}`;
const db = connect(url.href);
await prepare(db, url.href, async () => undefined);
const accounts = createAccountStore(db);
const shop = await accounts.createShop({ name: "Bench", currency: "EUR", hourlyRate: 70 });
await accounts.createAccount({ shopId: shop.id, name: "Bench", signIn: "bench", role: "owner" }, "a bench password");
const library = loadLibrary();
await db.raw(
  `with v as (
     insert into vehicle (id, shop_id, name, plate, owner)
     select gen_random_uuid(), ?, 'Cart ' || n, 'SK ' || n, 'Crofter ' || n from generate_series(1, ?) n returning id, name
   )
   insert into job (id, shop_id, number, vehicle_id, unit_id, unit_name, unit, odometer_km, opened_at, stage, complaint, last_entry_at, words)
   select gen_random_uuid(), ?, (100000 + substr(name, 6)::int)::text, id, 'tarn-f4', 'Tarn F4', ?::jsonb, 1, now(),
     case when substr(name, 6)::int % 20 = 0 then 'work' else 'closed' end, 'Slips in second, cart ' || substr(name, 6), now(),
     (select string_agg(md5(name || k), ' ') from generate_series(1, 20) k) || ' note of ' || name from v`,
  [shop.id, JOBS, shop.id, JSON.stringify(library.unit("tarn-f4"))],
);
await db.raw("analyze");
const no = () => Promise.reject(new Error("not asked for here"));
const log = pino({ level: "silent" });
const now = () => new Date();
const queue = await openQueue(url.href, { role: "web", log });
const threads = { analyse: no, judge: no, orders: no, ways: no, week: no, sample: no, drawPdf: no, unpackJob: no };
const { app, close } = await createApp({
  db,
  databaseUrl: url.href,
  library,
  queue,
  services: createServices(library, threads, now, { ask: queue.ask }),
  backup: createBackupService(db, url.href, undefined, now, log),
  reach: { loopback: true, addresses: [], certificate: undefined },
  sample: no,
  log,
  webFolder: undefined,
  now,
  failuresAllowed: 10,
});
const server = createServer(app);
await new Promise<void>((ready) => server.listen(0, "127.0.0.1", ready));
const at = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
const headers = { "content-type": "application/json", "x-gearsense-client": "bench" };
const signedIn = await fetch(`${at}/api/session`, {
  method: "POST",
  headers,
  body: JSON.stringify({ signIn: "bench", password: "a bench password" }),
});
const cookie = (signedIn.headers.get("set-cookie") ?? "").split(";")[0] as string;

const HEAD = `select job.id, job.number, job.vehicle_id, job.unit_id, job.unit_name, job.odometer_km, job.opened_at, job.stage, job.waits_for,
  job.complaint, job.done, job.last_entry_at, vehicle.name, vehicle.plate, vehicle.owner, vehicle.vin
  from job join vehicle on vehicle.id = job.vehicle_id and vehicle.shop_id = job.shop_id where job.shop_id = $1`;
const FOUND = `concat_ws(' ', job.number, vehicle.name, vehicle.plate, replace(vehicle.plate, ' ', ''), vehicle.owner, vehicle.vin,
  job.unit_name, job.complaint, job.done) ilike $2`;
const NEWEST = "order by length(job.number) desc, job.number desc limit 51";
const COUNT = "select stage, count(*) from job where shop_id = $1 and stage is not null group by stage";
const CASES: readonly (readonly [string, string, string, readonly string[]])[] = [
  ["first page", "", `${HEAD} ${NEWEST}`, []],
  [
    "a page in the middle",
    "?after=150000",
    `${HEAD} and (length(job.number), job.number) < (6, '150000') ${NEWEST}`,
    [],
  ],
  ["open jobs", "?which=open", `${HEAD} and job.stage <> 'closed' ${NEWEST}`, []],
  ["a word in every job", "?find=crofter", `${HEAD} and ${FOUND} ${NEWEST}`, ["%crofter%"]],
  ["one job of all", "?find=crofter%2073219", `${HEAD} and ${FOUND} ${NEWEST}`, ["%73219%"]],
];
const plain = new pg.Client({ connectionString: url.href });
await plain.connect();
async function p95(work: () => Promise<unknown>): Promise<number> {
  const times: number[] = [];
  for (let i = 0; i < TIMES; i++) {
    const began = performance.now();
    await work();
    times.push(performance.now() - began);
  }
  return times.sort((a, b) => a - b)[Math.floor(0.95 * TIMES)] as number;
}
console.log("route, 95th percentile of 60 | ms | bare statements, ms | ratio");
for (const [what, query, sql, values] of CASES) {
  const bare = await p95(async () => {
    await plain.query(sql, [shop.id, ...values]);
    await plain.query(COUNT, [shop.id]);
  });
  const route = await p95(async () => {
    const answer = await fetch(`${at}/api/jobs${query}`, { headers: { cookie } });
    if (!answer.ok) throw new Error(await answer.text());
    await answer.json();
  });
  console.log(`${what} | ${route.toFixed(1)} | ${bare.toFixed(1)} | ${(route / bare).toFixed(2)}`);
}
server.close();
await queue.close();
await close();
await plain.end();
await db.destroy();
await admin.query(`drop database ${name} with (force)`);
await admin.end();
