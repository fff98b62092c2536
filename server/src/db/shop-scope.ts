import type { Knex } from "knex";

/** Tables whose rows belong to a shop. */
export type ShopTable =
  | "vehicle"
  | "job"
  | "entry"
  | "log"
  | "log_chunk"
  | "analysis"
  | "unit_file"
  | "import_profile"
  | "link_definition"
  | "photo"
  | "job_number"
  | "write_key"
  | "work_output"
  | "shop_setup"
  | "shop_instruments"
  | "shop_prices"
  | "recording"
  | "recording_piece"
  | "relearn";

/**
 * The one place where queries are bound to a shop. Stores are given a scope and never the database: what they read or
 * write is the shop's own.
 */
export class ShopScope {
  private readonly db: Knex;
  readonly shopId: string;

  constructor(db: Knex, shopId: string) {
    this.db = db;
    this.shopId = shopId;
  }

  /** A query on the shop's rows of a table. */
  from(table: ShopTable): Knex.QueryBuilder {
    return this.db(table).where(`${table}.shop_id`, this.shopId);
  }

  /** Inserts one row or several, marked as the shop's. */
  async insert(table: ShopTable, rows: Record<string, unknown> | Record<string, unknown>[]): Promise<void> {
    const list = Array.isArray(rows) ? rows : [rows];
    await this.db(table).insert(list.map((r) => ({ ...r, shop_id: this.shopId })));
  }

  /** Inserts a row unless one with the same key is there, the shop's own or not. @returns whether it was inserted */
  async insertNew(table: ShopTable, row: Record<string, unknown>): Promise<boolean> {
    const made: unknown[] = await this.db(table)
      .insert({ ...row, shop_id: this.shopId })
      .onConflict()
      .ignore()
      .returning("shop_id");
    return made.length > 0;
  }

  /** Runs `work` in a transaction: all of it is kept, or nothing. */
  transaction<T>(work: (scope: ShopScope) => Promise<T>): Promise<T> {
    return this.db.transaction((trx) => work(new ShopScope(trx, this.shopId)));
  }
}
