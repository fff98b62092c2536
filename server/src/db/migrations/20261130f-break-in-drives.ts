import type { Knex } from "knex";

/** Drives of the first kilometres after a build; a shop's own definitions of what a link tells. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    alter table log drop constraint log_role_check;
    alter table log add constraint log_role_check check (role in ('before','after','break-in'));
    alter table recording drop constraint recording_role_check;
    alter table recording add constraint recording_role_check check (role in ('before','after','break-in'));
    create table link_definition (
      shop_id uuid not null references shop,
      name text not null,
      definition jsonb not null,
      author text not null,
      at timestamptz not null,
      primary key (shop_id, name)
    );
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw(`
    drop table link_definition;
    alter table recording drop constraint recording_role_check;
    alter table recording add constraint recording_role_check check (role in ('before','after'));
    alter table log drop constraint log_role_check;
    alter table log add constraint log_role_check check (role in ('before','after'));
  `);
}
