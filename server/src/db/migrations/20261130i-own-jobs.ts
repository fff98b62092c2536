import type { Knex } from "knex";

/** What each closed job has shown to be wrong, beside its head; null: not worked out yet. Whether a shop's odds move with it. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    alter table job add column proved jsonb;
    create index job_proved on job (shop_id) where proved <> '[]';
    alter table shop add column own_odds boolean not null default false;
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("drop index job_proved; alter table job drop column proved; alter table shop drop column own_odds");
}
