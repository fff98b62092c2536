import type { LinkFileData } from "@gearsense/contract";
import type { ImportProfile } from "@gearsense/core/log";
import type { ShopScope } from "../db/shop-scope.ts";

/** Files of one kind that a shop keeps by name. */
function keptByName<T extends { readonly name: string }>(
  scope: ShopScope,
  table: "import_profile" | "link_definition",
  column: string,
) {
  return {
    async all(): Promise<T[]> {
      const rows: Record<string, T>[] = await scope.from(table).orderBy("name").select(column);
      return rows.map((r) => r[column] as T);
    },
    /** @returns how many were forgotten */
    async drop(name: string): Promise<number> {
      return scope.from(table).where({ name }).delete();
    },
    /** One of the same name is replaced. */
    async save(file: T, author: string, at: Date): Promise<void> {
      await scope.transaction(async (trx) => {
        await keptByName<T>(trx, table, column).drop(file.name);
        await trx.insert(table, { name: file.name, [column]: JSON.stringify(file), author, at });
      });
    },
  };
}

export const createProfileStore = (scope: ShopScope) => keptByName<ImportProfile>(scope, "import_profile", "profile");
export const createDefinitionStore = (scope: ShopScope) =>
  keptByName<LinkFileData>(scope, "link_definition", "definition");
