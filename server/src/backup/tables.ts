import type { ClientBase } from "pg";

/** What is made again by itself, or belongs to this machine alone. */
const LEFT_OUT: ReadonlySet<string> = new Set([
  "session",
  "setting",
  "work_output",
  "knex_migrations",
  "knex_migrations_lock",
]);

/** Columns that stand in files of their own, so that a log in a backup is the file that was stored. */
export const CONTENT: Readonly<Record<string, string>> = { log_chunk: "content", photo: "content" };

export interface BackupTable {
  readonly name: string;
  readonly columns: readonly string[];
  /** how a row is bound to its shop; undefined: it belongs to none */
  readonly shopColumn: string | undefined;
}

/** Of one shop or of all; names are of the schema, never of an archive. */
export const quoted = (name: string): string => `"${name.replaceAll('"', '""')}"`;

/**
 * The tables of a backup, each after those that it refers to.
 * @throws Error when tables refer to each other in a circle
 */
export async function backupTables(client: ClientBase): Promise<BackupTable[]> {
  const { rows: columns } = await client.query<{ name: string; columns: string[] }>(`
    select c.table_name as name, array_agg(c.column_name::text order by c.ordinal_position) as columns
    from information_schema.columns c
    join information_schema.tables t using (table_schema, table_name)
    where c.table_schema = 'public' and t.table_type = 'BASE TABLE'
    group by c.table_name order by c.table_name`);
  const { rows: references } = await client.query<{ of: string; to: string }>(`
    select distinct conrelid::regclass::text as of, confrelid::regclass::text as to
    from pg_constraint where contype = 'f' and connamespace = 'public'::regnamespace`);
  const waiting = columns.filter((t) => !LEFT_OUT.has(t.name));
  const done: BackupTable[] = [];
  while (waiting.length > 0) {
    const i = waiting.findIndex((t) =>
      references.every((r) => r.of !== t.name || r.to === t.name || !waiting.some((w) => w.name === r.to)),
    );
    const [table] = i < 0 ? [] : waiting.splice(i, 1);
    if (!table) throw new Error(`tables refer to each other in a circle: ${waiting.map((w) => w.name).join(", ")}`);
    const { name, columns: all } = table;
    done.push({
      name,
      columns: all.filter((c) => CONTENT[name] !== c),
      shopColumn: name === "shop" ? "id" : all.includes("shop_id") ? "shop_id" : undefined,
    });
  }
  return done;
}

/** The migrations that a database has seen, in order; of an empty one none. */
export async function migrationsOf(client: ClientBase): Promise<string[]> {
  const { rows: there } = await client.query("select to_regclass('public.knex_migrations') is not null as is");
  if (!there[0]?.is) return [];
  const { rows } = await client.query<{ name: string }>("select name from knex_migrations order by id");
  return rows.map((r) => r.name);
}
