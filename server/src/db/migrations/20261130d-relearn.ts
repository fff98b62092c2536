import type { Knex } from "knex";

/** Relearns at a link while they run; how one ended stands on the timeline of its job. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    create table relearn (
      id uuid primary key,
      shop_id uuid not null,
      job_id uuid not null,
      address text not null,
      procedure_id text not null,
      author text not null,
      started_at timestamptz not null,
      beat_at timestamptz not null,
      phase text not null check (phase in ('preparing','running','over')),
      live jsonb not null,
      to_begin boolean not null,
      to_stop boolean not null,
      foreign key (shop_id, job_id) references job (shop_id, id)
    );
    create index relearn_of_job on relearn (shop_id, job_id, started_at desc);
    create unique index relearn_one_on_a_link on relearn (address) where phase <> 'over';
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("drop table relearn");
}
