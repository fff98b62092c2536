import { API } from "@gearsense/contract";
import { EVERYWHERE, type Knowledge, kindTitle, type OwnPriceRow } from "@gearsense/core/suspect";
import { HttpError } from "../http/errors.ts";
import type { Mount } from "../http/mount.ts";
import type { UnitService } from "../units/service.ts";
import { createPriceStore } from "./store.ts";

/** What is wrong with a row, by its field; undefined: nothing. */
function wrongIn(
  { repair, source, hours }: OwnPriceRow,
  { repairs }: Knowledge,
): readonly [field: string, text: string] | undefined {
  if ((EVERYWHERE as readonly string[]).includes(repair))
    return source !== null || hours !== null ? ["repair", "has a price only"] : undefined;
  const known = repairs.find((r) => r.id === repair);
  if (!known) return ["repair", `the library has no repair "${repair}"`];
  if (source !== null && !known.sources?.some((s) => s.id === source))
    return ["source", `"${source}" isn’t a source of it`];
  if (source !== null && hours !== null) return ["hours", "belong to the repair, not to where its part comes from"];
  return undefined;
}

/** Own prices and hours over the library's. */
export function mountPrices(mount: Mount, knowledge: Knowledge, units: UnitService, now: () => Date): void {
  mount(API.prices, async ({ scope }) => ({
    ...(await createPriceStore(scope).prices()),
    library: {
      fluidPerL: knowledge.fluidPerL,
      filterCost: knowledge.filterCost,
      repairs: knowledge.repairs.map(({ id, title, per, kinds, hours, partsCost, sources }) => ({
        id,
        title: kindTitle(title, per),
        kinds: kinds ? [...kinds] : null,
        hours: [...hours] as [number, number, number],
        partsCost,
        sources: (sources ?? []).map((s) => ({ id: s.id, title: s.title, partsCost: s.partsCost })),
      })),
    },
  }));
  mount(API.savePrices, async ({ scope, body: { prices, baseSeq }, who }) => {
    const known = new Map<string, boolean>();
    for (const [i, row] of prices.entries()) {
      if (row.unitId !== null && !known.has(row.unitId))
        known.set(row.unitId, (await units(scope).find(row.unitId)) !== undefined);
      const wrong: readonly [string, string] | undefined =
        row.unitId !== null && !known.get(row.unitId)
          ? ["unitId", `the library has no unit "${row.unitId}"`]
          : wrongIn(row, knowledge);
      if (wrong)
        throw new HttpError(400, "invalid", `prices.${i}.${wrong[0]}: ${wrong[1]}.`, {
          fields: { [`prices.${i}.${wrong[0]}`]: wrong[1] },
        });
    }
    const store = createPriceStore(scope);
    await store.save(prices, baseSeq, who.name, now());
    return store.prices();
  });
}
