import { createServer } from "node:http";
import { createServer as createTlsServer } from "node:https";
import { pino } from "pino";
import { createAccountStore } from "./accounts/store.ts";
import { createApp, createServices, createWorkerApp } from "./app.ts";
import { createBackupService } from "./backup/service.ts";
import { readConfig } from "./config.ts";
import { connect } from "./db/connect.ts";
import { ShopScope } from "./db/shop-scope.ts";
import { demoSignIns, loadDemo } from "./demo/load.ts";
import { loadLibrary } from "./library/load.ts";
import { renewAged } from "./logs/renew.ts";
import { prepare } from "./prepare.ts";
import { openQueue } from "./queue/queue.ts";
import { inAddress, isLoopback, namesOf } from "./reach/addresses.ts";
import { certificateFor } from "./reach/certificate.ts";
import { createPools } from "./threads/pool.ts";
import { remembering } from "./threads/remembering.ts";

const FAILURES_ALLOWED = 10;
/** Whether a copy of everything is due is looked at so often. */
const LOOKS_FOR_DUE_MS = 10 * 60_000;
/** A busy server ends this long after it was asked to. */
const LAST_MS = 4500;

const ROLE_SAYS = { all: "", web: " (answers requests; others do the work)", worker: " (works for others)" } as const;

/** Starts the application and stops it cleanly on SIGINT and SIGTERM. */
async function main(): Promise<void> {
  const config = readConfig(process.env);
  const log = pino({ level: config.quiet ? "error" : "warn" });
  const library = loadLibrary();
  const db = connect(config.databaseUrl);
  const pool = createPools();
  const say = (line: string) => process.stdout.write(`${line}\n`);
  const firstData = async () => {
    if (config.demo && (await loadDemo(db, library, pool, Date.now())))
      say("Demo data loaded: the island of Skerrow and its working vehicles.");
  };
  await prepare(db, config.databaseUrl, firstData, config.backupFolder);
  const now = () => new Date();
  const queue = await openQueue(config.databaseUrl, { role: config.role, log });
  const threads = {
    ...pool,
    judge: remembering(pool.judge),
    orders: remembering(pool.orders),
    ways: remembering(pool.ways),
    week: remembering(pool.week),
  };
  const services = createServices(library, threads, now, { ask: queue.ask, linkHosts: config.linkHosts });
  const scopeOf = (shopId: string) => new ShopScope(db, shopId);
  if (config.role !== "web") {
    queue.serve(services.workers, scopeOf);
    await renewAged(db, services.logs, queue);
  }
  const backup = createBackupService(db, config.databaseUrl, config.backupFolder, now, log);
  const copying = setInterval(() => void backup.tick(), LOOKS_FOR_DUE_MS);
  const names = namesOf(config.host, config.allowedHosts);
  const certificate = await certificateFor(config.host, config.tls, names, now());
  const addresses = names.map((n) => `http${certificate ? "s" : ""}://${inAddress(n)}:${config.port}`);
  const own = config.tls !== undefined && "folder" in config.tls;
  const parts = { db, databaseUrl: config.databaseUrl, library, queue, services, backup, log, now };
  const { app, close } =
    config.role === "worker"
      ? createWorkerApp({ ...parts, metricsToken: config.metricsToken })
      : await createApp({
          ...parts,
          reach: {
            loopback: isLoopback(config.host),
            addresses,
            certificate: certificate && { pem: certificate.cert, fingerprint: certificate.fingerprint, own },
          },
          names: certificate || config.allowedHosts.length > 0 ? names : undefined,
          sample: pool.sample,
          webFolder: config.webFolder,
          trustProxy: config.trustProxy,
          metricsToken: config.metricsToken,
          failuresAllowed: FAILURES_ALLOWED,
        });
  const server = certificate ? createTlsServer(certificate, app) : createServer(app);
  // longer than a browser or proxy keeps an idle connection: the one that sends must be the one that closes
  server.keepAliveTimeout = 75_000;
  server.headersTimeout = 80_000;
  let stopping = false;
  const stop = async () => {
    if (stopping) return;
    stopping = true;
    // whatever still hangs, Ctrl-C ends it
    setTimeout(() => process.exit(0), LAST_MS).unref();
    server.close();
    server.closeIdleConnections();
    setTimeout(() => server.closeAllConnections(), 3000).unref();
    clearInterval(copying);
    await services.recordings.rest();
    await services.relearns.rest();
    await queue.close();
    await pool.close();
    await close();
    await db.destroy();
    process.exit(0);
  };
  for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => void stop());
  await new Promise<void>((resolve, reject) => {
    server.once("error", reject);
    server.listen(config.port, config.host, resolve);
  });
  void backup.tick();
  if (certificate)
    say(
      `${own ? `Its own certificate${certificate.fresh ? ", made just now" : ""}` : "The given certificate"}, until ${certificate.endsAt.toISOString().slice(0, 10)}. A device that asks shows this fingerprint (SHA-256):\n  ${certificate.fingerprint}`,
    );
  const code = config.demo || config.role === "worker" ? undefined : await createAccountStore(db).setupCode();
  if (code) say(`First start: open ${addresses[0]} and set up the shop with the code ${code}.`);
  // the last word of a start: what somebody needs stands above it
  say(`Gearsense is ready at ${addresses.join(" and ")}${ROLE_SAYS[config.role]}`);
  if (config.demo && config.role !== "worker") {
    say("Demo sign-ins (made-up people):");
    for (const s of demoSignIns()) say(`  ${s.signIn.padEnd(6)} password ${s.password}   ${s.role} of ${s.shop}`);
  }
  // a start script that was killed outright cannot stop us: its end is ours
  if (process.env.GEARSENSE_STARTER) {
    const starter = Number(process.env.GEARSENSE_STARTER);
    setInterval(() => {
      if (process.ppid !== starter) void stop();
    }, 1000).unref();
  }
}

main().catch((error: unknown) => {
  process.stderr.write(`Gearsense could not start: ${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
});
