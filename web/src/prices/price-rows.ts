import type { OwnPricesView, PricesView } from "@gearsense/contract";

export type Row = OwnPricesView["prices"][number];
type Repair = PricesView["library"]["repairs"][number];

/** What can be set: hours of a repair, or the price of one source, a litre or a filter. */
export interface Line {
  readonly repair: string;
  readonly source: string | null;
  readonly title: string;
  readonly hours: number | null;
  readonly partsCost: number | null;
  /** hours are set for the repair, a price for each source */
  readonly sets: readonly ("hours" | "partsCost")[];
}

/** The library's lines for a unit's kind, in its order. @param kind - undefined: every unit */
export function linesOf({ repairs, fluidPerL, filterCost }: PricesView["library"], kind: string | undefined): Line[] {
  const one = (repair: string, title: string, partsCost: number): Line => ({
    repair,
    source: null,
    title,
    hours: null,
    partsCost,
    sets: ["partsCost"],
  });
  const of = ({ id, title, hours, partsCost, sources }: Repair): Line[] => {
    const first: Line = { repair: id, source: null, title, hours: hours[1], partsCost, sets: ["hours", "partsCost"] };
    if (sources.length === 0) return [first];
    return [
      { ...first, partsCost: null, sets: ["hours"] },
      ...sources.map((s): Line => ({ ...one(id, s.title, s.partsCost), source: s.id })),
    ];
  };
  return [
    one("fluid-per-l", "A litre of fluid", fluidPerL),
    one("filter", "A filter with its seal", filterCost),
    ...repairs.filter((r) => kind === undefined || r.kinds === null || r.kinds.includes(kind)).flatMap(of),
  ];
}

export const keyOf = ({ unitId, repair, source }: Pick<Row, "unitId" | "repair" | "source">): string =>
  JSON.stringify([unitId, repair, source]);

/** Rows with one changed; one that says nothing any more is gone. */
export function changed(
  rows: readonly Row[],
  at: Pick<Row, "unitId" | "repair" | "source">,
  patch: Partial<Row>,
): Row[] {
  const key = keyOf(at);
  const old = rows.find((r) => keyOf(r) === key) ?? { ...at, hours: null, partsCost: null };
  const next = { ...old, ...patch };
  const others = rows.filter((r) => keyOf(r) !== key);
  return next.hours === null && next.partsCost === null ? others : [...others, next];
}

/** Keys of rows in which two lists differ. */
export function differing(a: readonly Row[], b: readonly Row[]): ReadonlySet<string> {
  const say = (list: readonly Row[]) => new Map(list.map((r) => [keyOf(r), `${r.hours} ${r.partsCost}`]));
  const [x, y] = [say(a), say(b)];
  return new Set([...x.keys(), ...y.keys()].filter((k) => x.get(k) !== y.get(k)));
}
