import pg from "pg";
import type { Logger } from "pino";
import type { Kind } from "./work.ts";

/** What processes tell each other. Nothing depends on its being heard: the tables are looked at besides. */
export type Message =
  | { readonly what: "asked"; readonly kind: Kind }
  | { readonly what: "done" | "cancelled"; readonly id: string }
  | { readonly what: "stage"; readonly id: string; readonly words: string };

const CHANNEL = "gearsense_work";
/** Our advisory locks among those of others on the same server. */
export const LOCK_CLASS = 0x67656172;
/** Held by every process that works. */
const AT_WORK = "at-work";
const AGAIN_MS = 1000;

/**
 * One connection of this process: it hears what others tell, and it holds locks that PostgreSQL lets go the moment the
 * process is gone, however it went. Lost, it is opened again and the locks are taken anew.
 */
export interface Line {
  /** Takes the lock of a piece of work. @returns false when another process holds it */
  hold(key: string): Promise<boolean>;
  letGo(key: string): Promise<void>;
  close(): Promise<void>;
}

export async function openLine(
  databaseUrl: string,
  options: {
    readonly works: boolean;
    readonly name: string;
    readonly log: Logger;
    readonly heard: (message: Message) => void;
    /** after a time in which nothing was heard */
    readonly back: () => void;
  },
): Promise<Line> {
  const { works, name, log, heard, back } = options;
  const held = new Set<string>();
  let client: pg.Client | undefined;
  let closed = false;
  let timer: NodeJS.Timeout | undefined;

  const take = async (on: pg.Client, key: string): Promise<boolean> => {
    const { rows } = await on.query("select pg_try_advisory_lock($1, hashtext($2)) as taken", [LOCK_CLASS, key]);
    return rows[0].taken;
  };
  const open = async () => {
    const fresh = new pg.Client({ connectionString: databaseUrl, application_name: name, keepAlive: true });
    let dead = false;
    const lost = () => {
      dead = true;
      if (client !== fresh) return;
      client = undefined;
      fresh.end().catch(() => undefined);
      again();
    };
    fresh.on("error", (err) => {
      log.warn({ err }, "the line to the other processes was lost and is opened again");
      lost();
    });
    fresh.on("end", lost);
    fresh.on("notification", ({ payload }) => payload && heard(JSON.parse(payload) as Message));
    try {
      await fresh.connect();
      await fresh.query(`listen ${CHANNEL}`);
      if (works) await fresh.query("select pg_advisory_lock_shared($1, hashtext($2))", [LOCK_CLASS, AT_WORK]);
      for (const key of held) await take(fresh, key);
      if (dead) throw new Error("the connection ended as soon as it was there");
    } catch (error) {
      fresh.end().catch(() => undefined);
      throw error;
    }
    client = fresh;
  };
  const again = () => {
    if (closed) return;
    timer = setTimeout(() => open().then(back, again), AGAIN_MS);
  };
  await open();
  // one connection does one thing at a time
  let last: Promise<unknown> = Promise.resolve();
  const inTurn = <T>(what: () => Promise<T>): Promise<T> => {
    const turn = last.then(what);
    last = turn.catch(() => undefined);
    return turn;
  };

  return {
    hold: (key) =>
      inTurn(async () => {
        // on a connection that has just gone nobody knows; it is taken when there is one again
        const taken = client ? await take(client, key).catch(() => true) : true;
        if (taken) held.add(key);
        return taken;
      }),
    letGo: (key) =>
      inTurn(async () => {
        held.delete(key);
        await client?.query("select pg_advisory_unlock($1, hashtext($2))", [LOCK_CLASS, key]).catch(() => undefined);
      }),
    async close() {
      closed = true;
      clearTimeout(timer);
      const open = client;
      client = undefined;
      await open?.end();
    },
  };
}

/** Rows of `pg_locks` that are ours and held, by the text that was locked: for a `where` clause. */
export const heldSql = (text: string) => `exists (
  select from pg_locks
  where locktype = 'advisory' and granted and classid = ${LOCK_CLASS} and objsubid = 2
    and database = (select oid from pg_database where datname = current_database())
    and objid::bigint = (hashtext(${text})::bigint & 4294967295))`;

/** Whether any process is there that works. */
export const SOMEBODY_WORKS = heldSql(`'${AT_WORK}'`);

/** Tells the others. */
export const TELL = `select pg_notify('${CHANNEL}', $1)`;
