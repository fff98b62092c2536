import type { Knex } from "knex";

/**
 * Shops, accounts, jobs and their append-only timelines, logs as they came, analyses made from them. Every row belongs
 * to a shop, and references carry the shop with them, so that no row can point into another shop.
 */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    create table shop (
      id uuid primary key,
      name text not null,
      currency text not null,
      hourly_rate numeric(10,2) not null
    );
    create table account (
      id uuid primary key,
      shop_id uuid not null references shop,
      name text not null,
      sign_in text not null unique,
      password_hash text not null,
      role text not null check (role in ('viewer','technician','owner'))
    );
    create table session (
      sid varchar primary key,
      sess json not null,
      expire timestamp(6) not null
    );
    create index session_expire on session (expire);
    create table setting (
      name text primary key,
      value text not null
    );
    create table vehicle (
      id uuid primary key,
      shop_id uuid not null references shop,
      name text not null,
      plate text not null,
      owner text not null,
      unique (shop_id, id)
    );
    create table job (
      id uuid primary key,
      shop_id uuid not null references shop,
      number text not null,
      vehicle_id uuid not null,
      unit_id text not null,
      unit jsonb not null,
      odometer_km double precision not null,
      opened_at timestamptz not null,
      unique (shop_id, id),
      unique (shop_id, number),
      foreign key (shop_id, vehicle_id) references vehicle (shop_id, id)
    );
    create table entry (
      id uuid primary key,
      shop_id uuid not null,
      job_id uuid not null,
      seq integer not null,
      at timestamptz not null,
      author text not null,
      source text not null check (source in ('typed','file','computed')),
      kind text not null,
      slot text not null,
      body jsonb not null,
      unique (job_id, seq),
      foreign key (shop_id, job_id) references job (shop_id, id)
    );
    create index entry_of_job on entry (shop_id, job_id, seq);
    create function refuse_change() returns trigger language plpgsql as $$
      begin raise exception 'the timeline is append-only: correct it by a new entry'; end $$;
    create trigger entry_append_only before update or delete on entry for each row execute function refuse_change();
    create table log (
      id uuid primary key,
      shop_id uuid not null,
      job_id uuid not null,
      file_name text not null,
      bytes bigint not null,
      sha256 text not null,
      role text not null check (role in ('before','after')),
      stored_at timestamptz not null,
      unique (shop_id, id),
      foreign key (shop_id, job_id) references job (shop_id, id)
    );
    create table log_chunk (
      shop_id uuid not null,
      log_id uuid not null,
      position integer not null,
      content bytea not null,
      primary key (log_id, position),
      foreign key (shop_id, log_id) references log (shop_id, id)
    );
    create table analysis (
      id uuid primary key,
      shop_id uuid not null,
      log_id uuid not null,
      made_at timestamptz not null,
      version integer not null,
      mapping jsonb not null,
      report jsonb not null,
      analysis jsonb not null,
      foreign key (shop_id, log_id) references log (shop_id, id)
    );
    create index analysis_of_log on analysis (shop_id, log_id, made_at desc);
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(`
    drop table analysis; drop table log_chunk; drop table log; drop table entry; drop function refuse_change;
    drop table job; drop table vehicle; drop table setting; drop table session; drop table account; drop table shop;
  `);
}
