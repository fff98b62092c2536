import { checkUnit, type Unit } from "@gearsense/core/unit";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError, notFound } from "../http/errors.ts";
import type { Library } from "../library/load.ts";
import { createUnitStore } from "./store.ts";

export interface UnitVersion {
  readonly version: number;
  readonly author: string;
  readonly at: string | null;
}

const UNIQUE_VIOLATION = "23505";

/** The units a shop may work with: the library's and its own. Storing one makes its next version; none is overwritten. */
export function createUnitService(library: Library, now: () => Date) {
  return (scope: ShopScope) => {
    const store = createUnitStore(scope);
    const newestOf = async (): Promise<Unit[]> => {
      const seen = new Map<string, Unit>();
      for (const { unit } of await store.versions()) if (!seen.has(unit.id)) seen.set(unit.id, unit);
      return [...seen.values()];
    };
    return {
      /** Library units, then the shop's own, the newest version of each. */
      async all(): Promise<Unit[]> {
        return [...library.units, ...(await newestOf())];
      },
      async find(unitId: string): Promise<Unit | undefined> {
        return library.unit(unitId) ?? (await store.versions(unitId))[0]?.unit;
      },
      /** @throws HttpError 404 */
      async versions(unitId: string): Promise<UnitVersion[]> {
        const shipped = library.unit(unitId);
        if (shipped) return [{ version: shipped.version, author: "library", at: null }];
        const list = await store.versions(unitId);
        if (list.length === 0) throw notFound("unit");
        return list.map(({ unit, author, at }) => ({ version: unit.version, author, at }));
      },
      /** @throws HttpError 404 */
      async version(unitId: string, version: number): Promise<Unit> {
        const shipped = library.unit(unitId);
        const unit =
          shipped?.version === version
            ? shipped
            : (await store.versions(unitId)).find((s) => s.unit.version === version)?.unit;
        if (!unit) throw notFound("version of this unit");
        return unit;
      },
      /**
       * Stores the next version of a unit.
       * @param baseVersion - the version that the writer saw, 0 for a new unit
       * @throws HttpError 409 `stale`, `taken`; 422 `unit-inconsistent` with every problem by its path
       */
      async save(unit: Unit, baseVersion: number, author: { readonly name: string }): Promise<Unit> {
        if (library.unit(unit.id))
          throw new HttpError(
            409,
            "taken",
            `id: "${unit.id}" is a unit of the library, which is not changed. Give yours another id.`,
          );
        const problems = checkUnit(unit);
        if (problems.length > 0) {
          const [first] = problems;
          throw new HttpError(
            422,
            "unit-inconsistent",
            `${first?.path}: ${first?.reason}.${problems.length > 1 ? ` ${problems.length - 1} more.` : ""} Nothing was stored.`,
            { fields: Object.fromEntries(problems.map((p) => [p.path, p.reason])) },
          );
        }
        const newest = (await store.versions(unit.id))[0];
        const stale = (who: string) =>
          new HttpError(
            409,
            "stale",
            `${who} stored another version of ${unit.name} meanwhile. Yours is kept on this device and not stored; compare, then store it again.`,
          );
        if ((newest?.unit.version ?? 0) !== baseVersion) {
          if (baseVersion === 0)
            throw new HttpError(409, "taken", `id: "${unit.id}" is taken by ${newest?.unit.name}. Choose another.`);
          throw stale(newest?.author ?? "Somebody");
        }
        const next = { ...unit, version: baseVersion + 1 };
        try {
          await store.insert(next, author.name, now());
        } catch (error) {
          if ((error as { code?: string }).code === UNIQUE_VIOLATION) throw stale("Somebody");
          throw error;
        }
        return next;
      },
    };
  };
}

export type UnitService = ReturnType<typeof createUnitService>;
