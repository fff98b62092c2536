import type { EntryOf, JobState } from "../job/index.ts";
import { agreedPrice, decidedOption } from "./agreed.ts";

/** The customer's word, and whether it still is on what is offered. */
export interface ApprovalNow {
  readonly approval: EntryOf<"approval">;
  /** undefined: what was agreed to is what is offered; otherwise in words, money as it comes */
  readonly moved: { readonly what: "option" } | { readonly what: "price"; readonly net: number } | undefined;
}

/** More than this between what was agreed and what is asked is another price, money. */
const SAME_PRICE = 0.5;

/** @returns undefined while nobody has agreed, or nothing is decided any more */
export function approvalNow(state: Pick<JobState, "approval" | "decision" | "estimates">): ApprovalNow | undefined {
  const { approval, decision } = state;
  if (!approval || !decision) return undefined;
  const { optionId, net } = approval.body;
  if (optionId !== decidedOption(decision.body)) return { approval, moved: { what: "option" } };
  const asked = agreedPrice(state)?.net ?? net;
  return { approval, moved: Math.abs(asked - net) > SAME_PRICE ? { what: "price", net: asked } : undefined };
}

/** What was agreed to, for papers. */
export function approvalLines({ approval, moved }: ApprovalNow, currency: string): string[] {
  const { by, how, title, net, withTax, deposit, terms, note } = approval.body;
  const day = approval.at.slice(0, 10);
  return [
    `${by} ${how === "signed" ? "signed" : "agreed by word"} on ${day}: ${title}, ${net.toFixed(2)} ${currency}, with tax ${withTax.toFixed(2)} ${currency}.`,
    deposit === null ? "" : `Paid beforehand: ${deposit.toFixed(2)} ${currency}.`,
    moved?.what === "price" ? `Offered now: ${moved.net.toFixed(2)} ${currency} without tax; not agreed to yet.` : "",
    moved?.what === "option" ? "Another option was chosen since; not agreed to yet." : "",
    terms === "" ? "" : `Terms: ${terms}`,
    note,
  ].filter((line) => line !== "");
}
