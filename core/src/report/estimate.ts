import type { EntryBodies, JobState } from "../job/index.ts";
import { formatHours } from "../quantity/index.ts";
import { type Price, type Repair, sumsOf } from "../suspect/index.ts";
import { type ApprovalNow, approvalLines } from "./approval.ts";
import type { Report, ReportSection } from "./report.ts";

export interface EstimateInput {
  readonly shopName: string;
  readonly currency: string;
  readonly hourlyRate: number;
  readonly jobNumber: string;
  readonly madeOn: string;
  readonly validUntil: string;
  readonly vehicle: { readonly name: string; readonly plate: string; readonly owner: string };
  /** as it is written, with its unit */
  readonly odometer: string;
  readonly state: JobState;
  readonly decision: EntryBodies["decision"];
  /** what was chosen; undefined when nothing is repaired */
  readonly offer:
    | {
        readonly repair: Repair;
        readonly price: Price;
        /** as the shop typed them; absent: as computed */
        readonly typed: EntryBodies["estimate"] | undefined;
      }
    | undefined;
  /** the shop's warranty terms; empty: none */
  readonly terms: string;
  readonly approval: ApprovalNow | undefined;
  /** what else fits this fault, an exchange among them */
  readonly others: readonly { readonly title: string; readonly price: number; readonly cures: number }[];
  readonly standingCaution: string;
}

const chance = (p: number) =>
  p >= 0.9 ? "very likely" : p >= 0.7 ? "likely" : p >= 0.4 ? "about as likely as not" : "not likely";

/** The estimate sheet for the customer: what was found, what is proposed, what it costs, from when to when it holds. Pure. */
export function buildEstimate(input: EstimateInput): Report {
  const { decision, offer, state } = input;
  const money = (n: number) => `${input.currency} ${Math.round(n)}`;
  const exact = (n: number) => `${input.currency} ${n.toFixed(2)}`;
  const sections: ReportSection[] = [];
  const add = (
    id: string,
    title: string,
    paragraphs: readonly (string | undefined | false)[],
    table?: ReportSection["table"],
  ) => sections.push({ id, title, paragraphs: paragraphs.filter((p): p is string => Boolean(p)), table });
  add("complaint", "What you told us", [state.intake && `“${state.intake.body.complaint}”`]);
  add("found", "What we found", [
    decision.odds[0] &&
      `Most likely: ${decision.odds[0].title} (${Math.round(decision.odds[0].probability * 100)} of 100).`,
    decision.odds.length > 1 &&
      `Also possible: ${
        decision.odds
          .slice(1)
          .filter((o) => o.probability >= 0.02)
          .map((o) => `${o.title} (${Math.round(o.probability * 100)} of 100)`)
          .join("; ") || "nothing worth naming"
      }.`,
    state.checks.length > 0 &&
      `Checks made: ${state.checks.map((c) => `${c.body.title}: ${c.body.outcomeLabel.toLowerCase()}`).join("; ")}.`,
    !decision.levelKnown && "The fluid level was not recorded before this estimate.",
  ]);
  add("proposed", "What we propose", [
    decision.title,
    `It is ${chance(decision.cures)} that this cures it (${Math.round(decision.cures * 100)} of 100).`,
    `Why: ${decision.reason}`,
  ]);
  if (offer) {
    const { repair, price, typed } = offer;
    const source = repair.sources?.find((x) => x.id === decision.source);
    const lines = typed?.lines ?? price.lines;
    const { labourCost, partsCost } = sumsOf(lines);
    const net = labourCost + partsCost;
    const spread = labourCost / (price.labourCost || 1);
    const rows = lines.map((l) => [
      l.what,
      l.kind === "labour"
        ? `${formatHours(l.quantity)} h`
        : l.kind === "fluid"
          ? `${l.quantity.toFixed(1)} l`
          : String(l.quantity),
      exact(l.each),
      exact(l.quantity * l.each),
    ]);
    rows.push(["Price", "", "", exact(net)]);
    if (typed) {
      rows.push([`Tax ${typed.taxPercent} %`, "", "", exact((net * typed.taxPercent) / 100)]);
      rows.push(["Together", "", "", exact(net * (1 + typed.taxPercent / 100))]);
    }
    sections.push({
      id: "price",
      title: typed ? "Price" : "Price, without tax",
      paragraphs: [
        `Between ${money(price.hours[0] * input.hourlyRate * spread + partsCost)} and ${money(price.hours[2] * input.hourlyRate * spread + partsCost)}${typed ? " before tax" : ""}, depending on how the work goes. We ask before it becomes more.`,
        ...(typed?.note ? [typed.note] : []),
      ],
      table: { columns: ["For", "Quantity", "Each", "Amount"], rows },
    });
    add("time", "Time and warranty", [
      typed?.leadDays != null
        ? `Part: ${typed.leadDays} working ${typed.leadDays === 1 ? "day" : "days"}, as quoted.`
        : source && `Part: about ${source.leadDays[1]} working days (${source.leadDays[0]} to ${source.leadDays[2]}).`,
      source && `Warranty on the part: ${source.warrantyMonths} months.`,
    ]);
  }
  add("if-not", "If it does not cure", [
    decision.spread
      ? `Counting the vehicles that come back, all costs together stay under ${money(decision.spread[1])} in half of such cases and under ${money(decision.spread[2])} in nine of ten.`
      : `Counting the vehicles that come back, all costs together are ${money(decision.expectedCost)} on average.`,
    "Nothing further is done without your word.",
  ]);
  if (input.others.length > 0)
    sections.push({
      id: "others",
      title: "What else fits this fault",
      paragraphs: [],
      table: {
        columns: ["Option", "Price", "Cures"],
        rows: input.others.map((o) => [
          o.title,
          money(o.price),
          `${chance(o.cures)} (${Math.round(o.cures * 100)} of 100)`,
        ]),
      },
    });
  add("terms", "Terms", [input.terms]);
  const agreed = input.approval?.moved ? undefined : input.approval;
  add("holds", "How long it holds", [
    `Made on ${input.madeOn}, holds until ${input.validUntil}. It is an estimate, not a fixed price.`,
    !agreed && "Agreed: ______________________________    Date: ______________",
  ]);
  if (agreed)
    sections.push({
      id: "approval",
      title: "Agreed",
      paragraphs: approvalLines(agreed, input.currency),
      signature: agreed.approval.body.signature,
    });
  return {
    title: `Estimate · job ${input.jobNumber}`,
    subtitle: `${input.shopName} · for ${input.vehicle.owner} · ${input.vehicle.name}${input.vehicle.plate ? `, ${input.vehicle.plate}` : ""}, ${input.odometer}`,
    sections: sections.filter((s) => s.paragraphs.length > 0 || (s.table?.rows.length ?? 0) > 0),
    bars: [],
    caution: input.standingCaution,
  };
}
