import { createHash, randomUUID } from "node:crypto";
import { readdirSync, readFileSync } from "node:fs";
import type { JobPageView, JobSummaryView } from "@gearsense/contract";
import type { LogRole } from "@gearsense/core/job";
import { openLog, proposeMapping } from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";
import { PLAIN_STYLE, type ProfileName, type SimulatedFault, simulateDrive, writeLog } from "@gearsense/simulator";
import type { Express } from "express";
import type { Knex } from "knex";
import { pino } from "pino";
import request from "supertest";
import { createAccountStore } from "../accounts/store.ts";
import { type AppParts, createApp, createServices } from "../app.ts";
import { createBackupService } from "../backup/service.ts";
import { connect } from "../db/connect.ts";
import { ShopScope } from "../db/shop-scope.ts";
import { PROGRAM_HEADER } from "../http/same-origin.ts";
import judgeTask, { orders } from "../judgement/judge-thread.ts";
import { loadLibrary } from "../library/load.ts";
import { analyseBytes } from "../logs/analyse-bytes.ts";
import { renewAged } from "../logs/renew.ts";
import { makeSample } from "../logs/samples.ts";
import ways, { week } from "../planning/plan-thread.ts";
import { prepare } from "../prepare.ts";
import { openQueue } from "../queue/queue.ts";
import drawPdf from "../reports/pdf-thread.ts";
import type { Threads } from "../threads/pool.ts";
import { remembering } from "../threads/remembering.ts";
import unpackJob from "../transfer/unpack-thread.ts";

/** What runs in threads otherwise, at once. */
export const inline: Threads = {
  analyse: (input, attempt) => Promise.resolve(analyseBytes(input, attempt?.stage)),
  judge: (task) => Promise.resolve(judgeTask(task)),
  sample: (task) => Promise.resolve(makeSample(task)),
  orders: (task) => Promise.resolve(orders(task)),
  ways: (task) => Promise.resolve(ways(task)),
  week: (task) => Promise.resolve(week(task)),
  drawPdf: (task) => drawPdf(task),
  unpackJob: (task) => Promise.resolve(unpackJob(task)),
};

const PASSWORD = "a test password";

function baseUrl(): URL {
  const url = process.env.TEST_DATABASE_URL;
  if (!url) throw new Error("TEST_DATABASE_URL is not set; run the tests by ./gearsense test");
  return new URL(url);
}

const MIGRATIONS = new URL("../db/migrations/", import.meta.url);
const QUEUE_VERSION = readFileSync(new URL("../../package.json", import.meta.url));
const TEMPLATE_LOCK = 0x67656174;

/** An empty database of this version, which others are copies of: its name tells what it was made by. */
async function template(admin: Knex): Promise<string> {
  const made = createHash("sha256").update(QUEUE_VERSION);
  for (const file of readdirSync(MIGRATIONS).sort()) made.update(readFileSync(new URL(file, MIGRATIONS)));
  const name = `template_${made.digest("hex").slice(0, 24)}`;
  await admin.transaction(async (trx) => {
    await trx.raw("select pg_advisory_xact_lock(?)", [TEMPLATE_LOCK]);
    const { rows } = await admin.raw("select from pg_database where datname = ?", [name]);
    if (rows.length > 0) return;
    const draft = `${name}_draft`;
    await admin.raw(`drop database if exists ${draft} with (force)`);
    await admin.raw(`create database ${draft}`);
    const url = baseUrl();
    url.pathname = `/${draft}`;
    const db = connect(url.href);
    await prepare(db, url.href, async () => undefined);
    await db.destroy();
    // a closed connection is gone a moment later, and none may be left for what follows
    const used = () => admin.raw("select from pg_stat_activity where datname = ?", [draft]);
    while ((await used()).rows.length > 0) await new Promise((r) => setTimeout(r, 20));
    await admin.raw(`alter database ${draft} rename to ${name}`);
  });
  return name;
}

/** A fresh database on the test cluster. */
export async function freshDatabase(empty = false): Promise<{ url: string; db: Knex; drop: () => Promise<void> }> {
  const admin = connect(baseUrl().href);
  const name = `t_${randomUUID().replaceAll("-", "")}`;
  await admin.raw(empty ? `create database ${name}` : `create database ${name} template ${await template(admin)}`);
  const url = baseUrl();
  url.pathname = `/${name}`;
  const db = connect(url.href);
  return {
    url: url.href,
    db,
    drop: async () => {
      await db.destroy();
      await admin.raw(`drop database ${name} with (force)`);
      await admin.destroy();
    },
  };
}

const SILENT = pino({ level: "silent" });

/** The whole application of one process on a database. */
export async function applicationOn(
  db: Knex,
  url: string,
  { backupFolder, ...more }: Partial<Omit<AppParts, "db" | "databaseUrl">> & { readonly backupFolder?: string } = {},
): Promise<{ app: Express; renew: () => Promise<number>; close: () => Promise<void> }> {
  const library = loadLibrary();
  const now = more.now ?? (() => new Date());
  const queue = await openQueue(url, { role: "all", log: SILENT });
  const judge = remembering(inline.judge);
  const services = createServices(library, { ...inline, judge }, now, {
    ask: queue.ask,
    linkHosts: ["127.0.0.1"],
  });
  queue.serve(services.workers, (shopId) => new ShopScope(db, shopId));
  const { app, close } = await createApp({
    db,
    databaseUrl: url,
    library,
    queue,
    services,
    backup: createBackupService(db, url, backupFolder, now, SILENT),
    reach: { loopback: true, addresses: [], certificate: undefined },
    sample: inline.sample,
    log: SILENT,
    webFolder: undefined,
    now,
    failuresAllowed: 50,
    ...more,
  });
  return {
    app,
    renew: () => renewAged(db, services.logs, queue),
    close: async () => {
      await services.recordings.rest();
      await queue.close();
      await close();
    },
  };
}

