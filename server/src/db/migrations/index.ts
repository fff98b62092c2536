import type { Knex } from "knex";
import * as foundation from "./20261125-foundation.ts";

/** All migrations in order. Names carry no extension, so that source and compiled runs agree. Never edited once landed. */
const MIGRATIONS: readonly (readonly [string, Knex.Migration])[] = [["20261125-foundation", foundation]];

export const migrationSource: Knex.MigrationSource<readonly [string, Knex.Migration]> = {
  getMigrations: () => Promise.resolve([...MIGRATIONS]),
  getMigrationName: ([name]) => name,
  getMigration: ([, migration]) => Promise.resolve(migration),
};
