import type { WorkView } from "@gearsense/contract";
import PgBoss from "pg-boss";
import type { Logger } from "pino";
import type { ProcessRole } from "../config.ts";
import type { ShopScope } from "../db/shop-scope.ts";
import { createAsking } from "./asking.ts";
import { type Base, type Payload, SCHEMA, TABLE } from "./base.ts";
import { openLine, TELL } from "./line.ts";
import { createServing } from "./serving.ts";
import { type Ask, KINDS, type Kind, type Tasks, type Workers } from "./work.ts";

/** A piece of work is begun so often again when the process that did it was lost, or it failed for no reason of its own. */
export const RETRIES = 2;
/** Nobody waits longer than this for a process that works. */
const NOBODY_MS = 15_000;
/** The last resort for work whose process lives and does not come to an end; threads end theirs after 180 s. */
const EXPIRES_S = 300;
/** Work that nobody waits for comes after all that somebody waits for. */
const UNASKED = -10;

/** Makes or updates the tables of the queue. Only one process at a time may do this. */
export async function prepareQueue(databaseUrl: string): Promise<void> {
  const boss = new PgBoss({ connectionString: databaseUrl, schema: SCHEMA, max: 1, supervise: false, schedule: false });
  await boss.start();
  for (const name of KINDS)
    await boss.createQueue(name, { name, policy: "standard", retryLimit: RETRIES, expireInSeconds: EXPIRES_S });
  await boss.stop({ graceful: false });
}

export interface Queue {
  readonly ask: Ask;
  /** Leaves work for when there is time; nobody waits. @returns how much of it was new */
  leave<K extends Kind>(kind: K, work: readonly { id: string; shopId: string; task: Tasks[K] }[]): Promise<number>;
  /** Begins to do work in this process. */
  serve(workers: Workers, scopeOf: (shopId: string) => ShopScope): void;
  /** What is asked for and not done yet on a job. */
  ofJob(shopId: string, jobId: string): Promise<WorkView[]>;
  /** pieces of work by kind and state */
  counts(): Promise<{ kind: string; state: string; count: number }[]>;
  close(): Promise<void>;
}

/**
 * Work that takes long, kept in PostgreSQL (pg-boss): any process asks for it, any process that works does it, and what a
 * lost process had begun is begun again by another. A piece of work is locked while somebody is at it; PostgreSQL lets the
 * lock go when that process is gone, and who sees work begun without a lock gives it back.
 */
export async function openQueue(
  databaseUrl: string,
  options: { readonly role: ProcessRole; readonly log: Logger; readonly nobodyMs?: number },
): Promise<Queue> {
  const { role, log, nobodyMs = NOBODY_MS } = options;
  const name = `gearsense ${role} ${process.pid}`;
  const boss = new PgBoss({
    connectionString: databaseUrl,
    application_name: name,
    schema: SCHEMA,
    max: 4,
    schedule: false,
    supervise: role !== "web",
    migrate: false,
  });
  boss.on("error", (err) => log.warn({ err }, "queue"));
  await boss.start();
  const sql: Base["sql"] = async (text, values = []) => (await boss.getDb().executeSql(text, values)).rows;
  const tell: Base["tell"] = (message) => sql(TELL, [JSON.stringify(message)]).catch(() => undefined);
  const base: Base = { boss, sql, tell, log };
  const stages = new Map<string, string>();
  const asking = createAsking(base, nobodyMs);
  let serving: ReturnType<typeof createServing> | undefined;

  const line = await openLine(databaseUrl, {
    works: role !== "web",
    name,
    log,
    heard: (m) => {
      if (m.what === "asked") serving?.pump(m.kind);
      else if (m.what === "stage") stages.set(m.id, m.words);
      else {
        stages.delete(m.id);
        if (m.what === "cancelled") serving?.end(m.id);
        else if (asking.waitsFor(m.id)) asking.lookNow();
      }
    },
    back: () => {
      asking.lookNow();
      for (const kind of KINDS) serving?.pump(kind);
    },
  });

  return {
    ask: asking.ask,
    serve(workers, scopeOf) {
      serving = createServing(base, line, workers, scopeOf);
    },
    async leave(kind, work) {
      let left = 0;
      for (const { id, shopId, task } of work)
        if (await boss.send(kind, { shopId, task } satisfies Payload, { id, priority: UNASKED })) left += 1;
      if (left > 0) await tell({ what: "asked", kind });
      return left;
    },
    async ofJob(shopId, jobId) {
      const rows = await sql<{ id: string; kind: Kind; log_id: string | null; state: string; ahead: number }>(
        `select id, name as kind, data->'task'->>'logId' as log_id, state,
            (select count(*)::int from ${TABLE} w where w.name = j.name and w.state < 'active'
               and (w.priority > j.priority or (w.priority = j.priority and w.created_on < j.created_on))) as ahead
           from ${TABLE} j
          where state < 'completed' and name = any($1) and data->>'shopId' = $2 and data->'task'->>'jobId' = $3
          order by created_on`,
        [KINDS, shopId, jobId],
      );
      return rows.map(({ id, kind, log_id, state, ahead }) => ({
        id,
        kind,
        logId: log_id,
        ...(state === "active"
          ? { state: "running" as const, stage: stages.get(id) ?? null }
          : { state: "waiting" as const, ahead }),
      }));
    },
    counts: () =>
      sql(`select name as kind, state::text, count(*)::int from ${TABLE} where name = any($1) group by 1, 2`, [KINDS]),
    async close() {
      await serving?.close();
      asking.close();
      await line.close();
      await boss.stop({ graceful: false });
    },
  };
}
