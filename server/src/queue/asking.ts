import { HttpError } from "../http/errors.ts";
import { type Base, type Payload, TABLE } from "./base.ts";
import { SOMEBODY_WORKS } from "./line.ts";
import { refusalFrom } from "./refusal.ts";
import { type Ask, KINDS, type Kind } from "./work.ts";

/** Pieces of work of one shop, and of all, that may wait. */
export const MOST_WAITING_OF_SHOP = 40;
const MOST_WAITING = 400;
const LOOK_MS = 1000;

interface Waiter {
  readonly since: number;
  readonly done: () => void;
  readonly failed: (error: unknown) => void;
}

/**
 * The side of the queue that asks and waits. What is waited for is looked at each second, and at once when it is told.
 * @param nobodyMs - nobody waits longer than this for a process that works
 */
export function createAsking({ boss, sql, tell, log }: Base, nobodyMs: number) {
  const waiting = new Map<string, { readonly kind: Kind; readonly waiters: Set<Waiter> }>();
  const settle = (id: string, how: (w: Waiter) => void) => {
    const found = waiting.get(id);
    waiting.delete(id);
    for (const w of found?.waiters ?? []) how(w);
  };
  const revive = async (kind: Kind, id: string) => {
    await boss.resume(kind, id);
    await boss.retry(kind, id);
    await tell({ what: "asked", kind });
  };

  /** Looks how what is waited for stands. */
  const look = async () => {
    if (waiting.size === 0) return;
    const rows = await sql<{ id: string; state: string; output: unknown }>(
      `select id, state, output from ${TABLE} where id = any($1::uuid[]) and state >= 'completed'`,
      [[...waiting.keys()]],
    );
    for (const { id, state, output } of rows) {
      const found = waiting.get(id);
      const refusal = refusalFrom(output);
      if (state === "completed") settle(id, (w) => (refusal ? w.failed(refusal) : w.done()));
      else if (state === "failed")
        settle(id, (w) => w.failed(new Error(`work of kind ${found?.kind} failed: ${JSON.stringify(output)}`)));
      // somebody else has gone; who is still here goes on waiting
      else if (found) await revive(found.kind, id);
    }
    const late = [...waiting].filter(([, { waiters }]) => [...waiters].some((w) => Date.now() - w.since > nobodyMs));
    if (late.length === 0) return;
    const [there] = await sql<{ works: boolean }>(`select ${SOMEBODY_WORKS} as works`);
    if (there?.works) return;
    for (const [id, { kind }] of late) {
      await boss.cancel(kind, id);
      settle(id, (w) =>
        w.failed(
          new HttpError(
            503,
            "nobody-works",
            "No process of the server takes work just now. Nothing was lost. Tell who runs the server: one with ROLE=worker has to be started; then ask again.",
          ),
        ),
      );
    }
  };
  const lookNow = () => void look().catch((err: unknown) => log.warn({ err }, "queue: looking for what is waited for"));
  const looking = setInterval(lookNow, LOOK_MS);

  const refuseWhenFull = async (shopId: string) => {
    const [n] = await sql<{ all: number; own: number }>(
      `select count(*)::int as all, count(*) filter (where data->>'shopId' = $1)::int as own
         from ${TABLE} where state < 'active' and priority >= 0 and name = any($2)`,
      [shopId, KINDS],
    );
    if (n && (n.own >= MOST_WAITING_OF_SHOP || n.all >= MOST_WAITING))
      throw new HttpError(
        503,
        "busy",
        `${n.own >= MOST_WAITING_OF_SHOP ? `${n.own} pieces of work of your shop` : `${n.all} pieces of work`} wait already. Nothing was lost; try again in a minute.`,
      );
  };

  const waitFor = (kind: Kind, id: string, signal: AbortSignal | undefined) =>
    new Promise<void>((resolve, reject) => {
      const gone = () => {
        const found = waiting.get(id);
        found?.waiters.delete(waiter);
        if (found && found.waiters.size === 0) {
          waiting.delete(id);
          void boss
            .cancel(kind, id)
            .then(() => tell({ what: "cancelled", id }))
            .catch((err: unknown) => log.warn({ err }, "queue: cancelling"));
        }
        reject(signal?.reason);
      };
      const end = () => signal?.removeEventListener("abort", gone);
      const waiter: Waiter = {
        since: Date.now(),
        done: () => {
          end();
          resolve();
        },
        failed: (error) => {
          end();
          reject(error);
        },
      };
      const found = waiting.get(id) ?? { kind, waiters: new Set() };
      found.waiters.add(waiter);
      waiting.set(id, found);
      signal?.addEventListener("abort", gone, { once: true });
    });

  const ask: Ask = async (scope, kind, task, { id, signal }) => {
    signal?.throwIfAborted();
    await refuseWhenFull(scope.shopId);
    const ended = waitFor(kind, id, signal);
    // what goes wrong below is told there
    ended.catch(() => undefined);
    try {
      const sent = await boss.send(kind, { shopId: scope.shopId, task } satisfies Payload, { id, priority: 0 });
      if (sent) await tell({ what: "asked", kind });
      else {
        // left before by one who had time: now somebody waits
        await sql(`update ${TABLE} set priority = 0 where id = $1 and state < 'active' and priority < 0`, [id]);
        await revive(kind, id);
        lookNow();
      }
    } catch (error) {
      settle(id, (w) => w.failed(error));
    }
    return ended;
  };

  return {
    ask,
    lookNow,
    waitsFor: (id: string) => waiting.has(id),
    close() {
      clearInterval(looking);
      for (const id of [...waiting.keys()]) settle(id, (w) => w.failed(new Error("the process ends")));
    },
  };
}
