import { createHash, randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { API, openApiDocument, ProcedureFile, publishedSchema } from "@gearsense/contract";
import compression from "compression";
import express, { type Express } from "express";
import helmet from "helmet";
import type { Knex } from "knex";
import type { Logger } from "pino";
import { pinoHttp } from "pino-http";
import { mountAccounts } from "./accounts/routes.ts";
import { sessionSecret, sessions } from "./accounts/session.ts";
import { createAccountStore } from "./accounts/store.ts";
import { mountBackup } from "./backup/routes.ts";
import type { BackupService } from "./backup/service.ts";
import { mountBench } from "./bench/routes.ts";
import { createBenchService } from "./bench/service.ts";
import { mountCalendar } from "./calendar/routes.ts";
import { poolState } from "./db/connect.ts";
import { ShopScope } from "./db/shop-scope.ts";
import { mountFigures } from "./figures/routes.ts";
import { errorHandler, HttpError } from "./http/errors.ts";
import { createMetrics } from "./http/metrics.ts";
import { mounter } from "./http/mount.ts";
import { sameOriginOnly } from "./http/same-origin.ts";
import { mountJobs } from "./jobs/routes.ts";
import { createJobService } from "./jobs/service.ts";
import { createJudgementService } from "./judgement/service.ts";
import type { Library } from "./library/load.ts";
import { mountLogs } from "./logs/routes.ts";
import type { MakeSample } from "./logs/samples.ts";
import { createLogService } from "./logs/service.ts";
import { mountPhotos } from "./photos/routes.ts";
import { mountPlanning } from "./planning/routes.ts";
import { createPlanningService } from "./planning/service.ts";
import { mountPrices } from "./prices/routes.ts";
import { mountProfiles } from "./profiles/routes.ts";
import type { Queue } from "./queue/queue.ts";
import { type Ask, atOnce, type Workers } from "./queue/work.ts";
import { onlyCalled } from "./reach/hosts.ts";
import { mountReach, type Reach } from "./reach/routes.ts";
import { mountRecording } from "./recording/routes.ts";
import { createRecordingService } from "./recording/service.ts";
import { mountRelearn } from "./relearn/routes.ts";
import { createRelearnService } from "./relearn/service.ts";
import { mountReports } from "./reports/routes.ts";
import { createReportService } from "./reports/service.ts";
import type { Threads } from "./threads/pool.ts";
import { mountTransfer } from "./transfer/routes.ts";
import { createTransferService } from "./transfer/service.ts";
import { mountUnits } from "./units/routes.ts";
import { createUnitService } from "./units/service.ts";

interface WorkerParts {
  readonly db: Knex;
  readonly queue: Queue;
  readonly log: Logger;
  readonly metricsToken: string | undefined;
}

export interface AppParts {
  readonly db: Knex;
  readonly databaseUrl: string;
  readonly library: Library;
  readonly queue: Queue;
  readonly services: Services;
  readonly backup: BackupService;
  readonly reach: Reach;
  /** the only names by which it is called; undefined: any, as behind a proxy */
  readonly names?: readonly string[] | undefined;
  readonly log: Logger;
  readonly webFolder: string | undefined;
  readonly trustProxy?: number | string | undefined;
  /** who brings it may read the figures of the process; undefined: nobody */
  readonly metricsToken?: string | undefined;
  readonly sample: MakeSample;
  readonly now: () => Date;
  /** failed sign-ins per name and address in ten minutes */
  readonly failuresAllowed: number;
}

/**
 * The services of the application, each a factory that is given a shop scope, and who does the work that they ask for.
 * @param ask - how work is asked for; undefined: it is done at once
 * @param linkHosts - machines that a link to a vehicle may lead to
 */
export function createServices(
  library: Library,
  threads: Threads,
  now: () => Date,
  { ask, linkHosts = [] }: { readonly ask?: Ask; readonly linkHosts?: readonly string[] } = {},
) {
  const { analyse, judge, orders, unpackJob, drawPdf, ways, week } = threads;
  const asked = ask ?? atOnce(() => workers);
  const units = createUnitService(library, now);
  const jobs = createJobService(units, library.procedures, library.knowledge, now);
  const logs = createLogService(jobs, units, analyse, asked, now);
  const judgement = createJudgementService(jobs, logs, library, judge, orders);
  const planning = createPlanningService(jobs, library, ways, week, now);
  const bench = createBenchService(jobs, logs, library, now);
  const reports = createReportService(jobs, logs, judgement, library, drawPdf, asked, now);
  const recordings = createRecordingService(jobs, logs, linkHosts, now);
  const relearns = createRelearnService(jobs, logs, linkHosts, now);
  const transfer = createTransferService(jobs, unpackJob, asked, now);
  const workers: Workers = {
    analysis: (scope, task, attempt) => logs(scope).make(task, attempt),
    paper: (scope, task, attempt) => reports(scope).make(task, attempt),
    export: (scope, task, attempt) => transfer(scope).make(task, attempt),
  };
  return { units, jobs, logs, judgement, planning, bench, recordings, relearns, drawPdf, reports, transfer, workers };
}
export type Services = ReturnType<typeof createServices>;

const REQUEST_ID = /^[\w.:-]{8,100}$/;

const requestLog = (log: Logger) =>
  pinoHttp({
    logger: log,
    // a proxy's own id is kept, so that its log and ours can be laid side by side
    genReqId: (req, res) => {
      const given = req.headers["x-request-id"];
      const id = typeof given === "string" && REQUEST_ID.test(given) ? given : randomUUID();
      res.setHeader("x-request-id", id);
      return id;
    },
    autoLogging: { ignore: (req) => !req.url?.startsWith("/api/") || req.url === API.health.path },
  });

/** What a process answers that only works: whether it lives, and its figures. */
export function createWorkerApp({ db, queue, log, metricsToken }: WorkerParts): {
  app: Express;
  close: () => Promise<void>;
} {
  const app = express();
  app.disable("x-powered-by");
  app.use(requestLog(log));
  const metrics = createMetrics(() => poolState(db), queue.counts, metricsToken);
  app.get(API.health.path, async (_req, res) => {
    await db.raw("select 1");
    res.json({ ok: true });
  });
  app.get("/api/metrics", metrics.show);
  app.use((_req, _res, next) =>
    next(new HttpError(404, "not-found", "This process only works for others; ask one with ROLE=web.")),
  );
  app.use(errorHandler(log));
  return { app, close: async () => undefined };
}

/** Names the library and the interface that are served: a page that was loaded from others says so. */
function versionOf(library: Library, webFolder: string | undefined): string {
  const { units, knowledge, procedures, mishaps } = library;
  const page = webFolder ? readFileSync(join(webFolder, "index.html")) : "";
  const hash = createHash("sha256").update(JSON.stringify({ units, knowledge, procedures, mishaps }));
  return hash.update(page).digest("hex").slice(0, 16);
}

/** The HTTP application. Close what it opened with `close`. */
export async function createApp(parts: AppParts): Promise<{ app: Express; close: () => Promise<void> }> {
  const { db, library, log, services, queue } = parts;
  const app = express();
  app.disable("x-powered-by");
  if (parts.trustProxy !== undefined) app.set("trust proxy", parts.trustProxy);
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          "default-src": ["'self'"],
          "script-src": ["'self'"],
          "style-src": ["'self'", "'unsafe-inline'"],
          "img-src": ["'self'", "data:", "blob:"],
          "worker-src": ["'self'", "blob:"],
          "upgrade-insecure-requests": null,
        },
      },
      strictTransportSecurity: false,
    }),
  );
  app.use(requestLog(log));
  if (parts.names) app.use(onlyCalled(parts.names));
  app.use(compression());
  const metrics = createMetrics(() => poolState(db), queue.counts, parts.metricsToken);
  const version = versionOf(library, parts.webFolder);
  app.use("/api", metrics.measure, (_req, res, next) => {
    res.setHeader("x-gearsense-version", version);
    next();
  });
  app.get("/api/metrics", metrics.show);
  const sessionPart = sessions(parts.databaseUrl, await sessionSecret(db), log);
  app.use("/api", sameOriginOnly, sessionPart.handler, express.json({ limit: "1mb" }));

  const accounts = createAccountStore(db);
  const mount = mounter(
    app,
    (shopId) => new ShopScope(db, shopId),
    async (accountId) => {
      const account = await accounts.account(accountId);
      return account && { accountId, shopId: account.shopId, name: account.name, role: account.role };
    },
  );
  mount(API.health, async () => {
    await db.raw("select 1");
    return { ok: true };
  });
  mountAccounts(app, mount, accounts, parts.failuresAllowed);
  mountJobs(mount, services.jobs);
  mountLogs(mount, services.logs, services.jobs, parts.sample);
  mountPhotos(mount, services.jobs, parts.now);
  mountCalendar(mount, parts.now);
  mountBackup(mount, parts.backup, parts.now);
  mountReach(mount, parts.reach);
  mountPrices(mount, library.knowledge, services.units, parts.now);
  mountFigures(mount, accounts, services.jobs, library.knowledge, parts.now);
  mountReports(mount, services.reports, accounts, services.jobs);
  mountTransfer(mount, services.transfer);
  mount(API.suspects, async ({ scope, params, who, signal }) =>
    services.judgement(scope).suspects(params.jobId, await accounts.shop(who.shopId), signal),
  );
  mount(API.orders, async ({ scope, params, who, signal }) =>
    services.judgement(scope).orders(params.jobId, await accounts.shop(who.shopId), signal),
  );
  mountBench(mount, services.bench, services.jobs, accounts, services.drawPdf, library);
  mountRecording(mount, services.recordings.of);
  mountRelearn(mount, services.relearns.of);
  mount(API.catalogue, ({ scope, params }) => services.judgement(scope).catalogue(params.jobId));
  mount(API.proof, ({ scope, params, signal }) => services.judgement(scope).proof(params.jobId, signal));
  mount(API.work, async ({ scope, params }) => {
    await services.jobs(scope).record(params.jobId);
    return { work: await queue.ofJob(scope.shopId, params.jobId) };
  });
  mountPlanning(mount, services.planning, accounts, services.drawPdf, parts.now);
  const procedureSchema = publishedSchema(ProcedureFile, "Gearsense procedure");
  mount(API.procedureSchema, async () => procedureSchema);
  mountUnits(mount, services.units);
  mountProfiles(mount, parts.now);
  mount(API.cautions, async () => ({
    standing: library.knowledge.standingCaution,
    cautions: { ...library.knowledge.cautions },
    holds: [...library.knowledge.holds],
  }));
  mount(API.observations, async () => ({ rungs: library.knowledge.rungs, debris: library.knowledge.debris }));
  const description = openApiDocument();
  mount(API.openapi, async () => description);
  app.use("/api", (_req, _res, next) =>
    next(new HttpError(404, "not-found", "The API doesn’t have this address; see /api/openapi.json.")),
  );

  const { webFolder } = parts;
  if (webFolder) {
    app.use(
      express.static(webFolder, {
        index: false,
        setHeaders: (res, path) =>
          res.setHeader(
            "cache-control",
            path.includes("/assets/") ? "public, max-age=31536000, immutable" : "no-cache",
          ),
      }),
    );
    app.get("/{*page}", (_req, res) =>
      res.sendFile("index.html", { root: webFolder, headers: { "cache-control": "no-cache" } }),
    );
  }
  app.use(errorHandler(log));
  return { app, close: sessionPart.close };
}
