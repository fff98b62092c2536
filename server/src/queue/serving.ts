import type PgBoss from "pg-boss";
import type { ShopScope } from "../db/shop-scope.ts";
import { type Base, type Payload, TABLE } from "./base.ts";
import { heldSql, type Line } from "./line.ts";
import { refusalOf } from "./refusal.ts";
import { KINDS, type Kind, type Workers } from "./work.ts";

/** Pieces of each kind that one process does at a time. */
const AT_A_TIME: Readonly<Record<Kind, number>> = { analysis: 2, paper: 1, export: 1 };
const SWEEP_MS = 2000;
/** Between taking a piece of work and holding its lock lies less than this. */
const BEGUN_S = 2;
const LOST = `state = 'active' and started_on < now() - interval '${BEGUN_S} seconds' and not ${heldSql("j.id::text")}`;

/** The side of the queue that does the work. */
export function createServing(
  { boss, sql, tell, log }: Base,
  line: Line,
  workers: Workers,
  scopeOf: (shopId: string) => ShopScope,
) {
  const running = new Map<string, { readonly kind: Kind; readonly controller: AbortController; end: Promise<void> }>();
  let closing = false;
  const attempt = async <K extends Kind>(
    kind: K,
    { id, data }: PgBoss.Job<Payload<K>>,
    controller: AbortController,
  ) => {
    const { signal } = controller;
    try {
      await line.hold(id);
      const stage = (words: string) => void tell({ what: "stage", id, words });
      await workers[kind](scopeOf(data.shopId), data.task, { id, signal, stage });
      await boss.complete(kind, id, {});
    } catch (error) {
      const refusal = refusalOf(error);
      // given back: to another process when this one ends, or when somebody waits again. What is cancelled stays so
      if (signal.aborted) await boss.fail(kind, id, { message: "it was ended" });
      else if (refusal) await boss.complete(kind, id, refusal);
      else {
        log.error({ err: error, work: id, kind }, "work failed");
        await boss.fail(kind, id, { message: error instanceof Error ? error.message : String(error) });
      }
    } finally {
      await line.letGo(id);
      await tell({ what: "done", id });
      if (signal.aborted) await tell({ what: "asked", kind });
    }
  };
  /** kinds being fetched; true: asked for again meanwhile */
  const fetching = new Map<Kind, boolean>();
  const fill = async (kind: Kind) => {
    if (fetching.has(kind)) {
      fetching.set(kind, true);
      return;
    }
    fetching.set(kind, false);
    try {
      while (!closing && [...running.values()].filter((r) => r.kind === kind).length < AT_A_TIME[kind]) {
        const [work] = await boss.fetch<Payload>(kind, { batchSize: 1, priority: true });
        if (!work) break;
        const controller = new AbortController();
        // an attempt that was ended here and is not yet over comes first
        const end = Promise.resolve(running.get(work.id)?.end)
          .then(() => attempt(kind, work as PgBoss.Job<Payload<typeof kind>>, controller))
          .catch((err: unknown) => log.warn({ err, work: work.id }, "queue: the end of work could not be told"))
          .finally(() => {
            if (running.get(work.id)?.controller === controller) running.delete(work.id);
            pump(kind);
          });
        running.set(work.id, { kind, controller, end });
      }
    } finally {
      const again = fetching.get(kind);
      fetching.delete(kind);
      if (again) pump(kind);
    }
  };
  const pump = (kind: Kind): void => void fill(kind).catch((err: unknown) => log.warn({ err }, "queue: fetching work"));
  /** Gives back what lost processes had begun, ends what was cancelled unheard, takes what was asked for unheard. */
  const sweep = async () => {
    const lost = await sql<{ id: string; name: Kind }>(
      `select id, name from ${TABLE} j where name = any($1) and ${LOST}`,
      [KINDS],
    );
    if (lost.length > 0 && (await line.hold("sweep")))
      try {
        for (const { id, name: kind } of lost) {
          // once more under the lock: another may have given it back, and a third begun it
          const [still] = await sql(`select id from ${TABLE} j where id = $1 and ${LOST}`, [id]);
          if (still) await boss.fail(kind, id, { message: "the process that did it was lost" });
        }
      } finally {
        await line.letGo("sweep");
      }
    for (const kind of KINDS) pump(kind);
    if (running.size === 0) return;
    const gone = await sql<{ id: string }>(
      `select id from ${TABLE} where id = any($1::uuid[]) and state = 'cancelled'`,
      [[...running.keys()]],
    );
    for (const { id } of gone) running.get(id)?.controller.abort();
  };
  let atIt = false;
  const sweeping = setInterval(() => {
    if (atIt) return;
    atIt = true;
    void sweep()
      .catch((err: unknown) => log.warn({ err }, "queue: looking for lost work"))
      .finally(() => {
        atIt = false;
      });
  }, SWEEP_MS);
  for (const kind of KINDS) pump(kind);

  return {
    pump,
    end: (id: string) => running.get(id)?.controller.abort(),
    /** Gives back what is not done. */
    async close() {
      closing = true;
      clearInterval(sweeping);
      for (const { controller } of running.values()) controller.abort();
      await Promise.all([...running.values()].map((r) => r.end));
    },
  };
}
