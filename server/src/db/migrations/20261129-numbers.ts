import type { Knex } from "knex";

/**
 * Numbers of jobs are a sequence of the shop, whatever stands in an imported job. Writes that were sent twice are known by
 * the key of the sender.
 */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    create table job_number (
      shop_id uuid primary key references shop,
      last integer not null
    );
    insert into job_number (shop_id, last)
      select shop_id, max(number::bigint)::integer from job where number ~ '^[0-9]{1,8}$' group by shop_id;
    create table write_key (
      shop_id uuid not null references shop,
      key text not null,
      job_id uuid not null,
      at timestamptz not null,
      primary key (shop_id, key)
    );
    create index write_key_at on write_key (at);
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("drop table write_key; drop table job_number");
}
