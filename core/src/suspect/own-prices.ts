import type { ThreePoint } from "../chance/index.ts";
import type { Knowledge } from "../knowledge/index.ts";

/** What a shop sets over the library's price and hours of a repair. */
export interface OwnPriceRow {
  /** null: every unit that has no row of its own */
  readonly unitId: string | null;
  /** kind of repair in the library, or one of {@link EVERYWHERE} */
  readonly repair: string;
  /** where the part comes from; null: the only source, or the hours */
  readonly source: string | null;
  /** likely hours with getting there; best and worst keep their ratio to it; null: as the library has them */
  readonly hours: number | null;
  /** the shop's money, without the fluid of a refill; null: as the library has it */
  readonly partsCost: number | null;
}

/** Prices that belong to no single repair: a litre of fluid, a filter with its seal. */
export const EVERYWHERE = ["fluid-per-l", "filter"] as const;

const scaled = ([best, likely, worst]: ThreePoint, hours: number): ThreePoint => [
  (best * hours) / likely,
  hours,
  (worst * hours) / likely,
];

/**
 * The library's knowledge as a shop prices it for one unit: a row of the unit goes before one of every unit; what has no row stays.
 * @param rows - at most one for each unit, repair and source
 */
export function withOwnPrices(knowledge: Knowledge, rows: readonly OwnPriceRow[], unitId: string): Knowledge {
  const find = (repair: string, source: string | null, of: "hours" | "partsCost"): number | null => {
    const here = rows.filter((r) => r.repair === repair && r.source === source && r[of] !== null);
    return (here.find((r) => r.unitId === unitId) ?? here.find((r) => r.unitId === null))?.[of] ?? null;
  };
  if (rows.length === 0) return knowledge;
  const repairs = knowledge.repairs.map((r) => {
    const hours = find(r.id, null, "hours");
    const sources = r.sources?.map((s) => ({ ...s, partsCost: find(r.id, s.id, "partsCost") ?? s.partsCost }));
    // where there are several sources the repair has the price of the first
    const partsCost = sources?.[0]?.partsCost ?? find(r.id, null, "partsCost") ?? r.partsCost;
    return {
      ...r,
      partsCost,
      ...(hours === null ? {} : { hours: scaled(r.hours, hours) }),
      ...(sources ? { sources } : {}),
    };
  });
  return {
    ...knowledge,
    repairs,
    fluidPerL: find("fluid-per-l", null, "partsCost") ?? knowledge.fluidPerL,
    filterCost: find("filter", null, "partsCost") ?? knowledge.filterCost,
  };
}

/** The rows that a unit is priced by: its own, and those of every unit. */
export const rowsFor = (rows: readonly OwnPriceRow[], unitId: string): OwnPriceRow[] =>
  rows.filter((r) => r.unitId === null || r.unitId === unitId);
