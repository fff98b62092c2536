import type { Source } from "../knowledge/index.ts";
import { optionId, type PlanSpace, type Repair } from "../suspect/index.ts";
import { inSentence } from "../unit/index.ts";

/** An option that can be chosen: a repair with where its part comes from, to leave the vehicle as it is, or to sell it. */
export interface Choice {
  readonly id: string;
  readonly title: string;
  readonly repair: Repair | undefined;
  readonly source: Source | undefined;
}

export const LEAVE_ID = "leave";
export const SELL_ID = "sell";

const LEAST_CURE = 0.01;
const MOST_CHOICES = 12;
/** The same work at another part is worth naming from this share of the best on. */
const STANDS_BESIDE = 0.4;

/** Sources that are counted only where the technician says that there is one: of repairs that may cure. */
export function askedFor(space: PlanSpace): { readonly id: string; readonly title: string; readonly have: boolean }[] {
  return space.repairs.flatMap((repair, r) =>
    space.curesOf(space.start, r) < STANDS_BESIDE
      ? []
      : (repair.sources ?? [])
          .filter((s) => s.ask)
          .map((s) => {
            const id = optionId(repair, s);
            return {
              id,
              title: `${repair.title}: ${inSentence(s.title)}`,
              have: space.money.have?.includes(id) ?? false,
            };
          }),
  );
}

/** Repairs that can be asked for: those offered for the unit that are not among the choices. */
export function othersOf(
  space: PlanSpace,
  choices: readonly Choice[],
): { readonly repairId: string; readonly title: string }[] {
  const listed = new Set(choices.map((c) => c.repair?.id));
  return space.offered
    .filter((r) => !listed.has(r.id))
    .map((r) => ({ repairId: r.id, title: r.title }))
    .sort((a, b) => a.title.localeCompare(b.title));
}

/**
 * Repairs that may cure or were asked for (a fluid service that is due, what was decided before), each with the sources that there are, leaving it as it is, and selling it where its value is known.
 * @returns at most twelve repairs and those asked for, likeliest to cure for their money first, then the others
 */
export function choicesOf(space: PlanSpace, vehicleValue: number | null = null): Choice[] {
  const list = space.repairs.flatMap((repair, r) => {
    const cures = space.curesOf(space.start, r);
    if (cures < LEAST_CURE && !space.asked.has(repair.id)) return [];
    const there = repair.sources?.filter((s) => !s.ask || space.money.have?.includes(optionId(repair, s)));
    return (there ?? [undefined]).map((source) => ({
      choice: {
        id: optionId(repair, source),
        title: source ? `${repair.title}: ${inSentence(source.title)}` : repair.title,
        repair,
        source,
      } satisfies Choice,
      worth:
        (cures * Math.min(1, source?.worth ?? 1)) /
        (space.priceOf(repair, 0, source).total + space.model.knowledge.comebackCost),
    }));
  });
  // of repairs of one kind the one at the likeliest part stands for the rest
  const likeliest = (x: (typeof list)[number]) =>
    list.every(
      (y) =>
        y === x ||
        y.choice.repair.kindId !== x.choice.repair.kindId ||
        y.choice.source?.id !== x.choice.source?.id ||
        y.worth <= x.worth ||
        x.worth > STANDS_BESIDE * y.worth,
    );
  const without = (id: string, title: string): Choice => ({ id, title, repair: undefined, source: undefined });
  const sorted = list.sort((a, b) => b.worth - a.worth);
  const best = new Set(sorted.filter(likeliest).slice(0, MOST_CHOICES));
  return [
    ...sorted.filter((x) => best.has(x) || space.asked.has(x.choice.repair.id)).map((x) => x.choice),
    without(LEAVE_ID, "Leave it as it is"),
    ...(vehicleValue === null ? [] : [without(SELL_ID, "Sell or scrap it as it is")]),
  ];
}
