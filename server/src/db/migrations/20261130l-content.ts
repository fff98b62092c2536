import type { Knex } from "knex";

/**
 * Pictures are packed already and are kept as they are; logs are packed the quicker way, where the server was built with it, as Debian's is.
 * What is stored stays as it was stored.
 */
export async function up(db: Knex): Promise<void> {
  await db.raw("alter table photo alter column content set storage external");
  const { rows } = await db.raw<{ rows: unknown[] }>(
    "select 1 from pg_settings where name = 'default_toast_compression' and 'lz4' = any (enumvals)",
  );
  if (rows.length > 0) await db.raw("alter table log_chunk alter column content set compression lz4");
}

export async function down(db: Knex): Promise<void> {
  await db.raw(`
    alter table photo alter column content set storage extended;
    alter table log_chunk alter column content set compression default;
  `);
}
