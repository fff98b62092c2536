/** Share of the old fluid that is left after n drain-and-fills of d out of C litres: (1 − d/C)ⁿ. */
export function leftAfterDrains(times: number, drainL: number, totalL: number): number {
  if (!(drainL > 0 && totalL > 0 && drainL <= totalL))
    throw new RangeError("a drain takes more than nothing and at most all there is");
  return (1 - drainL / totalL) ** times;
}

/**
 * Share of the old fluid that is left after V litres were passed through in exchange: between plug flow max(0, 1 − V/C),
 * where new pushes old out in front of it, and ideal mixing exp(−V/C).
 * @param mixing - 0 plug flow … 1 ideal mixing
 */
export function leftAfterExchange(passedL: number, totalL: number, mixing: number): number {
  if (!(passedL >= 0 && totalL > 0 && mixing >= 0 && mixing <= 1))
    throw new RangeError("litres are not negative and mixing is between 0 and 1");
  const share = passedL / totalL;
  return mixing * Math.exp(-share) + (1 - mixing) * Math.max(0, 1 - share);
}

/** Exchange through the cooler line mixes in pan and converter. Typical; between the two bounds. */
export const TYPICAL_MIXING = 0.6;

export interface Prices {
  readonly perLitre: number;
  readonly perHour: number;
}

/** Minutes of work. Typical for the trade. */
export const RENEWAL_MINUTES = { drain: 40, driveBetween: 20, exchangeSetUp: 45, exchangePerLitre: 1.5 } as const;
const MOST_DRAINS = 8;

export interface RenewalOption {
  readonly kind: "drain-and-fill" | "exchange";
  readonly times: number;
  readonly litres: number;
  /** share of fresh fluid afterwards, 0…1 */
  readonly fresh: number;
  readonly minutes: number;
  readonly cost: number;
  readonly reaches: boolean;
}

export interface RenewalInput {
  readonly totalL: number;
  readonly drainL: number;
  /** share of fresh fluid aimed at, 0…1 */
  readonly target: number;
  readonly mixing: number;
  readonly prices: Prices;
  /** false: the unit has no cooler line to exchange through */
  readonly exchangeable: boolean;
}

/** Litres that must pass through to leave a share of the old: the inverse of {@link leftAfterExchange}, by halving. */
export function exchangeLitresFor(left: number, totalL: number, mixing: number): number {
  if (left >= 1) return 0;
  let low = 0;
  let high = totalL;
  while (leftAfterExchange(high, totalL, mixing) > left && high < totalL * 20) high *= 2;
  for (let i = 0; i < 60; i++) {
    const middle = (low + high) / 2;
    if (leftAfterExchange(middle, totalL, mixing) > left) low = middle;
    else high = middle;
  }
  return high;
}

/**
 * Ways to renew the fluid to a target freshness with litres, minutes and cost, cheapest of those that reach it first. A
 * drain that takes all leaves nothing to repeat.
 */
export function renewalOptions(input: RenewalInput): RenewalOption[] {
  const { totalL, drainL, target, mixing, prices, exchangeable } = input;
  const money = (litres: number, minutes: number) => litres * prices.perLitre + (minutes / 60) * prices.perHour;
  const drains: RenewalOption[] = [];
  for (let times = 1; times <= MOST_DRAINS; times++) {
    const fresh = 1 - leftAfterDrains(times, drainL, totalL);
    const litres = times * drainL;
    const minutes = times * RENEWAL_MINUTES.drain + (times - 1) * RENEWAL_MINUTES.driveBetween;
    const reaches = fresh >= target;
    drains.push({ kind: "drain-and-fill", times, litres, fresh, minutes, cost: money(litres, minutes), reaches });
    if (reaches) break;
  }
  const options = [...drains];
  if (exchangeable) {
    const litres = Math.ceil(exchangeLitresFor(1 - target, totalL, mixing) * 2) / 2;
    const minutes = RENEWAL_MINUTES.exchangeSetUp + litres * RENEWAL_MINUTES.exchangePerLitre;
    const fresh = 1 - leftAfterExchange(litres, totalL, mixing);
    options.push({
      kind: "exchange",
      times: 1,
      litres,
      fresh,
      minutes,
      cost: money(litres, minutes),
      reaches: fresh >= target,
    });
  }
  return options.sort((a, b) => Number(b.reaches) - Number(a.reaches) || a.cost - b.cost || a.litres - b.litres);
}

export interface FreshnessPoint {
  readonly litres: number;
  /** shares of fresh fluid */
  readonly exchange: number;
  readonly plug: number;
  readonly mixed: number;
  /** steps at whole drains */
  readonly drains: number;
}

/** Freshness against litres used, for a chart: both bounds of an exchange, the exchange itself, repeated drains. */
export function freshnessCurve(
  totalL: number,
  drainL: number,
  mixing: number,
  mostL: number,
  points = 60,
): FreshnessPoint[] {
  return Array.from({ length: points + 1 }, (_, i) => {
    const litres = (mostL * i) / points;
    return {
      litres,
      exchange: 1 - leftAfterExchange(litres, totalL, mixing),
      plug: 1 - leftAfterExchange(litres, totalL, 0),
      mixed: 1 - leftAfterExchange(litres, totalL, 1),
      drains: 1 - leftAfterDrains(Math.floor(litres / drainL + 1e-9), drainL, totalL),
    };
  });
}

/** What is to be said before fluids meet. @param inUnit - specification of what is in it; undefined = nobody knows */
export function mixingWarnings(unitSpec: string, inUnit: string | undefined, toFill: string, left: number): string[] {
  const same = (a: string, b: string) => a.trim().toLowerCase() === b.trim().toLowerCase();
  const out: string[] = [];
  if (!same(toFill, unitSpec))
    out.push(
      `"${toFill}" is not what the unit file asks for (${unitSpec}). Friction and viscosity differ: do not fill it without the maker's word.`,
    );
  if (inUnit === undefined || inUnit.trim() === "")
    out.push(
      `What is in it is unknown, and ${Math.round(left * 100)} % of it would stay. Renew to 95 % or more, and change again soon.`,
    );
  else if (!same(inUnit, toFill))
    out.push(
      `"${inUnit}" is in it and ${Math.round(left * 100)} % of it would stay mixed with "${toFill}". Keep what stays under 5 %.`,
    );
  return out;
}
