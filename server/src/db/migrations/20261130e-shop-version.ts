import type { Knex } from "knex";

/** Two owners who change one price at once are told apart by the version that each of them saw. */
export async function up(db: Knex): Promise<void> {
  await db.raw("alter table shop add column version integer not null default 0");
}

export async function down(db: Knex): Promise<void> {
  await db.raw("alter table shop drop column version");
}
