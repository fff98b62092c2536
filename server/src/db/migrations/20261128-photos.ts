import type { Knex } from "knex";

/** Photos as they are kept: resized, without what the camera wrote. A vehicle has its identification number. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    alter table vehicle add column vin text not null default '';
    create table photo (
      id uuid primary key,
      shop_id uuid not null,
      job_id uuid not null,
      sha256 text not null,
      width_px integer not null,
      height_px integer not null,
      content bytea not null,
      stored_at timestamptz not null,
      unique (shop_id, id),
      foreign key (shop_id, job_id) references job (shop_id, id)
    );
    create index photo_of_job on photo (shop_id, job_id);
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("drop table photo; alter table vehicle drop column vin;");
}
