import type { Knex } from "knex";

/** How sure a shop's own instruments are; one row a shop, counted so that two people do not overwrite each other. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    create table shop_instruments (
      shop_id uuid primary key references shop,
      instruments jsonb not null,
      seq integer not null,
      author text not null,
      at timestamptz not null
    );
    create index entry_bench on entry (shop_id, job_id) where kind = 'bench';
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("drop index entry_bench; drop table shop_instruments");
}
