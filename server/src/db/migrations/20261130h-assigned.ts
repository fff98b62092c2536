import type { Knex } from "knex";

/** Who has a job in hand, beside its head, so that a list can be of one person's jobs. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    alter table job add column assigned_to text not null default '';
    create index job_assigned on job (shop_id, assigned_to) where assigned_to <> '';
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("drop index job_assigned; alter table job drop column assigned_to");
}
