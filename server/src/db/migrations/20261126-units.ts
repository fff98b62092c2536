import type { Knex } from "knex";

/** A shop's own unit files: every version is kept, none is changed. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    create table unit_file (
      shop_id uuid not null references shop,
      unit_id text not null,
      version integer not null check (version > 0),
      unit jsonb not null,
      author text not null,
      at timestamptz not null,
      primary key (shop_id, unit_id, version)
    );
    create function refuse_unit_change() returns trigger language plpgsql as $$
      begin raise exception 'a version of a unit file is never changed: store the next one'; end $$;
    create trigger unit_file_append_only before update or delete on unit_file
      for each row execute function refuse_unit_change();
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("drop table unit_file; drop function refuse_unit_change");
}
