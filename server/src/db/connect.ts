import knex, { type Knex } from "knex";
import { migrationSource } from "./migrations/index.ts";

/** A pool on the database. Close it with `destroy()`. */
export function connect(databaseUrl: string): Knex {
  return knex({ client: "pg", connection: databaseUrl, pool: { min: 0, max: 10 }, migrations: { migrationSource } });
}

/** Connections of the pool, by what they do. */
export function poolState(db: Knex): { readonly used: number; readonly free: number; readonly waitedFor: number } {
  const pool = db.client.pool as { numUsed(): number; numFree(): number; numPendingAcquires(): number };
  return { used: pool.numUsed(), free: pool.numFree(), waitedFor: pool.numPendingAcquires() };
}

/** Brings the schema up to date, under Knex's lock. */
export async function migrate(db: Knex): Promise<void> {
  await db.migrate.latest();
}
