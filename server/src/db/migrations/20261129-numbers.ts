import type { Knex } from "knex";

/**
 * Numbers of jobs are a sequence of the shop, whatever stands in an imported job. Writes that were sent twice are known by
 * the key of the sender. A job has its head beside it, so that lists need not read every timeline; `stage` is null until it was
 * made of the timeline.
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
    alter table job
      add column unit_name text not null default '',
      add column stage text,
      add column waits_for text not null default '',
      add column complaint text not null default '',
      add column done text not null default '',
      add column last_entry_at timestamptz;
    update job set unit_name = unit->>'name';
    create index job_newest on job (shop_id, length(number) desc, number desc);
    create index job_by_stage on job (shop_id, stage);
    create index job_of_vehicle on job (shop_id, vehicle_id);
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(`
    drop index job_newest; drop index job_by_stage; drop index job_of_vehicle;
    alter table job drop column unit_name, drop column stage, drop column waits_for, drop column complaint,
      drop column done, drop column last_entry_at;
    drop table write_key; drop table job_number`);
}
