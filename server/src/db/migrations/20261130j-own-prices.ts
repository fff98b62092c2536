import type { Knex } from "knex";

/** Prices and hours of a shop over the library's; one row a shop, counted so that two owners do not overwrite each other. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    create table shop_prices (
      shop_id uuid primary key references shop,
      prices jsonb not null,
      seq integer not null,
      author text not null,
      at timestamptz not null
    );
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("drop table shop_prices");
}
