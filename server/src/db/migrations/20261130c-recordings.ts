import type { Knex } from "knex";

/** Drives that the application records itself, in pieces as they come: what is killed keeps all but the last half second. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    create table recording (
      id uuid primary key,
      shop_id uuid not null,
      job_id uuid not null,
      address text not null,
      role text not null check (role in ('before','after')),
      author text not null,
      channels jsonb not null,
      vin text,
      started_at timestamptz not null,
      beat_at timestamptz not null,
      seconds double precision not null,
      rows integer not null,
      live jsonb not null,
      marks jsonb not null,
      to_stop boolean not null,
      stopped boolean not null,
      state text not null check (state in ('open','kept','dropped')),
      log_id uuid,
      foreign key (shop_id, job_id) references job (shop_id, id)
    );
    create index recording_of_job on recording (shop_id, job_id, started_at desc);
    create unique index recording_one_on_a_link on recording (address) where state = 'open';
    create table recording_piece (
      shop_id uuid not null,
      recording_id uuid not null references recording on delete cascade,
      seq integer not null,
      content text not null,
      bytes integer not null,
      primary key (recording_id, seq)
    );
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("drop table recording_piece; drop table recording");
}
