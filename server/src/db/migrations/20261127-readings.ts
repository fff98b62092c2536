import type { Knex } from "knex";

/** How a log was read, beyond its mapping; and how a shop reads the exports of its sources. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    alter table analysis add column reading jsonb;
    update analysis set reading = jsonb_build_object('mapping', mapping);
    alter table analysis alter column reading set not null;
    alter table analysis drop column mapping;
    create table import_profile (
      shop_id uuid not null references shop,
      name text not null,
      profile jsonb not null,
      author text not null,
      at timestamptz not null,
      primary key (shop_id, name)
    );
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(`
    drop table import_profile;
    alter table analysis add column mapping jsonb;
    update analysis set mapping = reading->'mapping';
    alter table analysis alter column mapping set not null;
    alter table analysis drop column reading;
  `);
}
