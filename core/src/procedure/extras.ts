import type { Unit } from "../unit/index.ts";
import type { Plan } from "./compose.ts";
import type { Procedure } from "./procedure.ts";
import { fits, traitsOf } from "./traits.ts";
import type { Conditions } from "./ways.ts";
import { wearOf } from "./ways.ts";

/** What is worth doing while something else is open: it shares the labour. */
export interface Extra {
  readonly id: string;
  readonly title: string;
  readonly why: string;
  readonly parts: readonly { readonly name: string; readonly cost: number }[];
  readonly minutes: number;
  /** parts and hands, now, money */
  readonly nowCost: number;
  /** that it has to be done within the time the owner keeps the vehicle, 0…1 */
  readonly odds: number;
  /** parts and hands when everything has to come off for it again, money */
  readonly laterCost: number;
  /** what it is worth to do it now: later cost times its odds, less what it costs now; above 0 it pays */
  readonly worth: number;
  /** it is part of the plan */
  readonly taken: boolean;
}

/** Odds that hold for so many years on. */
const ODDS_YEARS = 4;

const openedBy = (plan: Plan): ReadonlySet<string> => new Set(plan.steps.flatMap((s) => s.opens ?? []));

/** Extras that a unit has and that a plan opens the way to. */
export const extraProcedures = (library: readonly Procedure[], unit: Unit, plan: Plan): Procedure[] => {
  const traits = traitsOf(unit);
  const open = openedBy(plan);
  return library.filter(
    (p) =>
      p.extra !== undefined && fits(traits, p.when) && p.steps.every((s) => (s.needs ?? []).every((n) => open.has(n))),
  );
};

/**
 * Parts that share the labour of a plan, dearest to leave first: cost now against cost later times its odds. Later the way in is
 * paid once more: every step of the plan but what was done for the repair itself is taken as that way, which is on the high side
 * when the repair itself is long.
 * @param ratePerH - money an hour of one person
 * @param keepYears - how long the owner keeps it; null: as long as the odds are for
 */
export function extrasOf(
  library: readonly Procedure[],
  unit: Unit,
  plan: Plan,
  conditions: Pick<Conditions, "ageYears" | "odometerKm" | "rust">,
  ratePerH: number,
  keepYears: number | null,
): Extra[] {
  const wayIn = accessMinutes(library, plan);
  return extraProcedures(library, unit, plan)
    .map((p): Extra => {
      const { parts, odds, by, why } = p.extra as NonNullable<Procedure["extra"]>;
      const minutes = p.steps.reduce((s, x) => s + x.minutes[1] * (x.people ?? 1), 0);
      const partsCost = parts.reduce((s, x) => s + x.cost, 0);
      const years = keepYears ?? ODDS_YEARS;
      // the same hazard year by year
      const likely = 1 - (1 - odds) ** (wearOf(by, conditions) * (years / ODDS_YEARS));
      const nowCost = partsCost + (minutes / 60) * ratePerH;
      const laterCost = partsCost + ((minutes + wayIn) / 60) * ratePerH;
      return {
        id: p.id,
        title: p.title,
        why,
        parts,
        minutes,
        nowCost,
        odds: likely,
        laterCost,
        worth: likely * laterCost - nowCost,
        taken: plan.procedures.includes(p.id),
      };
    })
    .sort((a, b) => b.worth - a.worth);
}

/** Minutes of hands of the procedures that open something: what would be paid again. */
function accessMinutes(library: readonly Procedure[], plan: Plan): number {
  const opening = new Set(
    library.filter((p) => plan.procedures.includes(p.id) && p.steps.some((s) => s.opens)).map((p) => p.id),
  );
  return plan.steps.filter((s) => opening.has(s.procedure)).reduce((sum, s) => sum + s.minutes[1] * (s.people ?? 1), 0);
}
