import type { Knex } from "knex";

/** What work makes that is handed out once: papers and archives, in pieces, until they are fetched. */
export async function up(db: Knex): Promise<void> {
  await db.raw(`
    create table work_output (
      work_id uuid not null,
      shop_id uuid not null references shop,
      position integer not null,
      content bytea not null,
      made_at timestamptz not null,
      primary key (work_id, position)
    );
    create index work_output_made on work_output (made_at);
  `);
}

export async function down(db: Knex): Promise<void> {
  await db.raw("drop table work_output");
}
