import type { JobState } from "../job/index.ts";
import type { Money, OwnPrice } from "./plan/price.ts";

/** Labour and parts of the lines of an estimate, money. */
export function sumsOf(
  lines: readonly { readonly kind: string; readonly quantity: number; readonly each: number }[],
): OwnPrice {
  const sum = (labour: boolean) =>
    lines.filter((l) => (l.kind === "labour") === labour).reduce((s, l) => s + l.quantity * l.each, 0);
  return { labourCost: sum(true), partsCost: sum(false) };
}

/** The shop's rate, with the prices that were typed for options of this job and the parts that are said to be there. */
export const moneyOf = (state: Pick<JobState, "estimates" | "sources">, hourlyRate: number): Money => ({
  hourlyRate,
  own: Object.fromEntries(
    state.estimates.map(({ body }) => [
      body.optionId,
      { ...sumsOf(body.lines), ...(body.leadDays == null ? {} : { leadDays: body.leadDays }) },
    ]),
  ),
  have: state.sources?.body.have ?? [],
});
