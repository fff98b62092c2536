import type { Knex } from "knex";

/** What was written on each timeline, to be searched; null: not worked out yet. Pieces of three letters find it without reading all. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    create extension if not exists pg_trgm;
    alter table job add column words text;
    create index job_words on job using gin (words gin_trgm_ops);
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("drop index job_words; alter table job drop column words");
}
