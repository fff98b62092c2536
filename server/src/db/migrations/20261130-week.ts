import type { Knex } from "knex";

/** Who works in a shop, when, and on what; one row a shop, counted so that two people do not overwrite each other. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    create table shop_setup (
      shop_id uuid primary key references shop,
      setup jsonb not null,
      seq integer not null,
      author text not null,
      at timestamptz not null
    );
    create index entry_steps on entry (shop_id, kind) where kind = 'step';
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("drop index entry_steps; drop table shop_setup");
}
