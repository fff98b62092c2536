import type { Knex } from "knex";

/** The tax that estimates begin with, and the warranty terms that a customer agrees to. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    alter table shop add column tax_percent numeric(5,2) not null default 23;
    alter table shop add column terms text not null default '';
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("alter table shop drop column terms; alter table shop drop column tax_percent");
}
