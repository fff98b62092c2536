import type { Unit } from "@gearsense/core/unit";
import type { ShopScope } from "../db/shop-scope.ts";

export interface StoredUnit {
  readonly unit: Unit;
  readonly author: string;
  readonly at: string;
}

interface Row {
  unit_id: string;
  version: number;
  unit: Unit;
  author: string;
  at: Date;
}

const toStored = (r: Row): StoredUnit => ({ unit: r.unit, author: r.author, at: r.at.toISOString() });

/** Unit files of one shop, every version of each. */
export function createUnitStore(scope: ShopScope) {
  return {
    /** All versions, newest first, of one unit or of all. */
    async versions(unitId?: string): Promise<StoredUnit[]> {
      const rows = scope.from("unit_file").orderBy([{ column: "unit_id" }, { column: "version", order: "desc" }]);
      return ((await (unitId === undefined ? rows : rows.where({ unit_id: unitId }))) as Row[]).map(toStored);
    },
    async insert(unit: Unit, author: string, at: Date): Promise<void> {
      await scope.insert("unit_file", {
        unit_id: unit.id,
        version: unit.version,
        unit: JSON.stringify(unit),
        author,
        at,
      });
    },
  };
}