export type Agent = ReturnType<typeof request.agent>;

/** A program that keeps its cookie and says that it is no browser. */
export const agentOf = (app: Express): Agent => request.agent(app).set(PROGRAM_HEADER, "test");

export interface Harness {
  readonly app: Express;
  readonly db: Knex;
  readonly url: string;
  /** what happens when a newer version starts. @returns pieces of work that are new */
  readonly renew: () => Promise<number>;
  readonly unit: Unit;
  /** somebody who is not signed in yet */
  readonly anyone: () => Agent;
  readonly signIn: (name: string, password?: string) => Promise<Agent>;
  readonly close: () => Promise<void>;
}

/** The application on a fresh database with two shops: marl (owner), iona (technician), fenn (viewer); odda elsewhere. */
export async function startHarness(
  failuresAllowed = 50,
  more: {
    readonly trustProxy?: number;
    readonly metricsToken?: string;
    readonly backupFolder?: string;
    readonly now?: () => Date;
  } = {},
): Promise<Harness> {
  const { url, db, drop } = await freshDatabase();
  const accounts = createAccountStore(db);
  const here = await accounts.createShop({ name: "Here", currency: "EUR", hourlyRate: 72 });
  const there = await accounts.createShop({ name: "There", currency: "EUR", hourlyRate: 60 });
  const make = (name: string, role: "owner" | "technician" | "viewer", shopId: string) =>
    accounts.createAccount({ name, signIn: name, role, shopId }, PASSWORD);
  await Promise.all([
    make("marl", "owner", here.id),
    make("iona", "technician", here.id),
    make("fenn", "viewer", here.id),
    make("odda", "owner", there.id),
  ]);
  const library = loadLibrary();
  const { app, renew, close } = await applicationOn(db, url, { failuresAllowed, ...more });
  const anyone = () => agentOf(app);
  return {
    app,
    db,
    url,
    renew,
    unit: library.unit("brae-p6") as Unit,
    anyone,
    signIn: async (name, password = PASSWORD) => {
      const agent = anyone();
      await agent.post("/api/session").send({ signIn: name, password }).expect(200);
      return agent;
    },
    close: async () => {
      await close();
      await drop();
    },
  };
}

export const newJob = (patch: object = {}) => ({
  vehicle: { name: "School minibus", plate: "SK 5 540", owner: "Northstead School" },
  unitId: "brae-p6",
  odometerKm: 132700,
  intake: {
    complaint: "It slips in fourth.",
    symptoms: [{ kind: "slip", where: ["4"], load: "hard", temperature: "any", since: "spring" }],
    doneAlready: "",
    recentEvents: "",
  },
  ...patch,
});

export async function openJob(agent: Agent, patch: object = {}): Promise<{ id: string; number: string }> {
  const { body } = await agent.post("/api/jobs").send(newJob(patch)).expect(200);
  return body;
}

/** Heads of all jobs, newest first, over as many pages as it takes. */
export async function jobList(agent: Agent): Promise<JobSummaryView[]> {
  const list: JobSummaryView[] = [];
  for (let after: string | null | undefined; after !== null; ) {
    const { body } = await agent
      .get("/api/jobs")
      .query(after ? { after } : {})
      .expect(200);
    list.push(...(body as JobPageView).jobs);
    after = (body as JobPageView).next;
  }
  return list;
}

/** every drive is of one vehicle: before and after a repair it is the same */
const VEHICLE = 6;

/** A made-up log as text, and the mapping a person would accept. */
export function madeLog(
  unit: Unit,
  faults: SimulatedFault[],
  seed = 9,
  profile: ProfileName = "mixed",
  durationS = 300,
) {
  const { columns, truth } = simulateDrive({
    unit,
    seed,
    vehicleSeed: VEHICLE,
    rateHz: 10,
    durationS,
    profile,
    startFluidC: 60,
    faults,
  });
  const text = writeLog(columns, PLAIN_STYLE);
  const mapping = proposeMapping(openLog(Buffer.from(text)).table, unit).map(({ column, channel, unit: u }) => ({
    column,
    channel,
    unit: u,
  }));
  return { text, mapping, truth };
}

export const WORN_THIRD_CLUTCH: SimulatedFault = {
  kind: "element-worn",
  component: "TC",
};

export async function storeLog(
  agent: Agent,
  jobId: string,
  text: string | Buffer,
  role: LogRole = "before",
  fileName = "drive.csv",
) {
  const bytes = Buffer.from(text as string);
  return agent
    .post(`/api/jobs/${jobId}/logs`)
    .query({ fileName, role, bytes: bytes.length })
    .set("content-type", "application/octet-stream")
    .send(bytes);
}

/** Stores and analyses a log. @returns its id */
export async function analysedLog(
  agent: Agent,
  jobId: string,
  log: ReturnType<typeof madeLog>,
  role: LogRole = "before",
): Promise<string> {
  const { body } = await storeLog(agent, jobId, log.text, role, `${role}.csv`);
  await agent.post(`/api/jobs/${jobId}/logs/${body.logId}/analysis`).send({ mapping: log.mapping }).expect(200);
  return body.logId;
}

/** The body of an answer as bytes. */
export async function getBytes(agent: Agent, path: string): Promise<Uint8Array> {
  const { body } = await agent
    .get(path)
    .buffer(true)
    .parse((res, done) => {
      const parts: Buffer[] = [];
      res.on("data", (p: Buffer) => parts.push(p));
      res.on("end", () => done(null, Buffer.concat(parts)));
    });
  return new Uint8Array(body as Buffer);
}
