import type { AskedFor } from "./asked.ts";
import { occasionsNeeded, shownShare } from "./proof.ts";

/** A complaint as intake has made it precise, with how often it came. */
export interface FeltComplaint extends AskedFor {
  /** in words: "slips" */
  readonly what: string;
  readonly howOften?: "always" | "often" | "sometimes" | "once" | undefined;
}

/** What somebody felt in one gear or shift on a drive without a log. */
export interface FeltDrive {
  /** gear "4" or shift "2-3"; empty: anywhere */
  readonly where: string;
  /** times that it was driven as the complaint says */
  readonly times: number;
  /** of these, times that the fault was felt */
  readonly felt: number;
  readonly load: AskedFor["load"];
  readonly temperature: AskedFor["temperature"];
}

export interface FeltProof {
  /** "slips, gear 4, hot" */
  readonly complaint: string;
  readonly verdict: "gone" | "not shown yet" | "same" | "not exercised";
  readonly times: number;
  readonly reason: string;
  /** what is still to be driven */
  readonly drive?: string | undefined;
}

/**
 * How often a complaint shows itself when it is driven as the customer says, by the customer's own words. Nobody counts:
 * "always" is taken as nine times in ten, "often" as six, "sometimes" as one in three.
 */
const SHARE: Readonly<Record<NonNullable<FeltComplaint["howOften"]>, number>> = {
  always: 0.9,
  often: 0.6,
  sometimes: 1 / 3,
  once: shownShare(1, 20),
};
const UNSAID = SHARE.often;

/**
 * Without a log a road test can prove too, felt and not measured: a complaint is gone when it was driven as the customer
 * drives it so often that it would have shown with 95 %, and was not felt once.
 */
export function feltProofs(complaints: readonly FeltComplaint[], drives: readonly FeltDrive[]): FeltProof[] {
  return complaints.flatMap((c) =>
    (c.where.length > 0 ? c.where : [""]).map((where) => {
      const own = drives.filter((d) => d.where === where && meets(c, d));
      const times = own.reduce((s, d) => s + d.times, 0);
      const felt = own.reduce((s, d) => s + d.felt, 0);
      const needed = occasionsNeeded(c.howOften ? SHARE[c.howOften] : UNSAID);
      return { complaint: complaintWords(c, where), times, ...judged(times, felt, needed) };
    }),
  );
}

function judged(times: number, felt: number, needed: number): Pick<FeltProof, "verdict" | "reason" | "drive"> {
  const asTheCustomer = (n: number, more = "") =>
    `${n} ${n === 1 ? "time" : "times"}${more}, as the customer drives it`;
  if (times === 0) return { verdict: "not exercised", reason: "Not driven yet.", drive: asTheCustomer(needed) };
  if (felt > 0) return { verdict: "same", reason: `Felt ${felt} of ${times} times.` };
  if (times < needed)
    return {
      verdict: "not shown yet",
      reason: `Not felt in ${times} of the ${needed} times that it takes to be sure.`,
      drive: asTheCustomer(needed - times, " more"),
    };
  return { verdict: "gone", reason: `Not felt in ${times} times; ${needed} were needed.` };
}

/** A drive under any load may have been a light one: a complaint that asks for a hard pull is met by a hard pull only. */
const meets = (asked: FeltComplaint, d: FeltDrive): boolean =>
  (asked.load === "any" || asked.load === d.load) &&
  (asked.temperature === "any" || asked.temperature === d.temperature);

function complaintWords({ what, load, temperature }: FeltComplaint, where: string): string {
  return [
    what,
    where === "" ? [] : where.includes("-") ? `shift ${where}` : `gear ${where}`,
    load === "any" ? [] : load === "coast" ? "coasting" : `${load} load`,
    temperature === "any" ? [] : temperature,
  ]
    .flat()
    .join(", ");
}

/** One sentence over all complaints, for sign-off and report. */
export function feltSentence(proofs: readonly FeltProof[]): string {
  const of = (v: FeltProof["verdict"]) => proofs.filter((p) => p.verdict === v).map((p) => p.complaint);
  const [gone, same, open] = [of("gone"), of("same"), [...of("not shown yet"), ...of("not exercised")]];
  const parts = [
    gone.length > 0 ? [`gone: ${gone.join("; ")}`] : [],
    same.length > 0 ? [`still felt: ${same.join("; ")}`] : [],
    open.length > 0 ? [`not proved yet: ${open.join("; ")}`] : [],
  ].flat();
  return parts.length === 0 ? "" : `Felt on a road test, not measured: ${parts.join(". ")}.`;
}
