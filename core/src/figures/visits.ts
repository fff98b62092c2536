import { type Entry, type EntryOf, foldJob, type JobState } from "../job/index.ts";
import { agreedPrice, decidedOption, estimateAgainst } from "../report/index.ts";

/** A job with its timeline. */
export interface JobOfShop {
  readonly number: string;
  readonly customer: string;
  readonly vehicle: string;
  readonly entries: readonly Entry[];
}

/** One stay of a vehicle, from intake or comeback to its hand-over. */
export interface Visit {
  readonly number: string;
  readonly customer: string;
  readonly vehicle: string;
  /** of the hand-over */
  readonly at: string;
  readonly state: JobState;
  readonly decision: EntryOf<"decision"> | undefined;
  /** a repair was tried in this stay and did not cure */
  readonly triedBefore: boolean;
  /** it came back later, and the repair did not last */
  readonly cameBack: boolean;
}

/** The stays of a job that ended with a hand-over. What was taken back counts nowhere. */
export function visitsOf({ number, customer, vehicle, entries }: JobOfShop): Visit[] {
  const takenBack = new Set(entries.flatMap((e) => (e.kind === "retraction" ? [e.body.entryId] : [])));
  const standing = entries.filter((e) => !takenBack.has(e.id) && e.kind !== "retraction");
  const comebacks = standing.filter((e): e is EntryOf<"comeback"> => e.kind === "comeback");
  const begins = [0, ...comebacks.map((c) => c.seq)];
  return begins.flatMap((from, i) => {
    const to = begins[i + 1] ?? Number.POSITIVE_INFINITY;
    const handover = standing.findLast((e) => e.kind === "handover" && e.seq > from && e.seq < to);
    if (!handover) return [];
    const state = foldJob(standing.filter((e) => e.seq <= handover.seq));
    // a comeback writes each repair that did not last as tried, right after itself: that is of the stay before
    const written = comebacks[i - 1]?.body.repairId?.split("+").length ?? 0;
    return {
      number,
      customer,
      vehicle,
      at: handover.at,
      state,
      decision: state.decision,
      triedBefore: standing.some((e) => e.kind === "tried" && e.seq > from + written && e.seq < handover.seq),
      cameBack: comebacks.some((c) => c.seq === to && c.body.repairId !== null),
    };
  });
}

/** One line of money, for books that are kept elsewhere. */
export interface MoneyLine {
  readonly day: string;
  readonly job: string;
  readonly customer: string;
  readonly vehicle: string;
  readonly kind: string;
  readonly what: string;
  readonly quantity: number;
  readonly each: number;
  /** without tax; a deposit is less than nothing */
  readonly amount: number;
  /** undefined: not known, the price was computed */
  readonly taxPercent: number | undefined;
}

/** What a stay comes to: the lines of its estimate, or its price as it was decided, and what was paid beforehand. */
export function moneyLines({ number, customer, vehicle, at, state, decision }: Visit): MoneyLine[] {
  if (!decision) return [];
  const head = { day: at.slice(0, 10), job: number, customer, vehicle };
  const estimate = state.estimates.find((e) => e.body.optionId === decidedOption(decision.body))?.body;
  const price = agreedPrice(state);
  const lines: MoneyLine[] = estimate
    ? estimate.lines.map((l) => ({
        ...head,
        kind: l.kind,
        what: l.what,
        quantity: l.quantity,
        each: l.each,
        amount: l.quantity * l.each,
        taxPercent: estimate.taxPercent,
      }))
    : price
      ? [
          {
            ...head,
            kind: "price",
            what: decision.body.title,
            quantity: 1,
            each: price.net,
            amount: price.net,
            taxPercent: undefined,
          },
        ]
      : [];
  const deposit = state.approval?.body.deposit;
  if (deposit)
    lines.push({
      ...head,
      kind: "deposit",
      what: "Paid beforehand",
      quantity: 1,
      each: -deposit,
      amount: -deposit,
      taxPercent: 0,
    });
  return lines;
}

/** Hours of a stay as estimated and as they were taken; undefined where one of them is not known. */
export function hoursOf({
  state,
}: Pick<Visit, "state">): { readonly estimatedH: number; readonly takenH: number } | undefined {
  const against = estimateAgainst(state);
  return against && against.takenH > 0 ? { estimatedH: against.estimatedH, takenH: against.takenH } : undefined;
}
