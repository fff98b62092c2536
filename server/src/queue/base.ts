import type PgBoss from "pg-boss";
import type { Logger } from "pino";
import type { Message } from "./line.ts";
import type { Kind, Tasks } from "./work.ts";

export const SCHEMA = "pgboss";
/** Where pg-boss keeps the work; its states are in order: created, retry, active, completed, cancelled, failed. */
export const TABLE = `${SCHEMA}.job`;

export interface Payload<K extends Kind = Kind> {
  readonly shopId: string;
  readonly task: Tasks[K];
}

/** What asking and serving stand on. */
export interface Base {
  readonly boss: PgBoss;
  readonly sql: <T>(text: string, values?: unknown[]) => Promise<T[]>;
  /** tells the other processes, and this one */
  readonly tell: (message: Message) => Promise<unknown>;
  readonly log: Logger;
}
