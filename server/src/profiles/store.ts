import type { ImportProfile } from "@gearsense/core/log";
import type { ShopScope } from "../db/shop-scope.ts";

/** Import profiles of one shop, by name. */
export function createProfileStore(scope: ShopScope) {
  return {
    async all(): Promise<ImportProfile[]> {
      const rows: { profile: ImportProfile }[] = await scope.from("import_profile").orderBy("name").select("profile");
      return rows.map((r) => r.profile);
    },
    /** @returns how many were forgotten */
    async drop(name: string): Promise<number> {
      return scope.from("import_profile").where({ name }).delete();
    },
    async save(profile: ImportProfile, author: string, at: Date): Promise<void> {
      await scope.transaction(async (trx) => {
        await createProfileStore(trx).drop(profile.name);
        await trx.insert("import_profile", { name: profile.name, profile: JSON.stringify(profile), author, at });
      });
    },
  };
}
