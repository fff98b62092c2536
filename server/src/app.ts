import { randomUUID } from "node:crypto";
import { API, openApiDocument } from "@gearsense/contract";
import compression from "compression";
import express, { type Express } from "express";
import helmet from "helmet";
import type { Knex } from "knex";
import type { Logger } from "pino";
import { pinoHttp } from "pino-http";
import { mountAccounts } from "./accounts/routes.ts";
import { sessionSecret, sessions } from "./accounts/session.ts";
import { createAccountStore } from "./accounts/store.ts";
import { mountCalendar } from "./calendar/routes.ts";
import { poolState } from "./db/connect.ts";
import { ShopScope } from "./db/shop-scope.ts";
import { errorHandler, HttpError } from "./http/errors.ts";
import { createMetrics } from "./http/metrics.ts";
import { mounter } from "./http/mount.ts";
import { sameOriginOnly } from "./http/same-origin.ts";
import { mountJobs } from "./jobs/routes.ts";
import { createJobService } from "./jobs/service.ts";
import { createJudgementService, remembering } from "./judgement/service.ts";
import type { Library } from "./library/load.ts";
import { mountLogs } from "./logs/routes.ts";
import { createLogService } from "./logs/service.ts";
import { mountPhotos } from "./photos/routes.ts";
import { mountProfiles } from "./profiles/routes.ts";
import { mountReports } from "./reports/routes.ts";
import { createReportService } from "./reports/service.ts";
import type { Threads } from "./threads/pool.ts";
import { mountTransfer } from "./transfer/routes.ts";
import { createTransferService } from "./transfer/service.ts";
import { mountUnits } from "./units/routes.ts";
import { createUnitService } from "./units/service.ts";

export interface AppParts extends Threads {
  readonly db: Knex;
  readonly databaseUrl: string;
  readonly library: Library;
  readonly log: Logger;
  readonly webFolder: string | undefined;
  readonly trustProxy?: number | string | undefined;
  /** who brings it may read the figures of the process; undefined: nobody */
  readonly metricsToken?: string | undefined;
  readonly now: () => Date;
  /** failed sign-ins per name and address in ten minutes */
  readonly failuresAllowed: number;
}

/** The services of the application, each a factory that is given a shop scope. */
export function createServices(library: Library, { analyse, judge, orders, unpackJob }: Threads, now: () => Date) {
  const units = createUnitService(library, now);
  const jobs = createJobService(units, now);
  const logs = createLogService(jobs, units, analyse, now);
  const judgement = createJudgementService(jobs, logs, library, judge, orders);
  return {
    units,
    jobs,
    logs,
    judgement,
    reports: createReportService(jobs, logs, judgement, library),
    transfer: createTransferService(jobs, unpackJob, now),
  };
}

const REQUEST_ID = /^[\w.:-]{8,100}$/;

/** The HTTP application. Close what it opened with `close`. */
export async function createApp(parts: AppParts): Promise<{ app: Express; close: () => Promise<void> }> {
  const { db, library, log } = parts;
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
  app.use(
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
    }),
  );
  app.use(compression());
  const metrics = createMetrics(() => poolState(db), parts.metricsToken);
  app.use("/api", metrics.measure);
  app.get("/api/metrics", metrics.show);
  const sessionPart = sessions(parts.databaseUrl, await sessionSecret(db), log);
  app.use("/api", sameOriginOnly, sessionPart.handler, express.json({ limit: "1mb" }));

  const accounts = createAccountStore(db);
  const services = createServices(
    library,
    {
      ...parts,
      judge: remembering(parts.judge),
      orders: remembering(parts.orders),
    },
    parts.now,
  );
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
  mountReports(mount, services.reports, accounts, services.jobs, parts.drawPdf, parts.now);
  mountTransfer(mount, services.transfer);
  mount(API.suspects, async ({ scope, params, who, signal }) =>
    services.judgement(scope).suspects(params.jobId, (await accounts.shop(who.shopId)).hourlyRate, signal),
  );
  mount(API.orders, async ({ scope, params, who, signal }) =>
    services.judgement(scope).orders(params.jobId, (await accounts.shop(who.shopId)).hourlyRate, signal),
  );
  mount(API.knowledge, async () => library.knowledge);
  mount(API.catalogue, ({ scope, params }) => services.judgement(scope).catalogue(params.jobId));
  mount(API.proof, ({ scope, params }) => services.judgement(scope).proof(params.jobId));
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
