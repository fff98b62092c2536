import type { Knex } from "knex";
import * as foundation from "./20261125-foundation.ts";
import * as units from "./20261126-units.ts";
import * as readings from "./20261127-readings.ts";
import * as photos from "./20261128-photos.ts";
import * as numbers from "./20261129-numbers.ts";
import * as work from "./20261129b-work.ts";
import * as week from "./20261130-week.ts";
import * as bench from "./20261130b-bench.ts";
import * as recordings from "./20261130c-recordings.ts";
import * as relearn from "./20261130d-relearn.ts";
import * as shopVersion from "./20261130e-shop-version.ts";
import * as breakInDrives from "./20261130f-break-in-drives.ts";
import * as shopTerms from "./20261130g-shop-terms.ts";
import * as assigned from "./20261130h-assigned.ts";
import * as ownJobs from "./20261130i-own-jobs.ts";
import * as ownPrices from "./20261130j-own-prices.ts";
import * as words from "./20261130k-words.ts";
import * as content from "./20261130l-content.ts";

/** All migrations in order. Names carry no extension, so that source and compiled runs agree. Never edited once landed. */
const MIGRATIONS: readonly (readonly [string, Knex.Migration])[] = [
  ["20261125-foundation", foundation],
  ["20261126-units", units],
  ["20261127-readings", readings],
  ["20261128-photos", photos],
  ["20261129-numbers", numbers],
  ["20261129b-work", work],
  ["20261130-week", week],
  ["20261130b-bench", bench],
  ["20261130c-recordings", recordings],
  ["20261130d-relearn", relearn],
  ["20261130e-shop-version", shopVersion],
  ["20261130f-break-in-drives", breakInDrives],
  ["20261130g-shop-terms", shopTerms],
  ["20261130h-assigned", assigned],
  ["20261130i-own-jobs", ownJobs],
  ["20261130j-own-prices", ownPrices],
  ["20261130k-words", words],
  ["20261130l-content", content],
];

export const migrationSource: Knex.MigrationSource<readonly [string, Knex.Migration]> = {
  getMigrations: () => Promise.resolve([...MIGRATIONS]),
  getMigrationName: ([name]) => name,
  getMigration: ([, migration]) => Promise.resolve(migration),
};
